import type { Skin } from './skin'

/** Weights below this share change no vertex by a visible amount and are dropped on delivery. */
export const LEAST_WEIGHT = 0.004

/** A joint's share at one vertex once no more than the strongest influences are kept, as {@link limitInfluences} keeps them. */
export function limitedShare(skin: Skin, vertex: number, joint: number, most: number): number {
  const k = skin.influences
  const row = { influences: k, joints: skin.joints.subarray(vertex * k, vertex * k + k) }
  const limited = limitInfluences(
    { ...row, weights: skin.weights.subarray(vertex * k, vertex * k + k) },
    most,
    LEAST_WEIGHT,
  )
  let share = 0
  for (let i = 0; i < most; i++) if (limited.joints[i] === joint) share += limited.weights[i]
  return share
}

/**
 * Keeps the strongest influences of every vertex; what is left carries what was dropped.
 * @param least weights below this share of the vertex are dropped too
 */
export function limitInfluences(skin: Skin, most: number, least = 0): Skin {
  const k = skin.influences
  const n = skin.joints.length / k
  const joints = new Uint16Array(most * n)
  const weights = new Float32Array(most * n)
  for (let v = 0; v < n; v++) {
    const to = v * most
    let before = 0
    for (let i = v * k; i < v * k + k; i++) before += skin.weights[i]
    let kept = 0
    for (let i = v * k; i < v * k + k; i++) {
      const w = skin.weights[i],
        j = skin.joints[i]
      if (!(w > least * before) || (kept === most && !(w > weights[to + most - 1]))) continue
      let m = kept < most ? kept++ : most - 1
      for (; m > 0 && weights[to + m - 1] < w; m--) {
        weights[to + m] = weights[to + m - 1]
        joints[to + m] = joints[to + m - 1]
      }
      weights[to + m] = w
      joints[to + m] = j
    }
    let after = 0
    for (let m = to; m < to + kept; m++) after += weights[m]
    if (after > 0) for (let m = to; m < to + kept; m++) weights[m] *= before / after
  }
  return { influences: most, joints, weights }
}
