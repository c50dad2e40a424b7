import { build } from 'esbuild'
import { fileURLToPath } from 'node:url'

/** Builds the thread's program into one file that needs nothing beside it. */
export async function buildThread(outfile) {
  await build({
    entryPoints: [fileURLToPath(new URL('./thread.ts', import.meta.url))],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    logLevel: 'error',
    // packages that reach for require find it
    banner: {
      js: "import { createRequire as __createRequire } from 'node:module'; const require = __createRequire(import.meta.url);",
    },
  })
  return outfile
}
