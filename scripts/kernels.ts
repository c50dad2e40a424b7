// Turns the WebAssembly text of the core into modules that carry it: what ships needs no assembler and no file beside it.
import { readFileSync, writeFileSync } from 'node:fs'
import { pathToFileURL } from 'node:url'
import assembler from 'wabt'

/** Where the text is, and the module made of it. */
export const KERNELS = [{ text: 'core/src/skin/blend.wat', module: 'core/src/skin/blend-kernel.ts' }]

/** The module for a kernel, as it is kept. */
export async function moduleOf(text: string): Promise<string> {
  const wabt = await assembler()
  const { buffer } = wabt.parseWat(text, readFileSync(text, 'utf8'), { simd: true }).toBinary({})
  const lines =
    Buffer.from(buffer)
      .toString('base64')
      .match(/.{1,100}/g) ?? []
  const body = lines.map(line => `  '${line}'`).join(' +\n')
  return `// Made from ${text.split('/').pop()} by \`npm run kernels\`.\nexport const KERNEL =\n${body}\n`
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? '').href)
  for (const { text, module } of KERNELS) writeFileSync(module, await moduleOf(text))
