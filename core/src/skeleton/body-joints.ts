import { jointsInWorld, skeletonFromWorld, type Skeleton } from './skeleton'

/** What somebody wrote into the name of a joint that moves others, aims, or only mends the skin. */
const ASIDE =
  /^(ctrl|ctl|control|controls|controller|con|ik|fk|pole|pv|target|tgt|goal|aim|mch|mech|mechanism|org|drv|driver|driven|helper|hlp|helpers|grp|group|offset|null|zero|loc|locator|fix|corrective|jiggle|bulge|muscle|pad|proxy|switch|tweak|vis|shape)$/
/** What somebody wrote into the name of a joint that carries the skin. */
const DEFORMS = /^(def|deform|bind|skin|skn)$/

const wordsOf = (name: string): string[] =>
  name
    .replace(/([a-z0-9])([A-Z])/g, '$1 $2')
    .replace(/([A-Z]+)([A-Z][a-z])/g, '$1 $2')
    .replace(/(\d+)/g, ' $1 ')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(w => w.length > 0)

/** Joints that belong to the body, as far as names and weights tell: helpers and controls are left out. */
export interface BodyJoints {
  readonly skeleton: Skeleton
  /** For each of its joints, the joint of the whole skeleton. */
  readonly of: readonly number[]
}

/**
 * Skeletons without the joints that only control or help, from the strictest choice to the whole: those that carry skin, those
 * marked as carrying it, those not marked as anything else.
 * @param carries 1 for each joint that skin follows; left out where there is no skin
 */
export function bodyJoints(skeleton: Skeleton, carries?: ArrayLike<number>): BodyJoints[] {
  const n = skeleton.names.length
  const words = skeleton.names.map(wordsOf)
  const aside = words.map(list => list.some(w => ASIDE.test(w)))
  const marked = words.map(list => list.some(w => DEFORMS.test(w)))
  const out: BodyJoints[] = []
  const offer = (keep: (j: number) => boolean): void => {
    const of = Array.from({ length: n }, (_, j) => j).filter(keep)
    if (of.length < 3 || out.some(o => o.of.length === of.length)) return
    out.push({ skeleton: of.length === n ? skeleton : only(skeleton, of), of })
  }
  if (carries) {
    // what carries skin, and what lies above it
    const needed = new Uint8Array(n)
    for (let j = n - 1; j >= 0; j--) {
      if (carries[j]) needed[j] = 1
      if (needed[j] && skeleton.parents[j] >= 0) needed[skeleton.parents[j]] = 1
    }
    if (needed.some(x => x === 1)) offer(j => needed[j] === 1 && (carries[j] > 0 || !aside[j]))
  }
  if (marked.filter(Boolean).length >= 8) offer(j => marked[j])
  if (aside.some(Boolean)) offer(j => !aside[j])
  offer(() => true)
  return out
}

/** A skeleton of some joints; each hangs on the nearest of them above it, where it stood. */
function only(skeleton: Skeleton, of: readonly number[]): Skeleton {
  const world = jointsInWorld(skeleton)
  const place = new Map(of.map((j, i) => [j, i]))
  return skeletonFromWorld(
    of.map(j => {
      let p = skeleton.parents[j]
      while (p >= 0 && !place.has(p)) p = skeleton.parents[p]
      return { ...world[j], parent: p < 0 ? -1 : place.get(p)! }
    }),
  )
}
