import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { hashBytes } from '@chiraxis/core/recipe'
import { writeBvh, writeGlb } from '@chiraxis/core/formats'
import { makeFigure, ODA, ODA_COLORS, PIM, PIM_COLORS, type Palette, type Proportions } from './figures'
import { MOVES, NORTH, record, SOUTH } from './takes'

/** Everything the demo ships, in a fixed order: file name and bytes. */
export async function buildDemo(): Promise<{ name: string; bytes: Uint8Array }[]> {
  const files: { name: string; bytes: Uint8Array }[] = []
  const truth: Record<string, unknown> = {}
  const figures: [string, string, Proportions, Palette, number][] = [
    ['oda-marl', 'Oda Marl', ODA, ODA_COLORS, 20_000],
    ['pim', 'Pim', PIM, PIM_COLORS, 20_000],
    ['pim-dense', 'Pim', PIM, PIM_COLORS, 100_000],
  ]
  for (const [file, name, proportions, palette, vertices] of figures) {
    const made = makeFigure(proportions, { vertices, palette, eyes: true })
    files.push({ name: `${file}.glb`, bytes: await writeGlb({ name, mesh: made.mesh }) })
    truth[file] = { height: made.height, joints: made.joints }
  }
  const contacts: Record<string, unknown> = {}
  for (const move of MOVES) {
    for (const habit of [NORTH, SOUTH]) {
      const { skeleton, take, contacts: true_ } = record(move, habit)
      files.push({ name: `${fileName(move.name)}.${habit.name.toLowerCase()}.bvh`, bytes: writeBvh(skeleton, take) })
      contacts[move.name] = true_
    }
  }
  files.push({ name: 'truth.json', bytes: new TextEncoder().encode(JSON.stringify({ figures: truth, contacts })) })
  const index = {
    figures: figures.map(([file, name]) => ({ file: `${file}.glb`, name })),
    takes: MOVES.flatMap(m => [NORTH, SOUTH].map(h => ({ file: `${fileName(m.name)}.${h.name.toLowerCase()}.bvh`, name: m.name, performer: h.name }))),
    hashes: Object.fromEntries(files.map(f => [f.name, hashBytes(f.bytes)])),
  }
  files.push({ name: 'index.json', bytes: new TextEncoder().encode(JSON.stringify(index, null, 1)) })
  return files
}

const fileName = (take: string): string => take.replace(/\s+/g, '-')

const out = process.argv[2]
if (out) {
  mkdirSync(out, { recursive: true })
  for (const { name, bytes } of await buildDemo()) writeFileSync(join(out, name), bytes)
}
