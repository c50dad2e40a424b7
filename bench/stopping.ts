/**
 * How soon every step could end when it is stopped, on a dense body: the longest stretch of work that lets no message in.
 */
import { readFileSync } from 'node:fs'
import { makeFigure, ODA } from '@chiraxis/demo/figures'
import { writeGlb } from '@chiraxis/core/formats'
import { emptyRecipe, hashBytes, type FileRef, type Recipe } from '@chiraxis/core/recipe'
import { createDerivation, type StepName } from '@chiraxis/core/steps'

const VERTICES = Number(process.argv[2] ?? 300_000)
const take = readFileSync('public/demo/walk.north.bvh')
const takeFile: FileRef = { name: 'walk-north.bvh', hash: hashBytes(take), size: take.length }
const { mesh } = makeFigure(ODA, { vertices: VERTICES })
const bytes = await writeGlb({ name: 'Oda', mesh })
const body: FileRef = { name: 'oda.glb', hash: hashBytes(bytes), size: bytes.length }
const recipe: Recipe = {
  ...emptyRecipe('Oda'),
  body,
  takes: [{ id: 'walk', name: 'walk', performer: 'North', file: takeFile, index: 0 }],
}
console.log(`${mesh.positions.length / 3} vertices`)
const source = async (file: FileRef): Promise<Uint8Array> => (file.hash === body.hash ? bytes : take)
const derivation = createDerivation(source, { budget: 8 * 2 ** 30 })

const ORDER: readonly (readonly [StepName, object])[] = [
  ['read', { of: { file: body, beside: [] } }],
  ['shape', {}],
  ['check', {}],
  ['asymmetry', {}],
  ['half', {}],
  ['found', {}],
  ['hands', {}],
  ['rig', {}],
  ['automaticSkin', {}],
  ['ground', {}],
  ['openSkin', {}],
  ['skin', {}],
  ['bodySurface', {}],
  ['strain', {}],
  ['performance', { of: 'walk' }],
  ['carried', { of: 'walk' }],
  ['corrected', { of: 'walk' }],
  ['findings', { of: ['walk'] }],
]
for (const [step, more] of ORDER) {
  // the longest stretch that lets no message in is how long a stop may go unheard
  let last = performance.now()
  let silence = 0
  let watching = true
  const watch = (): void => {
    const now = performance.now()
    silence = Math.max(silence, now - last)
    last = now
    if (watching) setTimeout(watch, 0)
  }
  setTimeout(watch, 0)
  const from = performance.now()
  await derivation.get(step as 'take', recipe, { of: undefined as never, ...more })
  const took = performance.now() - from
  await new Promise(done => setTimeout(done, 5))
  watching = false
  const [time, quiet] = [took, silence].map(ms => ms.toFixed(0).padStart(7))
  console.log(`${step.padEnd(14)} ${time} ms, longest silence ${quiet} ms${silence > 100 ? '  over 100' : ''}`)
}
