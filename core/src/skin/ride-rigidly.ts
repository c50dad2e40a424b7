import type { Skin } from './skin'

/**
 * Binds the vertices of some triangles wholly to one joint.
 * @param joint left at -1, the joint that moves most of the piece
 */
export function rideRigidly(skin: Skin, indices: Uint32Array, joint: number): Skin {
  const k = skin.influences
  let chosen = joint
  if (chosen < 0) {
    const held = new Map<number, number>()
    for (const v of indices)
      for (let i = v * k; i < v * k + k; i++)
        held.set(skin.joints[i], (held.get(skin.joints[i]) ?? 0) + skin.weights[i])
    chosen = [...held].sort((a, b) => b[1] - a[1] || a[0] - b[0])[0]?.[0] ?? 0
  }
  const joints = skin.joints.slice()
  const weights = skin.weights.slice()
  for (const v of indices) {
    joints.fill(0, v * k, v * k + k)
    weights.fill(0, v * k, v * k + k)
    joints[v * k] = chosen
    weights[v * k] = 1
  }
  return { influences: k, joints, weights }
}
