import { z } from 'zod'
import { distance, cross, dot, normalize, sub, type Vec3, add, scale } from '../math'
import { kindOf, requiredRoles, type BodyKind, REQUIRED_ROLES, SIDES } from '../body'
import { bodyJoints } from './body-joints'
import { commonAncestor, isBelow, limbPairs, longestRuns, twoBones, type Limb, type TwoBones } from './limb-runs'
import { doubtsOf, type Doubt, type ReadBy } from './reading-checks'
import { commonPrefix, readName } from './recognise-names'
import { recogniseFourleg } from './recognise-fourleg'
import { recogniseFingers } from './recognise-fingers'
import { childrenOf, jointsInWorld, type Skeleton, type WorldJoint } from './skeleton'

/** Which joint plays which role, how sure that is, and what was left over. */
export interface RoleReading {
  readonly kind: BodyKind
  /** Joint index by role. */
  readonly joints: Readonly<Record<string, number>>
  readonly missing: readonly string[]
  /** Joints that play no role. */
  readonly extra: readonly number[]
  readonly by: ReadBy
  /** 0 to 1: what tells the roles, less what is missing and in doubt. */
  readonly confidence: number
  /** What speaks against the reading, or cannot be told; nothing where names, structure and shape agree. */
  readonly doubts: readonly Doubt[]
}

/** What a person said about how a skeleton is to be read. */
export const readingChoiceSchema = z.object({
  /** On how many legs it stands, whatever its shape says. */
  kind: z.enum(['biped', 'fourleg']).optional(),
  /** Left and right are the other way round than they were read. */
  swapped: z.boolean().optional(),
  /** It was looked at and is right: nothing is in doubt any more. */
  settled: z.boolean().optional(),
})
export type ReadingChoice = Readonly<z.infer<typeof readingChoiceSchema>>

/** What else is known of a skeleton than its joints. */
export interface RoleEvidence extends ReadingChoice {
  /** 1 for each joint that some of the skin follows. */
  readonly carries?: ArrayLike<number>
}

/**
 * Finds the roles of a foreign skeleton, on two legs or on four: from roles it carries, else from its joint names, else
 * from its structure (a pelvis with two equal legs, a chest with two equal arms or legs), which needs no names. Joints that
 * control, aim or help are set aside first; lengths, places, sides and names are held against each other, and what does not
 * agree is told as a doubt.
 */
export function recogniseRoles(skeleton: Skeleton, evidence: RoleEvidence = {}): RoleReading {
  const read = likeliest(skeleton, evidence)
  const { swapped, settled } = evidence
  const joints = swapped
    ? Object.fromEntries(Object.entries(read.joints).map(([r, j]) => [otherSide(r), j]))
    : read.joints
  const doubts = settled ? [] : swapped ? read.doubts.filter(d => d.about !== 'sides') : read.doubts
  return { ...read, joints, doubts }
}

/** Joint by role, as the skeleton itself tells them; the first of several that claim one. */
export function toldRoles({ roles }: Skeleton): Record<string, number> {
  const told: Record<string, number> = {}
  roles.forEach((role, j) => {
    if (role) told[role] ??= j
  })
  return told
}

/** A skeleton whose joints play the roles of a reading and no others. */
export function withRoles(skeleton: Skeleton, joints: Readonly<Record<string, number>>): Skeleton {
  const roles: (string | undefined)[] = skeleton.names.map(() => undefined)
  for (const [role, j] of Object.entries(joints)) roles[j] = role
  return { ...skeleton, roles }
}

const otherSide = (role: string): string => role.replace(/^(left|right)/, side => (side === 'left' ? 'right' : 'left'))

function likeliest(skeleton: Skeleton, { carries, kind }: RoleEvidence): RoleReading {
  const told = toldRoles(skeleton)
  if (requiredRoles(kindOf(told)).every(r => told[r] !== undefined))
    return reading(skeleton, { roles: told, by: 'roles' })
  const prefix = commonPrefix(skeleton.names)
  let best: RoleReading | undefined
  for (const { skeleton: own, of } of bodyJoints(skeleton, carries)) {
    const world = jointsInWorld(own)
    for (const guess of guesses(own, world, kind)) {
      const back = Object.fromEntries(Object.entries(guess.roles).map(([role, j]) => [role, of[j]]))
      const found = [...doubtsOf(own, world, guess.roles, prefix, guess.by), ...(guess.doubts ?? [])]
      // how it stands was said
      const open = kind ? found.filter(d => d.about !== 'kind') : found
      const doubts = open.map(d => (d.joint === undefined ? d : { ...d, joint: of[d.joint] }))
      const read = reading(skeleton, { roles: back, by: guess.by, doubts })
      if (!best || worth(read) > worth(best) + 1e-9) best = read
    }
  }
  return best ?? reading(skeleton, { roles: told, by: 'names' })
}

/** More of the body told, and less in doubt. */
const worth = ({ missing, kind, doubts }: RoleReading): number =>
  1 - missing.length / requiredRoles(kind).length - 0.05 * doubts.length

interface Guess {
  readonly roles: Record<string, number>
  readonly by: ReadBy
  readonly doubts?: readonly Doubt[]
}

/** Ways to read a skeleton, the likeliest first. */
function guesses(skeleton: Skeleton, world: readonly WorldJoint[], kind: BodyKind | undefined): Guess[] {
  const told = toldRoles(skeleton)
  const named = byNames(skeleton)
  const four = kind === 'biped' ? undefined : recogniseFourleg(skeleton, { ...named, ...told }, kind === 'fourleg')
  const out: Guess[] = []
  if (four) out.push({ roles: { ...four, ...(kindOf(told) === 'fourleg' ? told : {}) }, by: 'structure' })
  if (kind === 'fourleg' && four) return out
  Object.assign(named, told)
  const hangs = plausible(skeleton, named)
  const names: Guess = {
    roles: named,
    by: 'names',
    ...(!hangs && { doubts: [{ about: 'kind', why: 'the limbs do not hang together as limbs do' }] }),
  }
  if (REQUIRED_ROLES.every(r => named[r] !== undefined) && hangs) out.push(names)
  const built = byStructure(skeleton, world)
  if (built) out.push({ ...built, by: 'structure' })
  if (!out.includes(names)) out.push(names)
  return out
}

function reading(skeleton: Skeleton, { roles, by, doubts = [] }: Guess): RoleReading {
  const kind = kindOf(roles)
  const fingers = kind === 'biped' ? recogniseFingers(skeleton, { left: roles.leftHand, right: roles.rightHand }) : {}
  const joints = { ...fingers, ...roles }
  const used = new Set(Object.values(joints))
  const needed = requiredRoles(kind)
  const missing = needed.filter(r => joints[r] === undefined)
  return {
    kind,
    joints,
    by,
    missing,
    extra: skeleton.names.flatMap((_, j) => (used.has(j) ? [] : [j])),
    confidence: SURE[by] * (1 - missing.length / needed.length) * 0.6 ** doubts.length,
    doubts,
  }
}
/** How sure roles, names and structure alone are where nothing speaks against them. */
const SURE = { roles: 1, names: 0.95, structure: 0.8 } as const

/** Limbs must hang together as limbs do. */
function plausible(skeleton: Skeleton, roles: Record<string, number>): boolean {
  const chains = ['left', 'right'].flatMap(s => [
    [`${s}UpperArm`, `${s}LowerArm`, `${s}Hand`],
    ['hips', `${s}UpperLeg`, `${s}LowerLeg`, `${s}Foot`],
  ])
  return [...chains, ['hips', 'spine', 'head']].every(chain =>
    chain.every((r, i) => i === 0 || isBelow(skeleton, roles[r], roles[chain[i - 1]])),
  )
}

function byNames(skeleton: Skeleton): Record<string, number> {
  const prefix = commonPrefix(skeleton.names)
  const roles: Record<string, number> = {}
  const readings = skeleton.names.map(n => readName(n, prefix))
  const take = (role: string, j: number): void => {
    roles[role] ??= j
  }
  // a "shoulder" with a clavicle above it is the upper arm; without an upper arm of its own it is too
  for (const side of ['left', 'right'] as const) {
    const of = (part: string): number[] =>
      readings.flatMap((r, j) => (!r.extra && r.side === side && r.part === part ? [j] : []))
    for (const part of ['Shoulder', 'UpperArm', 'LowerArm', 'Hand', 'UpperLeg', 'LowerLeg', 'Foot', 'Toes']) {
      const found = of(part)
      // one that says what it is before one that may be something else
      if (found.length > 0) take(side + part, found.find(j => !readings[j].vague) ?? found[0])
    }
    const shoulders = of('Shoulder')
    if (roles[`${side}UpperArm`] === undefined && shoulders.length > 0) {
      roles[`${side}UpperArm`] = shoulders[shoulders.length - 1]
      if (shoulders.length === 1) delete roles[`${side}Shoulder`]
    }
    // one plain "arm" word may stand for both halves: arm, arm1
    if (roles[`${side}LowerArm`] === undefined) {
      const arms = of('UpperArm')
      if (arms.length > 1) roles[`${side}LowerArm`] = arms[1]
    }
    const legs = of('LowerLeg')
    if (roles[`${side}UpperLeg`] === undefined && legs.length > 1) {
      roles[`${side}UpperLeg`] = legs[0]
      roles[`${side}LowerLeg`] = legs[1]
    }
  }
  readings.forEach((r, j) => {
    if (!r.extra && !r.side && r.part && ['hips', 'neck', 'head'].includes(r.part)) take(r.part, j)
  })
  for (const side of ['left', 'right'] as const) straightenLimbs(skeleton, roles, readings, side)
  const fork = commonAncestor(skeleton, roles.leftUpperLeg, roles.rightUpperLeg)
  // hips are what both legs hang on, whatever they are called
  if (fork >= 0 && (roles.hips === undefined || !isBelow(skeleton, roles.leftUpperLeg, roles.hips))) roles.hips = fork
  // where pelvis and trunk hang side by side, what carries both moves the body
  if (roles.hips !== undefined && roles.head !== undefined && !isBelow(skeleton, roles.head, roles.hips)) {
    const both = commonAncestor(skeleton, fork >= 0 ? roles.leftUpperLeg : roles.hips, roles.head)
    if (both >= 0) roles.hips = both
  }
  if (roles.hips !== undefined) assignSpine(skeleton, roles)
  return roles
}

/** What the names of a limb leave open is told by how its joints hang. */
function straightenLimbs(
  skeleton: Skeleton,
  roles: Record<string, number>,
  readings: readonly { part?: string; extra: boolean }[],
  side: 'left' | 'right',
): void {
  const above = (role: string): number | undefined => {
    let p = roles[role] === undefined ? -1 : skeleton.parents[roles[role]]
    while (p >= 0 && readings[p].extra) p = skeleton.parents[p]
    return p < 0 ? undefined : p
  }
  const arm = above(`${side}LowerArm`)
  const part = arm === undefined ? 'none' : readings[arm].part
  const named = roles[`${side}UpperArm`]
  // a joint that says it is the upper arm is, whatever lies between it and the forearm
  const sure = named !== undefined && readings[named].part === 'UpperArm'
  if (
    !sure &&
    arm !== undefined &&
    arm !== named &&
    (part === undefined || part === 'UpperArm' || part === 'Shoulder') &&
    arm !== roles.hips
  ) {
    if (named !== undefined && isBelow(skeleton, arm, named)) roles[`${side}Shoulder`] ??= named
    roles[`${side}UpperArm`] = arm
  }
  // where ankle and foot are two joints, the second is the toes'
  const foot = roles[`${side}Foot`]
  if (foot === undefined || roles[`${side}Toes`] !== undefined) return
  const ball = readings.findIndex((r, j) => !r.extra && r.part === 'Foot' && j !== foot && isBelow(skeleton, j, foot))
  if (ball >= 0) roles[`${side}Toes`] = ball
}

/** Names the joints between hips and neck by their order, whatever they are called. */
function assignSpine(skeleton: Skeleton, roles: Record<string, number>): void {
  const chest = commonAncestor(skeleton, roles.leftUpperArm, roles.rightUpperArm)
  if (roles.head !== undefined && chest >= 0 && isBelow(skeleton, roles.head, chest)) {
    const way: number[] = []
    for (let p = skeleton.parents[roles.head]; p >= 0 && p !== chest; p = skeleton.parents[p]) way.unshift(p)
    // the neck begins above where the arms leave
    if (roles.neck === undefined || !isBelow(skeleton, roles.head, roles.neck)) {
      delete roles.neck
      if (way.length > 0) roles.neck = way[0]
    }
  }
  const top = roles.neck ?? roles.head ?? roles.leftShoulder ?? roles.leftUpperArm
  if (top === undefined) return
  const chain: number[] = []
  for (let p = skeleton.parents[top]; p >= 0 && p !== roles.hips; p = skeleton.parents[p]) chain.unshift(p)
  if (chain.length === 0) return
  roles.spine = chain[0]
  delete roles.chest
  delete roles.upperChest
  if (chain.length === 2) roles.chest = chain[1]
  if (chain.length >= 3) {
    roles.chest = chain[Math.floor((chain.length - 1) / 2)]
    roles.upperChest = chain[chain.length - 1]
  }
}

function byStructure(
  skeleton: Skeleton,
  joints: readonly WorldJoint[],
): { roles: Record<string, number>; doubts: Doubt[] } | undefined {
  const children = childrenOf(skeleton)
  const longestRun = longestRuns(joints, children)
  const pairs = limbPairs(skeleton, joints)
  // the pelvis carries the legs and, above it, the joint that carries the arms
  for (let hips = 0; hips < joints.length; hips++) {
    const legs = pairs[hips]
    if (!legs) continue
    const chest = pairs.findIndex(
      (p, j) =>
        p &&
        j !== hips &&
        isBelow(skeleton, j, hips) &&
        !isBelow(skeleton, j, legs.a.root) &&
        !isBelow(skeleton, j, legs.b.root) &&
        j !== legs.a.root &&
        j !== legs.b.root,
    )
    if (chest < 0) continue
    const arms = pairs[chest]!
    const roles: Record<string, number> = { hips }
    const spine: number[] = []
    for (let p = chest; p !== hips; p = skeleton.parents[p]) spine.unshift(p)
    roles.spine = spine[0]
    if (spine.length === 2) roles.chest = spine[1]
    if (spine.length >= 3) {
      roles.chest = spine[Math.floor((spine.length - 1) / 2)]
      roles.upperChest = spine[spine.length - 1]
    }
    const neck = children[chest]
      .filter(c => c !== arms.a.root && c !== arms.b.root)
      .map(c => longestRun(c))
      .sort((x, y) => y.length - x.length)[0]
    const crown = neck && neckRoles(joints, children, neck.chain)
    Object.assign(roles, crown?.roles)
    const leg = [legs.a, legs.b].map(l => twoBones(joints, l.chain))
    const arm = [arms.a, arms.b].map(l => twoBones(joints, l.chain))
    if (leg.some(l => !l) || arm.some(l => !l)) return undefined
    const side = (limb: Limb, { upper, lower, end }: TwoBones): Sided => ({
      chain: limb.chain,
      upper: limb.chain[upper],
      lower: limb.chain[lower],
      end: limb.chain[end],
      before: upper > 0 ? limb.chain[upper - 1] : undefined,
      after: limb.chain[end + 1],
    })
    const both = {
      legs: [side(legs.a, leg[0]!), side(legs.b, leg[1]!)],
      arms: [side(arms.a, arm[0]!), side(arms.b, arm[1]!)],
    }
    const up = normalize(sub(joints[chest].position, joints[hips].position))
    const facing = aheadOf(joints, up, both)
    const left = cross(up, facing.ahead)
    const leftFirst = (pair: readonly Sided[]): readonly Sided[] =>
      dot(left, sub(joints[pair[0].lower].position, joints[pair[1].lower].position)) > 0 ? pair : [pair[1], pair[0]]
    leftFirst(both.legs).forEach((l, i) => {
      const s = SIDES[i]
      roles[`${s}UpperLeg`] = l.upper
      roles[`${s}LowerLeg`] = l.lower
      roles[`${s}Foot`] = l.end
      if (l.after !== undefined) roles[`${s}Toes`] = l.after
    })
    leftFirst(both.arms).forEach((l, i) => {
      const s = SIDES[i]
      if (l.before !== undefined) roles[`${s}Shoulder`] = l.before
      roles[`${s}UpperArm`] = l.upper
      roles[`${s}LowerArm`] = l.lower
      roles[`${s}Hand`] = l.end
    })
    return { roles, doubts: [...facing.doubts, ...(crown?.doubts ?? [])] }
  }
  return undefined
}

interface Sided {
  readonly chain: readonly number[]
  readonly upper: number
  readonly lower: number
  readonly end: number
  readonly before: number | undefined
  readonly after: number | undefined
}

/** Which way a body faces that has no names: feet point ahead, knees bend forwards and elbows backwards. */
function aheadOf(
  joints: readonly WorldJoint[],
  up: Vec3,
  { legs, arms }: { legs: readonly Sided[]; arms: readonly Sided[] },
): { ahead: Vec3; doubts: Doubt[] } {
  const at = (j: number): Vec3 => joints[j].position
  const level = (v: Vec3): Vec3 => sub(v, scale(up, dot(v, up)))
  const sum = (list: readonly Vec3[]): Vec3 => list.reduce((s, v) => add(s, v), [0, 0, 0] as Vec3)
  const across = level(sub(at(legs[0].upper), at(legs[1].upper)))
  const size = Math.hypot(...sub(at(legs[0].end), at(legs[0].upper)))
  const feet = level(sum(legs.map(l => (l.after === undefined ? [0, 0, 0] : sub(at(l.after), at(l.end))))))
  if (Math.hypot(...feet) > 0.02 * size) return { ahead: normalize(feet), doubts: [] }
  const bend = (l: Sided): Vec3 => {
    const line = normalize(sub(at(l.end), at(l.upper)))
    const out = sub(at(l.lower), at(l.upper))
    return sub(out, scale(line, dot(out, line)))
  }
  const way = Math.hypot(...across) > 1e-9 ? normalize(cross(across, up)) : ([0, 0, 1] as Vec3)
  const bends = sum([...legs.map(bend), ...arms.map(l => scale(bend(l), -0.5))])
  const ahead = dot(bends, way)
  if (Math.abs(ahead) > 0.004 * size)
    return {
      ahead: ahead > 0 ? way : scale(way, -1),
      doubts: [{ about: 'sides', why: 'only the bend of knees and elbows tells which way the body faces' }],
    }
  return {
    ahead: way[2] + 0.1 * way[0] >= 0 ? way : scale(way, -1),
    doubts: [
      { about: 'sides', why: 'nothing tells which way the body faces, so left and right may be the other way round' },
    ],
  }
}

/** Neck and head of a run upwards: the head is what carries a face, ears or hair, else the last joint but its end. */
function neckRoles(
  joints: readonly WorldJoint[],
  children: readonly number[][],
  chain: readonly number[],
): { roles: Record<string, number>; doubts?: Doubt[] } {
  const fork = chain.findIndex((j, i) => children[j].length > 1 && (i > 0 || chain.length < 3))
  if (fork >= 0) return { roles: { ...(fork > 0 && { neck: chain[0] }), head: chain[fork] } }
  if (chain.length >= 3) {
    // a last bone longer than the one before leads to the top of the head and not to another joint of the neck
    const bone = (i: number): number => distance(joints[chain[i]].position, joints[chain[i - 1]].position)
    const longer = bone(chain.length - 1) / Math.max(1e-9, bone(chain.length - 2))
    const head = chain[chain.length - (longer > 1.3 ? 2 : 1)]
    const doubt: Doubt = {
      about: 'head',
      joint: head,
      why: 'which of the last joints of the neck is the head cannot be told',
    }
    return { roles: { neck: chain[0], head }, ...(longer > 1.1 && longer < 1.9 && { doubts: [doubt] }) }
  }
  return { roles: chain.length === 2 ? { neck: chain[0], head: chain[1] } : { head: chain[0] } }
}
