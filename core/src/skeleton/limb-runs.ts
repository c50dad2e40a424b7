import { distance } from '../math'
import { childrenOf, type Skeleton, type WorldJoint } from './skeleton'

/** The run below a joint that leads to the farthest end. */
export interface Limb {
  readonly root: number
  readonly chain: readonly number[]
  readonly length: number
}

/** For every joint the run below it that leads to the farthest end, worked out once from the ends upwards. */
export function longestRuns(joints: readonly WorldJoint[], children: readonly number[][]): (j: number) => Limb {
  const next = new Int32Array(joints.length).fill(-1)
  const length = new Float64Array(joints.length)
  for (let j = joints.length - 1; j >= 0; j--) {
    for (const c of children[j]) {
      const way = length[c] + distance(joints[j].position, joints[c].position)
      if (next[j] >= 0 && way <= length[j]) continue
      next[j] = c
      length[j] = way
    }
  }
  return root => {
    const chain: number[] = []
    for (let j = root; j >= 0; j = next[j]) chain.push(j)
    return { root, chain, length: length[root] }
  }
}

export interface LimbPair {
  readonly a: Limb
  readonly b: Limb
  readonly rest: readonly Limb[]
  readonly off: number
}

/** For every joint the two limbs it carries that are most alike, where there are any: legs of a pelvis, arms or front legs of a chest. */
export function limbPairs(skeleton: Skeleton, joints: readonly WorldJoint[]): (LimbPair | undefined)[] {
  const children = childrenOf(skeleton)
  const run = longestRuns(joints, children)
  return children.map(list => {
    // a joint with one child carries no pair
    if (list.length < 2) return undefined
    const limbs = list.map(run).filter(l => l.chain.length >= 3 && l.length > 0)
    let best: LimbPair | undefined
    for (let i = 0; i < limbs.length; i++)
      for (let k = i + 1; k < limbs.length; k++) {
        const off = Math.abs(limbs[i].length - limbs[k].length) / Math.max(limbs[i].length, limbs[k].length)
        const alike = Math.abs(limbs[i].chain.length - limbs[k].chain.length) <= 1
        if (off < 0.1 && alike && (!best || off < best.off))
          best = { a: limbs[i], b: limbs[k], off, rest: limbs.filter((_, n) => n !== i && n !== k) }
      }
    return best
  })
}

export const isBelow = (skeleton: Skeleton, joint: number, ancestor: number): boolean => {
  for (let p = skeleton.parents[joint]; p >= 0; p = skeleton.parents[p]) if (p === ancestor) return true
  return false
}

/** The lowest joint that carries both; -1 where there is none. */
export function commonAncestor(skeleton: Skeleton, a: number | undefined, b: number | undefined): number {
  if (a === undefined || b === undefined) return -1
  for (let p = skeleton.parents[a]; p >= 0; p = skeleton.parents[p]) if (isBelow(skeleton, b, p)) return p
  return -1
}
