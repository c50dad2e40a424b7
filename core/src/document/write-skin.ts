import { compose, invertAffine, quatAt, vec3At } from '../math'
import { bindPose } from '../skeleton'
import type { Skin } from '../skin'
import type { Draft } from './draft'
import type { FigureToWrite } from './figure'
import type { WrittenJoints } from './write-nodes'

/** Weights as attributes, four joints a set, as many sets as are used. */
export function writeWeights(draft: Draft, skin: Skin, numberOf: (joint: number) => number): Record<string, number> {
  const { influences, joints, weights } = skin
  const vertices = weights.length / influences
  let used = 1
  for (let v = 0; v < vertices; v++)
    for (let k = influences - 1; k >= used; k--)
      if (weights[v * influences + k] > 0) {
        used = k + 1
        break
      }
  const out: Record<string, number> = {}
  for (let s = 0; s < Math.ceil(used / 4); s++) {
    const j4 = new Uint16Array(4 * vertices)
    const w4 = new Float32Array(4 * vertices)
    for (let v = 0; v < vertices; v++)
      for (let k = 0; k < 4 && 4 * s + k < influences; k++) {
        const i = v * influences + 4 * s + k
        if (!(weights[i] > 0)) continue
        w4[4 * v + k] = weights[i]
        j4[4 * v + k] = numberOf(joints[i])
      }
    const small = j4.every(j => j < 256)
    out[`JOINTS_${s}`] = draft.accessor(small ? Uint8Array.from(j4) : j4, 'VEC4', { use: 'attribute' })
    out[`WEIGHTS_${s}`] = draft.accessor(w4, 'VEC4', { use: 'attribute' })
  }
  return out
}

/**
 * A skin of all joints, bound where the figure is. It takes the place of one that nothing else is bound by.
 * @param instead the number of a skin that is given up
 */
export function writeSkin(draft: Draft, figure: FigureToWrite, joints: WrittenJoints, instead: number): number {
  const skeleton = figure.skeleton!
  const bind = bindPose(skeleton)
  const matrices = new Float32Array(16 * joints.nodes.length)
  joints.nodes.forEach((_, j) => {
    const place = compose(vec3At(bind.positions, j), quatAt(bind.rotations, j), joints.scale[j])
    matrices.set(invertAffine(place)!, 16 * j)
    // the format wants this row to the letter
    for (const [at, value] of [
      [3, 0],
      [7, 0],
      [11, 0],
      [15, 1],
    ])
      matrices[16 * j + at] = value
  })
  const roots = joints.nodes.filter((_, j) => skeleton.parents[j] < 0)
  const skins = (draft.json.skins ??= [])
  const before = skins[instead]
  const { skeleton: _, ...told } = before ?? { name: figure.name }
  const skin = {
    ...told,
    joints: [...joints.nodes],
    inverseBindMatrices: draft.accessor(matrices, 'MAT4'),
    ...(roots.length === 1 && { skeleton: roots[0] }),
  }
  if (!before) return skins.push(skin) - 1
  skins[instead] = skin
  return instead
}
