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

/** Puts the influences of every vertex in falling order, in place. */
export function sortInfluences(skin: Skin): void {
  for (let at = 0; at < skin.joints.length; at += skin.influences) sortRow(skin, at)
}

/** The same for one vertex, whose influences begin at `at`. */
export function sortRow({ influences: k, joints, weights }: Skin, at: number): void {
  for (let i = at + 1; i < at + k; i++) {
    const w = weights[i],
      j = joints[i]
    let m = i - 1
    for (; m >= at && weights[m] < w; m--) {
      weights[m + 1] = weights[m]
      joints[m + 1] = joints[m]
    }
    weights[m + 1] = w
    joints[m + 1] = j
  }
  for (let i = at; i < at + k; i++) if (weights[i] === 0) joints[i] = 0
}

/**
 * The influences of chosen vertices, in that order.
 * @param influences room per vertex, at least as much as the skin has
 */
export function pickRows(skin: Skin, from: Uint32Array, influences = skin.influences): Skin {
  const k = skin.influences
  const joints = new Uint16Array(influences * from.length)
  const weights = new Float32Array(influences * from.length)
  from.forEach((v, at) => {
    for (let i = 0; i < k; i++) {
      joints[at * influences + i] = skin.joints[v * k + i]
      weights[at * influences + i] = skin.weights[v * k + i]
    }
  })
  return { influences, joints, weights }
}

/** A skin with the rows of some vertices taken from another; one of fewer joints a vertex keeps the strongest. */
export function withRows(skin: Skin, rows: Skin, from: Uint32Array): Skin {
  const k = skin.influences
  const c = rows.influences
  const joints = skin.joints.slice(),
    weights = skin.weights.slice()
  from.forEach((v, at) => {
    // rows come in falling order
    const n = Math.min(k, c)
    joints.fill(0, v * k, v * k + k)
    weights.fill(0, v * k, v * k + k)
    joints.set(rows.joints.subarray(at * c, at * c + n), v * k)
    weights.set(rows.weights.subarray(at * c, at * c + n), v * k)
    let sum = 0
    for (let i = 0; i < k; i++) sum += weights[v * k + i]
    if (sum > 0) for (let i = 0; i < k; i++) weights[v * k + i] /= sum
  })
  return { influences: k, joints, weights }
}

/** The vertices that each joint moves most. */
export function verticesByJoint({ influences, joints }: Skin, count: number): readonly (readonly number[])[] {
  const own: number[][] = Array.from({ length: count }, () => [])
  // influences are kept strongest first
  for (let v = 0; v < joints.length / influences; v++) own[joints[influences * v]].push(v)
  return own
}
