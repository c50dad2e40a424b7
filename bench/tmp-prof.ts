import { readBvh, writeBvh, writeGlb } from '@chiraxis/core/formats'
import { emptyRecipe, hashBytes } from '@chiraxis/core/recipe'
import { createDerivation } from '@chiraxis/core/steps'
import { perform } from '@chiraxis/core/perform'
import { prepareTransfer, transfer } from '@chiraxis/core/retarget'
import { makeFigure, ODA } from '@chiraxis/demo/figures'
import { MOVES, record, SOUTH } from '@chiraxis/demo/takes'
void readBvh; void writeBvh
const bytes = await writeGlb({ name: 'Oda', mesh: makeFigure(ODA, { vertices: 12_000 }).mesh })
const derivation = createDerivation(async () => bytes)
const fresh = emptyRecipe('Oda')
const recipe = { ...fresh, body: { name: 'oda.glb', hash: hashBytes(bytes), size: bytes.length }, bones: { ...fresh.bones, plan: { ...fresh.bones.plan, fingers: { left: 0, right: 0 } } } }
const figure = (await derivation.get('rig', recipe)).skeleton, surface = await derivation.get('bodySurface', recipe)
const name = process.argv[2] ?? 'walk'
const r = record({ ...MOVES.find(m => m.name === name)!, seconds: 299 / 30 }, SOUTH)
const plan = prepareTransfer(r.skeleton, figure)
for (let i = 0; i < 30; i++) await perform(r.skeleton, r.take, figure, { plan, surface })
const n = Number(process.argv[3] ?? 100)
let best = Infinity
for (let i = 0; i < n; i++) { const t = performance.now(); await perform(r.skeleton, r.take, figure, { plan, surface }); best = Math.min(best, performance.now() - t) }
let b2 = Infinity
for (let i = 0; i < n; i++) { const t = performance.now(); await transfer(r.skeleton, r.take, figure, { plan }); b2 = Math.min(b2, performance.now() - t) }
console.log(name, 'perform', best.toFixed(2), 'ms; transfer', b2.toFixed(2))
