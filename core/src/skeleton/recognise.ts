import { distance, cross, dot, normalize, sub, type Vec3, add, scale } from '../math'
import { kindOf, requiredRoles, type BodyKind, REQUIRED_ROLES } from '../body'
import { commonAncestor, isBelow, limbPairs, longestRuns, type Limb } from './limb-runs'
import { commonPrefix, readName } from './recognise-names'
import { recogniseFourleg } from './recognise-fourleg'
import { recogniseFingers } from './recognise-fingers'
import { childrenOf, jointsInWorld, type Skeleton, type WorldJoint } from './skeleton'

/** Which joint plays which role, and what was left over. */
export interface RoleReading {
  readonly kind: BodyKind
  /** Joint index by role. */
  readonly joints: Readonly<Record<string, number>>
  readonly missing: readonly string[]
  /** Joints that play no role. */
  readonly extra: readonly number[]
  readonly by: 'roles' | 'names' | 'structure'
}

/**
 * Finds the roles of a foreign skeleton, on two legs or on four: from roles it carries, else from its joint names, else
 * from its structure (a pelvis with two equal legs, a chest with two equal arms or legs), which needs no names.
 */
export function recogniseRoles(skeleton: Skeleton): RoleReading {
  const told: Record<string, number> = {}
  skeleton.roles.forEach((role, j) => {
    if (role && told[role] === undefined) told[role] = j
  })
  if (requiredRoles(kindOf(told)).every(r => told[r] !== undefined)) return reading(skeleton, told, 'roles')
  const named = byNames(skeleton)
  const four = recogniseFourleg(skeleton, { ...named, ...told })
  if (four) return reading(skeleton, { ...four, ...(kindOf(told) === 'fourleg' ? told : {}) }, 'structure')
  Object.assign(named, told)
  if (REQUIRED_ROLES.every(r => named[r] !== undefined) && plausible(skeleton, named))
    return reading(skeleton, named, 'names')
  const built = byStructure(skeleton)
  const count = (r: Record<string, number>): number => REQUIRED_ROLES.filter(role => r[role] !== undefined).length
  if (built && count(built) >= count(named)) return reading(skeleton, built, 'structure')
  return reading(skeleton, named, 'names')
}

function reading(skeleton: Skeleton, body: Record<string, number>, by: RoleReading['by']): RoleReading {
  const kind = kindOf(body)
  const fingers = kind === 'biped' ? recogniseFingers(skeleton, { left: body.leftHand, right: body.rightHand }) : {}
  const joints = { ...fingers, ...body }
  const used = new Set(Object.values(joints))
  return {
    kind,
    joints,
    by,
    missing: requiredRoles(kind).filter(r => joints[r] === undefined),
    extra: skeleton.names.flatMap((_, j) => (used.has(j) ? [] : [j])),
  }
}

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

function byStructure(skeleton: Skeleton): Record<string, number> | undefined {
  const joints = jointsInWorld(skeleton)
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
    const neckChild = children[chest]
      .filter(c => c !== arms.a.root && c !== arms.b.root)
      .map(c => longestRun(c))
      .sort((x, y) => y.length - x.length)[0]
    if (neckChild) {
      const chain = neckChild.chain
      if (chain.length >= 3) {
        // a last bone longer than the one before leads to the top of the head and not to another joint of the neck
        const bone = (i: number): number => distance(joints[chain[i]].position, joints[chain[i - 1]].position)
        const ends = bone(chain.length - 1) > 1.3 * bone(chain.length - 2)
        roles.neck = chain[0]
        roles.head = chain[chain.length - (ends ? 2 : 1)]
      } else if (chain.length === 2) {
        roles.neck = chain[0]
        roles.head = chain[1]
      } else roles.head = chain[0]
    }
    const up = normalize(sub(joints[chest].position, joints[hips].position))
    const ankle = [legs.a, legs.b].map(l => legJoints(l))
    const forward = ankle
      .map(l => (l.toes !== undefined ? sub(joints[l.toes].position, joints[l.foot].position) : ([0, 0, 0] as Vec3)))
      .reduce((s, v) => add(s, v), [0, 0, 0] as Vec3)
    const flat = sub(forward, scale(up, dot(forward, up)))
    if (Math.hypot(...flat) < 1e-9) return undefined
    const left = cross(up, normalize(flat))
    const isLeft = (l: Limb, other: Limb): boolean =>
      dot(left, sub(joints[l.chain[1]].position, joints[other.chain[1]].position)) > 0
    for (const [a, b] of [
      [legs.a, legs.b],
      [legs.b, legs.a],
    ]) {
      const side = isLeft(a, b) ? 'left' : 'right'
      const l = legJoints(a)
      roles[`${side}UpperLeg`] = l.upper
      roles[`${side}LowerLeg`] = l.lower
      roles[`${side}Foot`] = l.foot
      if (l.toes !== undefined) roles[`${side}Toes`] = l.toes
    }
    for (const [a, b] of [
      [arms.a, arms.b],
      [arms.b, arms.a],
    ]) {
      const side = isLeft(a, b) ? 'left' : 'right'
      const l = armJoints(joints, a)
      if (!l) return undefined
      if (l.shoulder !== undefined) roles[`${side}Shoulder`] = l.shoulder
      roles[`${side}UpperArm`] = l.upper
      roles[`${side}LowerArm`] = l.lower
      roles[`${side}Hand`] = l.hand
    }
    return roles
  }
  return undefined
}

/** A leg is thigh, shin, foot and, where there are any, toes. */
function legJoints(limb: Limb): { upper: number; lower: number; foot: number; toes?: number } {
  const c = limb.chain
  return { upper: c[0], lower: c[1], foot: c[Math.min(2, c.length - 1)], toes: c[3] }
}

/** A collarbone is a first bone much shorter than the two that follow. */
function armJoints(
  joints: readonly WorldJoint[],
  limb: Limb,
): { shoulder?: number; upper: number; lower: number; hand: number } | undefined {
  const c = limb.chain
  const bone = (i: number): number =>
    c[i + 1] === undefined ? 0 : distance(joints[c[i]].position, joints[c[i + 1]].position)
  // the two long bones in a row are upper arm and forearm
  let best = 0
  let longest = -1
  for (let i = 0; i + 2 < c.length; i++) {
    const both = Math.min(bone(i), bone(i + 1))
    if (both > longest * 1.15) {
      longest = both
      best = i
    }
  }
  if (c.length < best + 3) return undefined
  return { shoulder: best > 0 ? c[best - 1] : undefined, upper: c[best], lower: c[best + 1], hand: c[best + 2] }
}
