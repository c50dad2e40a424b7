import { addScaled, conjugate, fromAxisAngle, lerp, multiply, normalizeQuat, rotate, seededNormal, slerp, sub, type Quat, type Vec3 } from '@chiraxis/core/math'
import type { Take } from '@chiraxis/core/motion'
import { skeletonFromWorld, type Skeleton, type WorldJoint } from '@chiraxis/core/skeleton'
import { FINGERS, fingerParts, PERSON, SPINE_TURN, type Moment } from './motion-model'
import type { Move } from './moves'

/** The habits of a recording system: how it names, places, turns and measures the joints of one and the same person. */
export interface Habit {
  readonly name: string
  /** Joint name by role; roles left out have no joint. `spine0`, `spine1` … are the joints of the spine from below. */
  readonly names: Readonly<Record<string, string>>
  /** Where the spine's joints lie between hips and neck. */
  readonly spine: readonly number[]
  /** Units in a metre. */
  readonly unit: number
  /** The turn from Y up, facing +Z to the recording's own space. */
  readonly space: Quat
  /** How the rest pose stands away from arms straight out, by role; parts below follow. */
  readonly rest: Readonly<Record<string, Quat>>
  /** The joint's own axes at rest, in the recording's space; none are along the world. */
  readonly axes?: (role: string) => Quat
  /** Where the rest pose's hips are: at their height over the ground, or at the origin. */
  readonly restAtOrigin?: boolean
}

const IDENTITY: Quat = [0, 0, 0, 1]

const PARENTS: Readonly<Record<string, string>> = {
  neck: 'spineTop', head: 'neck',
  ...Object.fromEntries(['left', 'right'].flatMap(s => [
    [`${s}Shoulder`, 'spineTop'], [`${s}UpperArm`, `${s}Shoulder`], [`${s}LowerArm`, `${s}UpperArm`], [`${s}Hand`, `${s}LowerArm`],
    ...FINGERS.flatMap(finger => fingerParts(finger).map((part, i): [string, string] => [`${s}${finger}${part}`, i === 0 ? `${s}Hand` : `${s}${finger}${fingerParts(finger)[i - 1]}`])),
    [`${s}UpperLeg`, 'hips'], [`${s}LowerLeg`, `${s}UpperLeg`], [`${s}Foot`, `${s}LowerLeg`], [`${s}Toes`, `${s}Foot`],
  ])),
}

interface Plan { readonly role: string; readonly parent: number; readonly offset: Vec3; readonly tip?: Vec3; readonly share?: number }

/** Joints parents first, each with its offset from its parent in the arms-out stance. */
function planOf(habit: Habit): Plan[] {
  const order = ['hips', ...habit.spine.map((_, i) => `spine${i}`), 'neck', 'head',
    ...['left', 'right'].flatMap(s => ['Shoulder', 'UpperArm', 'LowerArm', 'Hand'].map(p => s + p)),
    ...['left', 'right'].flatMap(s => FINGERS.flatMap(finger => fingerParts(finger).map(part => s + finger + part))),
    ...['left', 'right'].flatMap(s => ['UpperLeg', 'LowerLeg', 'Foot', 'Toes'].map(p => s + p))].filter(r => habit.names[r] !== undefined)
  const place = (role: string): Vec3 => (role.startsWith('spine') ? lerp(PERSON.hips, PERSON.neck, habit.spine[Number(role.slice(5))]) : PERSON[role])
  const plans: Plan[] = []
  for (const role of order) {
    let parentRole: string | undefined
    if (role.startsWith('spine')) parentRole = role === 'spine0' ? 'hips' : `spine${Number(role.slice(5)) - 1}`
    else if (role !== 'hips') {
      parentRole = PARENTS[role] === 'spineTop' ? `spine${habit.spine.length - 1}` : PARENTS[role]
      while (parentRole && !order.includes(parentRole)) parentRole = PARENTS[parentRole] === 'spineTop' ? `spine${habit.spine.length - 1}` : PARENTS[parentRole]
    }
    const parent = parentRole ? order.indexOf(parentRole) : -1
    plans.push({
      role, parent, share: role.startsWith('spine') ? habit.spine[Number(role.slice(5))] : undefined,
      offset: parent >= 0 ? sub(place(role), place(order[parent])) : place(role),
      tip: PERSON[`${role}End`] && sub(PERSON[`${role}End`], place(role)),
    })
  }
  return plans
}

/** Turn of a joint at a moment; spine joints lie between pelvis and chest. */
const turnOf = (plan: Plan, moment: Pick<Moment, 'turns'>): Quat =>
  plan.share === undefined ? moment.turns[plan.role] ?? IDENTITY : slerp(moment.turns.hips, moment.turns.chest, Math.min(1, plan.share / SPINE_TURN))

/** Records a move on a skeleton with the given habits. */
export function record(move: Move, habit: Habit, fps = 30, noise?: { degrees: number; seed: number }): { skeleton: Skeleton; take: Take; contacts: [boolean, boolean][] } {
  const plans = planOf(habit)
  const axes = (role: string): Quat => habit.axes?.(role) ?? IDENTITY
  const { space, unit } = habit
  const toSpace = (q: Quat): Quat => multiply(multiply(space, q), conjugate(space))
  // the rest stance, limb by limb
  const stance: Quat[] = []
  const joints: WorldJoint[] = []
  plans.forEach(plan => {
    const carried = plan.parent >= 0 ? stance[plan.parent] : IDENTITY
    const own = habit.rest[plan.role]
    // arms and legs inherit the turn of the limb above, the girdle and the feet do not
    const q = own ?? (/LowerArm|Hand|LowerLeg|Thumb|Index|Middle|Ring|Little/.test(plan.role) ? carried : IDENTITY)
    stance.push(q)
    const base: Vec3 = plan.parent >= 0 ? joints[plan.parent].position : [0, 0, 0]
    const offset = plan.parent >= 0 ? rotate(stance[plan.parent], plan.offset) : habit.restAtOrigin ? ([0, 0, 0] as Vec3) : plan.offset
    const position = addScaled(base, rotate(space, offset), unit)
    joints.push({
      name: habit.names[plan.role], parent: plan.parent, position, rotation: multiply(toSpace(IDENTITY), axes(plan.role)),
      tip: plan.tip && addScaled(position, rotate(space, rotate(q, plan.tip)), unit),
    })
  })
  const skeleton = skeletonFromWorld(joints)
  const n = plans.length
  const frames = Math.round(move.seconds * fps) + 1
  const rotations = new Float32Array(4 * n * frames)
  const translations = new Float32Array(3 * n * frames)
  const contacts: [boolean, boolean][] = []
  const shake = noise && seededNormal(noise.seed)
  for (let f = 0; f < frames; f++) {
    const moment = move.at(f / fps)
    contacts.push([...moment.contact])
    const world = plans.map((plan, j) => {
      let q = multiply(turnOf(plan, moment), conjugate(stance[j]))
      if (noise && shake) q = multiply(q, normalizeQuat(fromAxisAngle([1, 0, 0], (shake() * noise.degrees * Math.PI) / 180)))
      return multiply(toSpace(q), axes(plan.role))
    })
    plans.forEach((plan, j) => {
      const local = plan.parent >= 0 ? multiply(conjugate(world[plan.parent]), world[j]) : world[j]
      rotations.set(local, 4 * (f * n + j))
      const t = plan.parent >= 0 ? skeleton.restTranslations.subarray(3 * j, 3 * j + 3) : rotate(space, moment.hips).map(v => v * unit)
      translations.set(t, 3 * (f * n + j))
    })
  }
  return { skeleton, take: { name: move.name, fps, frames, rotations, translations }, contacts }
}

const sides = (f: (side: 'left' | 'right', S: 'L' | 'R') => [string, string][]): Record<string, string> =>
  Object.fromEntries([...f('left', 'L'), ...f('right', 'R')])

/** North: metres, Y up, arms out, names with a prefix. */
export const NORTH: Habit = {
  name: 'North', unit: 1, space: IDENTITY, rest: {}, spine: [0.17, 0.45, 0.76],
  names: {
    hips: 'north:Hips', spine0: 'north:Spine', spine1: 'north:Chest', spine2: 'north:UpperChest', neck: 'north:Neck', head: 'north:Head',
    ...sides((s, S) => {
      const word = S === 'L' ? 'Left' : 'Right'
      return [[`${s}Shoulder`, `north:${word}Clavicle`], [`${s}UpperArm`, `north:${word}UpperArm`], [`${s}LowerArm`, `north:${word}ForeArm`], [`${s}Hand`, `north:${word}Hand`],
        ...FINGERS.flatMap(finger => fingerParts(finger).map((part, i): [string, string] => [`${s}${finger}${part}`, `north:${word}${finger}${i + 1}`])),
        [`${s}UpperLeg`, `north:${word}Thigh`], [`${s}LowerLeg`, `north:${word}Shin`], [`${s}Foot`, `north:${word}Foot`], [`${s}Toes`, `north:${word}Toes`]]
    }),
  },
}

/** South: centimetres, Z up, arms down, other names, a spine of five, rest pose at the origin. */
export const SOUTH: Habit = {
  name: 'South', unit: 100, space: fromAxisAngle([1, 0, 0], Math.PI / 2), spine: [0.12, 0.28, 0.44, 0.6, 0.76], restAtOrigin: true,
  rest: { leftUpperArm: fromAxisAngle([0, 0, 1], (-78 * Math.PI) / 180), rightUpperArm: fromAxisAngle([0, 0, 1], (78 * Math.PI) / 180) },
  names: {
    hips: 'pelvis', spine0: 'back_1', spine1: 'back_2', spine2: 'back_3', spine3: 'back_4', spine4: 'back_5', neck: 'neck', head: 'skull',
    ...sides((s, S) => [[`${s}Shoulder`, `collar.${S}`], [`${s}UpperArm`, `arm.${S}`], [`${s}LowerArm`, `elbow.${S}`], [`${s}Hand`, `wrist.${S}`],
      [`${s}UpperLeg`, `femur.${S}`], [`${s}LowerLeg`, `knee.${S}`], [`${s}Foot`, `ankle.${S}`], [`${s}Toes`, `ball.${S}`]]),
  },
}

/** The same person recorded the North way, but with every joint's axes along its bone. */
export const NORTH_ALONG: Habit = {
  ...NORTH, name: 'North, along the bone',
  axes: role => (/Arm|Hand|Shoulder/.test(role) ? fromAxisAngle([0, 0, 1], ((role.startsWith('left') ? -90 : 90) * Math.PI) / 180)
    : /Leg/.test(role) ? fromAxisAngle([1, 0, 0], Math.PI) : /Foot|Toes/.test(role) ? fromAxisAngle([1, 0, 0], Math.PI / 2) : IDENTITY),
}

