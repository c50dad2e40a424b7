import { breather, type WorkOptions } from '../math'
import type { Adjacency } from '../mesh'
import { emptySkin, gatherInto } from './gather'
import type { Skin } from './skin'

/**
 * Averages weights with those of surface neighbours, half and half, a number of times.
 * @param skin of the vertices the adjacency links
 */
export async function smoothWeights(
  skin: Skin,
  joints: number,
  adjacency: Adjacency,
  rounds: number,
  work: WorkOptions = {},
): Promise<Skin> {
  const pulse = breather(work)
  const { influences } = skin
  const n = skin.joints.length / influences
  let from = skin
  for (let round = 0; round < rounds; round++) {
    const to = emptySkin(n, influences)
    const gather = gatherInto(to, joints)
    for (let v = 0; v < n; v++) {
      const first = adjacency.starts[v],
        end = adjacency.starts[v + 1]
      const share = end > first ? 0.5 / (end - first) : 0
      const own = end > first ? 0.5 : 1
      for (let i = v * influences; i < v * influences + influences && from.weights[i] > 0; i++)
        gather.add(from.joints[i], own * from.weights[i])
      for (let e = first; e < end; e++) {
        const o = adjacency.neighbours[e] * influences
        for (let i = o; i < o + influences && from.weights[i] > 0; i++)
          gather.add(from.joints[i], share * from.weights[i])
      }
      gather.settle(v)
      if ((v & 2047) === 0) await pulse((round + v / n) / rounds)
    }
    from = to
  }
  return from
}
