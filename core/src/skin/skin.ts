/** Which joints move each vertex, and how much. */
export interface Skin {
  /** Influences per vertex. */
  readonly influences: number
  /** K·V joint indices; unused places are 0 with weight 0. */
  readonly joints: Uint16Array
  /** K·V, falling within a vertex, summing to 1. */
  readonly weights: Float32Array
}

/** The weight of one joint at every vertex. */
export function jointWeights(skin: Skin, joint: number): Float32Array {
  const k = skin.influences
  const out = new Float32Array(skin.joints.length / k)
  for (let i = 0; i < skin.joints.length; i++) {
    if (skin.joints[i] === joint && skin.weights[i] > 0) out[Math.floor(i / k)] += skin.weights[i]
  }
  return out
}
