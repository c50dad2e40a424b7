import { type WorkOptions } from '../math'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import { embed, quadEdges } from './embed'
import { drawing, fit } from './fit'
import { untangle } from './untangle'
import { layoutFor, type Density, type Layout } from './layout'
import { limbsOfBody } from './limbs'
import { measureLimbs } from './measured'
import { targetOf } from './target'

export async function makeLight(
  mesh: { positions: Float32Array; indices: Uint32Array },
  skeleton: Skeleton,
  skin: Skin,
  height: number,
  quads: number,
  density: Density = {},
  work: WorkOptions = {},
) {
  const tree = limbsOfBody(skeleton)
  if (!tree) throw new Error('no limbs')
  const target = await targetOf(mesh.positions, mesh.indices, skin, tree.ofJoint, tree.limbs.length, work)
  const limbs = await measureLimbs(target, tree, height, work)
  const layout: Layout = layoutFor(limbs, quads, height, density)
  const edges = quadEdges(layout.complex.vertices, layout.complex.quads)
  const embedded = await embed(layout, limbs, target, edges, work)
  const draw = drawing(layout, limbs, target, edges, embedded)
  const on = await fit(draw, embedded.told, height, work)
  const crossing = (globalThis as any).NOUNT
    ? 0
    : await untangle(embedded, layout.complex.quads, edges, draw, on, height, work)
  return { crossing, layout, places: embedded.places, told: embedded.told, on, limbs, target, edges }
}
