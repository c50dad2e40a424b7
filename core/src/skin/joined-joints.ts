import type { Skin } from './skin'

/** Less than this is no hold on a vertex. */
const LEAST = 1e-3

/** 1 for each joint that some vertex follows. */
export function joinedJoints({ joints, weights }: Pick<Skin, 'joints' | 'weights'>, count: number): Uint8Array {
  const out = new Uint8Array(count)
  for (let i = 0; i < weights.length; i++) if (weights[i] > LEAST) out[joints[i]] = 1
  return out
}
