import type { SurfacePoint } from '../mesh'
import type { Skin } from './skin'

/** Joints a vertex may have while weights are being worked out; the limit asked for comes last. */
export const WORKING_INFLUENCES = 8

/** Adds up the influences of one vertex after another, each kept with its strongest joints. */
export interface Gatherer {
  add(joint: number, weight: number): void
  /** Writes what was added as the influences of a vertex, summing to one, and starts anew. */
  settle(vertex: number): void
}

/** A skin without any weight, to be filled. */
export const emptySkin = (vertices: number, influences = WORKING_INFLUENCES): Skin => ({
  influences,
  joints: new Uint16Array(influences * vertices),
  weights: new Float32Array(influences * vertices),
})

/** @param least weights below this share are dropped */
export function gatherInto(skin: Skin, joints: number, least = 0): Gatherer {
  const { influences, joints: outJoints, weights: outWeights } = skin
  const sums = new Float32Array(joints)
  const touched = new Uint16Array(joints)
  const seen = new Uint8Array(joints)
  let count = 0
  return {
    add(joint, weight) {
      if (!seen[joint]) {
        seen[joint] = 1
        touched[count++] = joint
      }
      sums[joint] += weight
    },
    settle(vertex) {
      const at = vertex * influences
      outWeights.fill(0, at, at + influences)
      outJoints.fill(0, at, at + influences)
      let all = 0
      for (let i = 0; i < count; i++) all += sums[touched[i]]
      const floor = least * all
      let kept = 0
      for (let i = 0; i < count; i++) {
        const j = touched[i],
          w = sums[j]
        sums[j] = 0
        seen[j] = 0
        if (!(w > floor)) continue
        // equal weights fall by joint, so that the order of adding never shows
        let k = Math.min(kept, influences - 1)
        if (kept === influences && !(w > outWeights[at + k] || (w === outWeights[at + k] && j < outJoints[at + k])))
          continue
        while (k > 0 && (outWeights[at + k - 1] < w || (outWeights[at + k - 1] === w && outJoints[at + k - 1] > j))) {
          outWeights[at + k] = outWeights[at + k - 1]
          outJoints[at + k] = outJoints[at + k - 1]
          k--
        }
        outWeights[at + k] = w
        outJoints[at + k] = j
        if (kept < influences) kept++
      }
      count = 0
      let sum = 0
      for (let k = at; k < at + kept; k++) sum += outWeights[k]
      if (sum > 0) for (let k = at; k < at + kept; k++) outWeights[k] /= sum
    },
  }
}

/** Adds the weights of a point of a surface: those of its triangle's corners, by their shares. @param indices 3·F of the surface */
export function addPoint(
  to: Pick<Gatherer, 'add'>,
  skin: Skin,
  indices: ArrayLike<number>,
  point: Pick<SurfacePoint, 'triangle' | 'a' | 'b' | 'c'>,
): void {
  const k = skin.influences
  const shares = [point.a, point.b, point.c]
  shares.forEach((share, i) => {
    const c = indices[3 * point.triangle + i]
    for (let e = c * k; e < c * k + k; e++)
      if (skin.weights[e] > 0 && share > 0) to.add(skin.joints[e], share * skin.weights[e])
  })
}
