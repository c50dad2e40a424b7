import { breather, conjugate, quatAt, rotate, sub, vec3At, type WorkOptions } from '../math'
import { cellCentre, pointGrid, type Mesh, type Voxels } from '../mesh'
import { bindPose, type Skeleton } from '../skeleton'
import type { Skin } from '../skin'

/** Room that a body's flesh takes, by the joint that moves it. */
export interface JointVolumes {
  /** J: cubic metres. */
  readonly volumes: Float64Array
  /** 3·J: their centres, in each joint's own space as bound. */
  readonly centres: Float64Array
}

/** Cells looked at are no more than this: every so-manieth of a finer body. */
const LOOKED_AT = 40_000
/** The nearest surface is looked for as far as this many cells. */
const FAR = 24

/**
 * Gives every solid cell of a body to the joints that move the surface nearest to it, as the skin shares them: cells deep in the
 * trunk go with the trunk, as they do in a body.
 * @param solid the body in cells, in the space it was bound in
 */
export async function volumesByJoint(
  mesh: Mesh,
  skeleton: Skeleton,
  skin: Skin,
  solid: Voxels,
  work: WorkOptions = {},
): Promise<JointVolumes> {
  const J = skeleton.names.length
  const breathe = breather(work)
  const grid = pointGrid(mesh.positions, solid.size)
  const volumes = new Float64Array(J)
  const moments = new Float64Array(3 * J)
  const n = solid.cells.length
  const each = Math.max(1, Math.ceil(n / LOOKED_AT))
  const cell = solid.size ** 3 * each
  const k = skin.influences
  let before = -1
  for (let s = 0; s < n; s += each) {
    if (s % (each * 512) === 0) await breathe(s / n)
    const at = cellCentre(solid, s)
    const near = grid.nearest(at[0], at[1], at[2], FAR)
    const v = near >= 0 ? near : before
    if (v < 0) continue
    before = v
    for (let i = k * v; i < k * (v + 1); i++) {
      const w = cell * skin.weights[i]
      if (w === 0) continue
      const j = skin.joints[i]
      volumes[j] += w
      for (let c = 0; c < 3; c++) moments[3 * j + c] += w * at[c]
    }
  }
  const bind = bindPose(skeleton)
  const centres = new Float64Array(3 * J)
  for (let j = 0; j < J; j++) {
    if (volumes[j] <= 0) continue
    const mean = vec3At(moments, j).map(m => m / volumes[j]) as [number, number, number]
    centres.set(rotate(conjugate(quatAt(bind.rotations, j)), sub(mean, vec3At(bind.positions, j))), 3 * j)
  }
  return { volumes, centres }
}
