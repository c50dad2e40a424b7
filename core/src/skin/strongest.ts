import type { Skin } from './skin'

/** Weights below this share change no vertex by a visible amount and are dropped. */
const LEAST = 0.004

/**
 * Keeps the strongest influences of every vertex and makes them sum to 1.
 * @param dense W·J weights of welded vertices  @param weldOf V: the welded vertex of each vertex
 */
export function strongest(dense: Float32Array, joints: number, weldOf: Uint32Array, influences: number): Skin {
  const welded = dense.length / joints
  const outJoints = new Uint16Array(influences * weldOf.length)
  const outWeights = new Float32Array(influences * weldOf.length)
  const topJ = new Uint16Array(influences * welded)
  const topW = new Float32Array(influences * welded)
  for (let v = 0; v < welded; v++) {
    const at = v * joints
    const to = v * influences
    for (let j = 0; j < joints; j++) {
      const w = dense[at + j]
      if (w < LEAST || w <= topW[to + influences - 1]) continue
      let k = influences - 1
      while (k > 0 && topW[to + k - 1] < w) {
        topW[to + k] = topW[to + k - 1]
        topJ[to + k] = topJ[to + k - 1]
        k--
      }
      topW[to + k] = w
      topJ[to + k] = j
    }
    let sum = 0
    for (let k = 0; k < influences; k++) sum += topW[to + k]
    if (sum > 0) for (let k = 0; k < influences; k++) topW[to + k] /= sum
    else topW[to] = 1
  }
  for (let v = 0; v < weldOf.length; v++) {
    const from = weldOf[v] * influences
    for (let k = 0; k < influences; k++) {
      outJoints[v * influences + k] = topJ[from + k]
      outWeights[v * influences + k] = topW[from + k]
    }
  }
  return { influences, joints: outJoints, weights: outWeights }
}
