import { distance, maxOf, vec3At } from '../math'
import { wordsOf } from './recognise-names'
import { bindPose, childrenOf, hasTip, jointsInWorld, skeletonFromWorld, type Skeleton } from './skeleton'

/** What somebody wrote into the name of a joint that moves others or aims. */
const CONTROLS =
  /^(ctrl|ctl|control|controls|controller|ik|fk|pole|pv|target|tgt|goal|aim|mch|mech|mechanism|org|drv|driver|driven|grp|group|offset|null|zero|loc|locator|switch|tweak|vis|mount|mounts)$/
/** What somebody wrote into the name of a joint that only mends the skin. */
const HELPS = /^(con|helper|hlp|helpers|fix|corrective|jiggle|bulge|muscle|pad|proxy|shape)$/
/** What somebody wrote into the name of a joint that carries the skin. */
const DEFORMS = /^(def|deform|bind|skin|skn)$/

/** Joints nearer than this share of the body to one of its own stand in the same place. */
const SAME_PLACE = 0.004

/**
 * Which joints of a skeleton may move skin: not those above the hips, which move the whole, nor controls and targets, whether
 * their names say so or they stand beside the skeleton where one of its joints stands. Joints with a role always may, but for
 * eyes: what turns in a face is a ball of its own, and the face stays.
 * @returns J: 1 for a joint that may
 */
export function skinJoints(skeleton: Skeleton): Uint8Array {
  const { names, parents, roles } = skeleton
  const may = new Uint8Array(names.length).fill(1)
  const hips = roles.indexOf('hips')
  // a body without hips may hang on a root all the same
  if (hips < 0)
    names.forEach((name, j) => {
      if (parents[j] < 0 && !roles[j] && wordsOf(name).includes('root') && parents.includes(j)) may[j] = 0
    })
  if (hips >= 0) for (let p = parents[hips]; p >= 0; p = parents[p]) may[p] = roles[p] ? 1 : 0
  const within = new Uint8Array(names.length)
  const carries = new Uint8Array(names.length)
  for (const p of parents) if (p >= 0) carries[p] = 1
  const world = bindPose(skeleton)
  const at = names.map((_, j) => vec3At(world.positions, j))
  const own = names.flatMap((_, j) => (roles[j] ? [j] : []))
  const size = maxOf(
    own.map(j => distance(at[j], at[own[0]])),
    0,
  )
  names.forEach((name, j) => {
    const p = parents[j]
    within[j] = j === hips || (p >= 0 && within[p]) ? 1 : 0
    if (roles[j] === 'leftEye' || roles[j] === 'rightEye') may[j] = 0
    if (roles[j]) return
    if (wordsOf(name).some(w => CONTROLS.test(w))) may[j] = 0
    // what stands where its parent stands and goes nowhere has no flesh
    if (p >= 0 && !carries[j] && !hasTip(skeleton, j) && Math.hypot(...vec3At(skeleton.restTranslations, j)) < 1e-6)
      may[j] = 0
    if (hips < 0 || within[j]) return
    const beside = own.some(k => distance(at[k], at[j]) < SAME_PLACE * size)
    if (beside || (p >= 0 && parents[p] >= 0 && may[p] === 0)) may[j] = 0
  })
  return may
}

/**
 * Joints below which nothing stands for a part of the body: those of tails, wings, cables and the like.
 * @param may J: only joints that are 1 here, and have no others below them; left out, all
 * @returns J: 1 for a free joint
 */
export function freeJoints(skeleton: Skeleton, may?: ArrayLike<number>): Uint8Array {
  const children = childrenOf(skeleton)
  const free = new Uint8Array(skeleton.names.length)
  for (let j = free.length - 1; j >= 0; j--)
    free[j] = !skeleton.roles[j] && (!may || may[j] === 1) && children[j].every(c => free[c] === 1) ? 1 : 0
  return free
}

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
  const aside = words.map(list => list.some(w => CONTROLS.test(w) || HELPS.test(w)))
  const marked = words.map(list => list.some(w => DEFORMS.test(w)))
  const out: BodyJoints[] = []
  const offer = (keep: (j: number) => boolean): void => {
    const of = Array.from({ length: n }, (_, j) => j).filter(keep)
    if (of.length < 3 || out.some(o => o.of.length === of.length)) return
    out.push({ skeleton: of.length === n ? skeleton : jointsAlone(skeleton, of), of })
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

/** A skeleton of some joints alone; each hangs on the nearest of them above it, where it stood. */
export function jointsAlone(skeleton: Skeleton, of: readonly number[]): Skeleton {
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
