import { type WorkOptions } from '../math'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import { embed, quadEdges } from './embed'
import { fit } from './fit'
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
  const on = process.env.NOFIT ? new Uint8Array(layout.complex.vertices) : await fit(layout, limbs, target, edges, embedded, height, work)
  return { layout, places: embedded.places, told: embedded.told, on, limbs, target, edges }
}
