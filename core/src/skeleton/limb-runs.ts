import { distance, type Vec3 } from '../math'
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

/**
 * For every joint the two longest limbs it carries that are alike, where there are any: legs of a pelvis, arms or front legs
 * of a chest.
 * @param takes which limbs may be one of a pair; left out, all
 */
export function limbPairs(
  skeleton: Skeleton,
  joints: readonly WorldJoint[],
  takes: (limb: Limb) => boolean = () => true,
): (LimbPair | undefined)[] {
  const children = childrenOf(skeleton)
  const run = longestRuns(joints, children)
  return children.map(list => {
    // a joint with one child carries no pair
    if (list.length < 2) return undefined
    const limbs = list.map(run).filter(l => l.chain.length >= 3 && l.length > 0 && takes(l))
    let best: LimbPair | undefined
    let most = 0
    for (let i = 0; i < limbs.length; i++)
      for (let k = i + 1; k < limbs.length; k++) {
        const off = Math.abs(limbs[i].length - limbs[k].length) / Math.max(limbs[i].length, limbs[k].length)
        const alike = Math.abs(limbs[i].chain.length - limbs[k].chain.length) <= 1
        // what is a little longer and less alike is no better pair
        const worth = (limbs[i].length + limbs[k].length) * (1 - 4 * off)
        if (off >= 0.1 || !alike || worth <= most) continue
        most = worth
        best = { a: limbs[i], b: limbs[k], off, rest: limbs.filter((_, n) => n !== i && n !== k) }
      }
    return best
  })
}

/** A limb of two bones within a run of joints. */
export interface TwoBones {
  /** Places in the run: where the upper bone begins, where the two meet, where the lower one ends. */
  readonly upper: number
  readonly lower: number
  readonly end: number
}

/**
 * The two bones of a limb within a run: about equally long, with what lies on the way in line (joints that twist) or short
 * before it (a collarbone, a socket), and only a hand or foot after it.
 */
export function twoBones(joints: readonly WorldJoint[], run: readonly number[]): TwoBones | undefined {
  const at = (i: number): Vec3 => joints[run[i]].position
  const way = [0]
  for (let i = 1; i < run.length; i++) way.push(way[i - 1] + distance(at(i - 1), at(i)))
  const whole = way[run.length - 1]
  let best: TwoBones | undefined
  let least = Infinity
  for (let upper = 0; upper < Math.min(3, run.length - 2); upper++)
    for (let lower = upper + 1; lower < run.length - 1; lower++)
      for (let end = lower + 1; end < run.length; end++) {
        const a = distance(at(upper), at(lower))
        const b = distance(at(lower), at(end))
        if (a < 1e-9 || b < 1e-9) continue
        const limb = a + b
        // skipped joints leave the way as long as it is straight
        const bent = (way[lower] - way[upper] - a + (way[end] - way[lower] - b)) / limb
        const skipped = end - upper - 2
        const before = way[upper] / limb
        const after = (whole - way[end]) / limb
        const cost =
          Math.abs(Math.log(a / b)) +
          40 * bent +
          0.06 * skipped +
          0.1 * upper +
          Math.max(0, before - 0.5) * 3 +
          Math.max(0, after - 0.42) * 3
        if (cost >= least - 1e-9) continue
        least = cost
        best = { upper, lower, end }
      }
  return best
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
