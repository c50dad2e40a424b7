import { add, angleBetween, cross, distance, dot, normalize, scale, sub, type Vec3 } from '../math'
import { commonAncestor, isBelow, limbPairs, longestRuns, type Limb } from './limb-runs'
import { ENDS } from './recognise-fingers'
import { commonPrefix, readName } from './recognise-names'
import { childrenOf, jointsInWorld, type Skeleton, type WorldJoint } from './skeleton'

/** The trunk lies across the legs by this much at least, radians, and front and hind legs point within this of each other. */
const ACROSS = 0.85,
  ALONG = 0.7
/** Paws of front and hind legs end within this share of a leg at one level. */
const LEVEL = 0.3
/** A head within this of the way the trunk goes sits on an upright one, radians. */
const UPRIGHT = 0.35

const FRONT = /front|fore|(^|[^a-z])f[lr]([^a-z]|$)/i
const HIND = /hind|rear|(^|[^a-z])[hb][lr]([^a-z]|$)/i

interface Quarters {
  readonly hips: number
  readonly chest: number
  readonly front: readonly [Limb, Limb]
  readonly hind: readonly [Limb, Limb]
}

/**
 * Finds the roles of a body on four legs: a pelvis with two legs and a chest with two more, the trunk lying across them and
 * all four ending at one level. Names tell sides and the shoulder blade where they can; many recordings call the front legs
 * arms, so what a limb is called does not matter.
 * @param biped roles read as if it stood on two legs, which may show where the limbs are
 * @param certain somebody said that it stands on four legs: how it stands at rest does not matter
 * @returns joint by role, or undefined where the body does not stand on four legs
 */
export function recogniseFourleg(
  skeleton: Skeleton,
  biped: Readonly<Record<string, number>>,
  certain = false,
): Record<string, number> | undefined {
  const joints = jointsInWorld(skeleton)
  const found = byQuarterNames(skeleton, joints) ?? byStructure(skeleton, joints) ?? byBiped(skeleton, joints, biped)
  if (!found || !(certain || stands(joints, found))) return undefined
  const roles = rolesOf(skeleton, joints, found)
  return !certain && sits(joints, roles) ? undefined : roles
}

/** Whether the trunk lies across four legs that end at one level. */
function stands(joints: readonly WorldJoint[], { hips, chest, front, hind }: Quarters): boolean {
  const at = (j: number): Vec3 => joints[j].position
  const end = (l: Limb): Vec3 => at(l.chain[l.chain.length - 1])
  const from = at(hips)
  const hindEnd = scale(add(end(hind[0]), end(hind[1])), 0.5),
    frontEnd = scale(add(end(front[0]), end(front[1])), 0.5)
  const trunk = sub(at(chest), from),
    back = sub(hindEnd, from),
    fore = sub(frontEnd, at(chest))
  if ([trunk, back, fore].some(v => Math.hypot(...v) < 1e-9)) return false
  const across = angleBetween(normalize(trunk), normalize(back))
  if (across < ACROSS || across > Math.PI - ACROSS || angleBetween(normalize(back), normalize(fore)) > ALONG)
    return false
  const down = normalize(back)
  const a = dot(sub(hindEnd, from), down),
    b = dot(sub(frontEnd, from), down)
  return Math.abs(a - b) < LEVEL * Math.max(Math.abs(a), Math.abs(b))
}

/** Whether it is rather somebody sitting with arms and legs ahead: no tail, and the head straight on from the trunk. */
function sits(joints: readonly WorldJoint[], roles: Readonly<Record<string, number>>): boolean {
  if (roles.tail1 !== undefined || roles.head === undefined || roles.neck === undefined) return false
  const way = (a: number, b: number): Vec3 => sub(joints[b].position, joints[a].position)
  const trunk = way(roles.hips, roles.neck),
    neck = way(roles.neck, roles.head)
  return (
    Math.hypot(...trunk) > 1e-9 &&
    Math.hypot(...neck) > 1e-9 &&
    angleBetween(normalize(trunk), normalize(neck)) < UPRIGHT
  )
}

function byStructure(skeleton: Skeleton, joints: readonly WorldJoint[]): Quarters | undefined {
  const pairs = limbPairs(skeleton, joints)
  for (let hips = 0; hips < joints.length; hips++) {
    const hind = pairs[hips]
    if (!hind) continue
    const chest = pairs.findIndex(
      (p, j) =>
        p && isBelow(skeleton, j, hips) && [hind.a.root, hind.b.root].every(r => j !== r && !isBelow(skeleton, j, r)),
    )
    if (chest < 0) continue
    const front = pairs[chest]!
    return { hips, chest, front: [front.a, front.b], hind: [hind.a, hind.b] }
  }
  return undefined
}

/** Limbs told by a member of each: from the fork they hang on down to their ends. */
function ofMembers(
  skeleton: Skeleton,
  joints: readonly WorldJoint[],
  front: readonly [number, number],
  hind: readonly [number, number],
): Quarters | undefined {
  const run = longestRuns(joints, childrenOf(skeleton))
  const limb = (member: number, fork: number): Limb => {
    let top = member
    while (skeleton.parents[top] !== fork) top = skeleton.parents[top]
    return run(top)
  }
  const hips = commonAncestor(skeleton, ...hind),
    chest = commonAncestor(skeleton, ...front)
  if (hips < 0 || chest < 0 || hips === chest) return undefined
  const quarters: Quarters = {
    hips,
    chest,
    front: [limb(front[0], chest), limb(front[1], chest)],
    hind: [limb(hind[0], hips), limb(hind[1], hips)],
  }
  return [...quarters.front, ...quarters.hind].every(l => l.chain.length >= 3) ? quarters : undefined
}

function byBiped(
  skeleton: Skeleton,
  joints: readonly WorldJoint[],
  roles: Readonly<Record<string, number>>,
): Quarters | undefined {
  const [fl, fr, hl, hr] = [roles.leftLowerArm, roles.rightLowerArm, roles.leftLowerLeg, roles.rightLowerLeg]
  return [fl, fr, hl, hr].some(j => j === undefined) ? undefined : ofMembers(skeleton, joints, [fl, fr], [hl, hr])
}

/** Limbs whose names say front or hind. */
function byQuarterNames(skeleton: Skeleton, joints: readonly WorldJoint[]): Quarters | undefined {
  const prefix = commonPrefix(skeleton.names)
  const sideOf = (name: string): string | undefined =>
    readName(name, prefix).side ??
    (/(^|[^a-z])[fhb]l([^a-z]|$)/i.test(name) ? 'left' : /(^|[^a-z])[fhb]r([^a-z]|$)/i.test(name) ? 'right' : undefined)
  const topmost = (word: RegExp, side: string): number =>
    skeleton.names.findIndex(n => word.test(n.slice(n.startsWith(prefix) ? prefix.length : 0)) && sideOf(n) === side)
  const members = [topmost(FRONT, 'left'), topmost(FRONT, 'right'), topmost(HIND, 'left'), topmost(HIND, 'right')]
  return members.some(j => j < 0)
    ? undefined
    : ofMembers(skeleton, joints, [members[0], members[1]], [members[2], members[3]])
}

function rolesOf(
  skeleton: Skeleton,
  joints: readonly WorldJoint[],
  { hips, chest, front, hind }: Quarters,
): Record<string, number> {
  const roles: Record<string, number> = { hips }
  const at = (j: number): Vec3 => joints[j].position
  const trunk = spineOf(skeleton, hips, chest)
  if (trunk.length > 0) roles.spine = trunk[0]
  if (trunk.length > 1) roles.chest = chest
  const down = normalize(add(sub(at(last(hind[0].chain)), at(hips)), sub(at(last(hind[1].chain)), at(hips))))
  const left = cross(scale(down, -1), sub(at(chest), at(hips)))
  for (const [pair, quarter] of [
    [front, 'Front'],
    [hind, 'Hind'],
  ] as const) {
    const lefts = leftFirst(skeleton, joints, pair, left)
    lefts.forEach((limb, i) => {
      const side = i === 0 ? 'left' : 'right'
      legRoles(skeleton, joints, limb.chain, quarter === 'Front').forEach(([part, j]) => {
        roles[side + quarter + part] = j
      })
    })
  }
  const legs = [...front, ...hind].map(l => l.root)
  const children = childrenOf(skeleton)
  const run = longestRuns(joints, children)
  const neck = children[chest]
    .filter(c => !legs.includes(c))
    .map(run)
    .sort((a, b) => b.length - a.length)[0]
  if (neck) Object.assign(roles, neckRoles(skeleton, children, neck.chain))
  const tail = children[hips]
    .filter(c => !legs.includes(c) && c !== trunk[0])
    .map(run)
    .filter(
      l =>
        l.chain.some(j => /tail/i.test(skeleton.names[j])) ||
        dot(sub(at(last(l.chain)), at(hips)), sub(at(chest), at(hips))) < 0,
    )
    .sort((a, b) => b.length - a.length)[0]
  tail?.chain
    .filter(j => !ENDS.test(skeleton.names[j]))
    .forEach((j, i) => {
      roles[`tail${i + 1}`] = j
    })
  const prefix = commonPrefix(skeleton.names)
  skeleton.names.forEach((n, j) => {
    const side =
      /ear(?!th)/i.test(n) && roles.head !== undefined && isBelow(skeleton, j, roles.head)
        ? readName(n, prefix).side
        : undefined
    if (side) roles[`${side}Ear`] ??= j
  })
  return roles
}

const last = (chain: readonly number[]): number => chain[chain.length - 1]

function spineOf(skeleton: Skeleton, hips: number, chest: number): number[] {
  const spine: number[] = []
  for (let p = chest; p !== hips && p >= 0; p = skeleton.parents[p]) spine.unshift(p)
  return spine
}

/** The pair with its left limb first: by side marks where both tell one, else by place. */
function leftFirst(
  skeleton: Skeleton,
  joints: readonly WorldJoint[],
  [a, b]: readonly [Limb, Limb],
  left: Vec3,
): readonly [Limb, Limb] {
  const prefix = commonPrefix(skeleton.names)
  const side = (l: Limb): string | undefined =>
    l.chain.map(j => readName(skeleton.names[j], prefix).side).find(s => s !== undefined)
  const [sa, sb] = [side(a), side(b)]
  if (sa && sb && sa !== sb) return sa === 'left' ? [a, b] : [b, a]
  return dot(left, sub(joints[a.chain[1]].position, joints[b.chain[1]].position)) >= 0 ? [a, b] : [b, a]
}

/** Names the joints of a leg from above; a front leg may begin with its shoulder blade, a hind one with half of the pelvis. */
function legRoles(
  skeleton: Skeleton,
  joints: readonly WorldJoint[],
  whole: readonly number[],
  front: boolean,
): [string, number][] {
  const chain = whole.filter((j, i) => i < 3 || !ENDS.test(skeleton.names[j]))
  const bone = (i: number): number => distance(joints[chain[i]].position, joints[chain[i + 1]].position)
  const parts = ['UpperLeg', 'LowerLeg', 'Foot', 'Toes']
  if (!front) {
    const short = chain.length > 4 && bone(0) < 0.35 * bone(1)
    return chain
      .slice(short ? 1 : 0)
      .slice(0, 4)
      .map((j, i) => [parts[i], j])
  }
  const named = /scap|clav|collar|shoulder|shldr/i.test(skeleton.names[chain[0]])
  // an unnamed leg of four joints ends in its toes where the last bone is the shortest
  const blade = chain.length > 4 || (chain.length === 4 && (named || bone(2) > 0.8 * Math.max(bone(0), bone(1))))
  return (blade ? ['Shoulder', ...parts] : parts).flatMap((part, i): [string, number][] =>
    chain[i] === undefined ? [] : [[part, chain[i]]],
  )
}

function neckRoles(
  skeleton: Skeleton,
  children: readonly number[][],
  chain: readonly number[],
): Record<string, number> {
  const named = chain.findIndex(j => /head|skull/i.test(skeleton.names[j]))
  const forks = chain.findIndex((j, i) => i > 0 && children[j].length > 1)
  const head = named >= 0 ? named : forks >= 0 ? forks : Math.max(0, chain.length - (chain.length > 2 ? 2 : 1))
  const roles: Record<string, number> = { head: chain[head] }
  chain.slice(0, head).forEach((j, i) => {
    roles[i === 0 ? 'neck' : `neck${i + 1}`] = j
  })
  return roles
}
