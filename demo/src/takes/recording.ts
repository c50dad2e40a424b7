import {
  addScaled,
  conjugate,
  fromAxisAngle,
  lerp,
  multiply,
  normalizeQuat,
  rotate,
  seededNormal,
  sub,
  type Quat,
  type Vec3,
} from '@chiraxis/core/math'
import type { Take } from '@chiraxis/core/motion'
import { skeletonFromWorld, type Skeleton, type WorldJoint } from '@chiraxis/core/skeleton'
import { FOUR_LEGS } from '@chiraxis/core/body'
import { HOUND } from './hound-model'
import { FINGERS, fingerParts, PERSON, type Moment } from './motion-model'
import type { Move } from './gaits'

/** A part with any number of joints: which part of the body it hangs on and ends at, and where along the way its joints lie. */
interface Run {
  readonly on: string
  readonly from: string
  readonly to: string
  readonly at: readonly number[]
}

/** A body that was recorded: where its joints are by role, parents first, and what each hangs on. */
export interface Recorded {
  readonly places: Readonly<Record<string, Vec3>>
  readonly order: readonly string[]
  readonly parents: Readonly<Record<string, string>>
}

/** The habits of a recording system: how it names, places, turns and measures the joints of one and the same body. */
export interface Habit {
  readonly name: string
  readonly body: Recorded
  /** Joint name by role; roles left out have no joint. Joints of a run are numbered from 0: `spine0`, `spine1` … */
  readonly names: Readonly<Record<string, string>>
  /** Parts of several joints: the spine from the hips to the neck, and on a hound neck and tail. */
  readonly runs: Readonly<Record<string, Run>>
  /** Units in a metre. */
  readonly unit: number
  /** The turn from Y up, facing +Z to the recording's own space. */
  readonly space: Quat
  /** How the rest pose stands away from the body as placed, by role; parts below follow. */
  readonly rest: Readonly<Record<string, Quat>>
  /** The joint's own axes at rest, in the recording's space; none are along the world. */
  readonly axes?: (role: string) => Quat
  /** Where the rest pose's hips are: at their height over the ground, or at the origin. */
  readonly restAtOrigin?: boolean
}

const IDENTITY: Quat = [0, 0, 0, 1]

/** The person; what hangs on the spine hangs on its last joint. */
const PERSON_BODY: Recorded = {
  places: PERSON,
  order: [
    'hips',
    'spine',
    'neck',
    'head',
    ...['left', 'right'].flatMap(s => ['Shoulder', 'UpperArm', 'LowerArm', 'Hand'].map(p => s + p)),
    ...['left', 'right'].flatMap(s => FINGERS.flatMap(finger => fingerParts(finger).map(part => s + finger + part))),
    ...['left', 'right'].flatMap(s => ['UpperLeg', 'LowerLeg', 'Foot', 'Toes'].map(p => s + p)),
  ],
  parents: {
    neck: 'spine',
    head: 'neck',
    ...Object.fromEntries(
      ['left', 'right'].flatMap(s => [
        [`${s}Shoulder`, 'spine'],
        [`${s}UpperArm`, `${s}Shoulder`],
        [`${s}LowerArm`, `${s}UpperArm`],
        [`${s}Hand`, `${s}LowerArm`],
        ...FINGERS.flatMap(finger =>
          fingerParts(finger).map((part, i): [string, string] => [
            `${s}${finger}${part}`,
            i === 0 ? `${s}Hand` : `${s}${finger}${fingerParts(finger)[i - 1]}`,
          ]),
        ),
        [`${s}UpperLeg`, 'hips'],
        [`${s}LowerLeg`, `${s}UpperLeg`],
        [`${s}Foot`, `${s}LowerLeg`],
        [`${s}Toes`, `${s}Foot`],
      ]),
    ),
  },
}

const HOUND_LEGS = FOUR_LEGS.map(leg => ({
  leg,
  roles: [...(leg.endsWith('Front') ? ['Shoulder'] : []), 'UpperLeg', 'LowerLeg', 'Foot', 'Toes'].map(
    part => leg + part,
  ),
}))
const HOUND_BODY: Recorded = {
  places: HOUND,
  order: ['hips', 'spine', 'neck', 'head', 'leftEar', 'rightEar', 'tail', ...HOUND_LEGS.flatMap(l => l.roles)],
  parents: {
    neck: 'spine',
    head: 'neck',
    leftEar: 'head',
    rightEar: 'head',
    ...Object.fromEntries(
      HOUND_LEGS.flatMap(({ leg, roles }) =>
        roles.map((r, i) => [r, i > 0 ? roles[i - 1] : leg.endsWith('Front') ? 'spine' : 'hips']),
      ),
    ),
  },
}

interface Plan {
  readonly role: string
  readonly parent: number
  readonly offset: Vec3
  readonly tip?: Vec3
  readonly run?: { readonly part: string; readonly share: number }
}

/** Joints parents first, each with its offset from its parent in the arms-out stance. */
function planOf({ body, names, runs }: Habit): Plan[] {
  const joints = body.order.flatMap((role): { role: string; place: Vec3; parent?: string; run?: Plan['run'] }[] => {
    const run = runs[role]
    if (!run) return names[role] === undefined ? [] : [{ role, place: body.places[role], parent: body.parents[role] }]
    return run.at.map((share, i) => ({
      role: `${role}${i}`,
      place: lerp(body.places[run.from], body.places[run.to], share),
      parent: i === 0 ? run.on : `${role}${i - 1}`,
      run: { part: role, share },
    }))
  })
  const indexOf = (parent: string | undefined): number => {
    for (let p = parent; p !== undefined; p = body.parents[p]) {
      const last = runs[p] ? `${p}${runs[p].at.length - 1}` : p
      const at = joints.findIndex(j => j.role === last)
      if (at >= 0) return at
    }
    return -1
  }
  return joints.map(({ role, place, parent: above, run }) => {
    const parent = indexOf(above)
    const ends =
      run && run.share === runs[run.part].at.at(-1) && run.part === 'tail'
        ? body.places.tailEnd
        : body.places[`${role}End`]
    return {
      role,
      parent,
      run,
      offset: parent >= 0 ? sub(place, joints[parent].place) : place,
      tip: ends && sub(ends, place),
    }
  })
}

/** Turn of a joint at a moment. */
const turnOf = (plan: Plan, moment: Pick<Moment, 'turns' | 'along'>): Quat =>
  plan.run && moment.along[plan.run.part]
    ? moment.along[plan.run.part](plan.run.share)
    : (moment.turns[plan.role] ?? IDENTITY)

/** Records a move on a skeleton with the given habits. */
export function record(
  move: Move,
  habit: Habit,
  fps = 30,
  noise?: { degrees: number; seed: number },
): { skeleton: Skeleton; take: Take; contacts: boolean[][] } {
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
    const offset =
      plan.parent >= 0
        ? rotate(stance[plan.parent], plan.offset)
        : habit.restAtOrigin
          ? ([0, 0, 0] as Vec3)
          : plan.offset
    const position = addScaled(base, rotate(space, offset), unit)
    joints.push({
      name: habit.names[plan.role],
      parent: plan.parent,
      position,
      rotation: multiply(toSpace(IDENTITY), axes(plan.role)),
      tip: plan.tip && addScaled(position, rotate(space, rotate(q, plan.tip)), unit),
    })
  })
  const skeleton = skeletonFromWorld(joints)
  const n = plans.length
  const frames = Math.round(move.seconds * fps) + 1
  const rotations = new Float32Array(4 * n * frames)
  const translations = new Float32Array(3 * n * frames)
  const contacts: boolean[][] = []
  const shake = noise && seededNormal(noise.seed)
  for (let f = 0; f < frames; f++) {
    const moment = move.at(f / fps, habit.runs.spine.at)
    contacts.push([...moment.contact])
    const world = plans.map((plan, j) => {
      let q = multiply(turnOf(plan, moment), conjugate(stance[j]))
      if (noise && shake)
        q = multiply(q, normalizeQuat(fromAxisAngle([1, 0, 0], (shake() * noise.degrees * Math.PI) / 180)))
      return multiply(toSpace(q), axes(plan.role))
    })
    plans.forEach((plan, j) => {
      const local = plan.parent >= 0 ? multiply(conjugate(world[plan.parent]), world[j]) : world[j]
      rotations.set(local, 4 * (f * n + j))
      const t =
        plan.parent >= 0
          ? skeleton.restTranslations.subarray(3 * j, 3 * j + 3)
          : rotate(space, moment.hips).map(v => v * unit)
      translations.set(t, 3 * (f * n + j))
    })
  }
  return { skeleton, take: { name: move.name, fps, frames, rotations, translations }, contacts }
}

const sides = (f: (side: 'left' | 'right', S: 'L' | 'R') => [string, string][]): Record<string, string> =>
  Object.fromEntries([...f('left', 'L'), ...f('right', 'R')])

const spineAt = (...at: number[]): Habit['runs'] => ({ spine: { on: 'hips', from: 'hips', to: 'neck', at } })

/** North: metres, Y up, arms out, names with a prefix. */
export const NORTH: Habit = {
  name: 'North',
  body: PERSON_BODY,
  unit: 1,
  space: IDENTITY,
  rest: {},
  runs: spineAt(0.17, 0.45, 0.76),
  names: {
    hips: 'north:Hips',
    spine0: 'north:Spine',
    spine1: 'north:Chest',
    spine2: 'north:UpperChest',
    neck: 'north:Neck',
    head: 'north:Head',
    ...sides((s, S) => {
      const word = S === 'L' ? 'Left' : 'Right'
      return [
        [`${s}Shoulder`, `north:${word}Clavicle`],
        [`${s}UpperArm`, `north:${word}UpperArm`],
        [`${s}LowerArm`, `north:${word}ForeArm`],
        [`${s}Hand`, `north:${word}Hand`],
        ...FINGERS.flatMap(finger =>
          fingerParts(finger).map((part, i): [string, string] => [
            `${s}${finger}${part}`,
            `north:${word}${finger}${i + 1}`,
          ]),
        ),
        [`${s}UpperLeg`, `north:${word}Thigh`],
        [`${s}LowerLeg`, `north:${word}Shin`],
        [`${s}Foot`, `north:${word}Foot`],
        [`${s}Toes`, `north:${word}Toes`],
      ]
    }),
  },
}

/** South: centimetres, Z up, arms down, other names, a spine of five, rest pose at the origin. */
export const SOUTH: Habit = {
  name: 'South',
  body: PERSON_BODY,
  unit: 100,
  space: fromAxisAngle([1, 0, 0], Math.PI / 2),
  runs: spineAt(0.12, 0.28, 0.44, 0.6, 0.76),
  restAtOrigin: true,
  rest: {
    leftUpperArm: fromAxisAngle([0, 0, 1], (-78 * Math.PI) / 180),
    rightUpperArm: fromAxisAngle([0, 0, 1], (78 * Math.PI) / 180),
  },
  names: {
    hips: 'pelvis',
    spine0: 'back_1',
    spine1: 'back_2',
    spine2: 'back_3',
    spine3: 'back_4',
    spine4: 'back_5',
    neck: 'neck',
    head: 'skull',
    ...sides((s, S) => [
      [`${s}Shoulder`, `collar.${S}`],
      [`${s}UpperArm`, `arm.${S}`],
      [`${s}LowerArm`, `elbow.${S}`],
      [`${s}Hand`, `wrist.${S}`],
      [`${s}UpperLeg`, `femur.${S}`],
      [`${s}LowerLeg`, `knee.${S}`],
      [`${s}Foot`, `ankle.${S}`],
      [`${s}Toes`, `ball.${S}`],
    ]),
  },
}

/** The same person recorded the North way, but with every joint's axes along its bone. */
export const NORTH_ALONG: Habit = {
  ...NORTH,
  name: 'North, along the bone',
  axes: role =>
    /Arm|Hand|Shoulder/.test(role)
      ? fromAxisAngle([0, 0, 1], ((role.startsWith('left') ? -90 : 90) * Math.PI) / 180)
      : /Leg/.test(role)
        ? fromAxisAngle([1, 0, 0], Math.PI)
        : /Foot|Toes/.test(role)
          ? fromAxisAngle([1, 0, 0], Math.PI / 2)
          : IDENTITY,
}

/** What North names the hound's joints: metres, Y up. */
export const NORTH_HOUND: Habit = {
  name: 'North',
  body: HOUND_BODY,
  unit: 1,
  space: IDENTITY,
  rest: {},
  runs: { ...spineAt(0.4, 0.72), tail: { on: 'hips', from: 'tail1', to: 'tailEnd', at: [0, 0.2, 0.4, 0.6, 0.8] } },
  names: {
    hips: 'north:Hips',
    spine0: 'north:Spine',
    spine1: 'north:Chest',
    neck: 'north:Neck',
    head: 'north:Head',
    leftEar: 'north:LeftEar',
    rightEar: 'north:RightEar',
    ...Object.fromEntries([0, 1, 2, 3, 4].map(i => [`tail${i}`, `north:Tail${i + 1}`])),
    ...sides((s, S) =>
      HOUND_LEGS.filter(l => l.leg.startsWith(s)).flatMap(({ roles }) =>
        roles.map((r): [string, string] => [r, `north:${S === 'L' ? 'Left' : 'Right'}${r.slice(s.length)}`]),
      ),
    ),
  },
}

/** What South names them: centimetres, Z up, front legs called arms, more joints in trunk and neck, fewer in the tail, no ears. */
export const SOUTH_HOUND: Habit = {
  name: 'South',
  body: HOUND_BODY,
  unit: 100,
  space: fromAxisAngle([1, 0, 0], Math.PI / 2),
  rest: {},
  runs: {
    ...spineAt(0.2, 0.4, 0.56, 0.72),
    neck: { on: 'spine', from: 'neck', to: 'head', at: [0, 0.36, 0.7] },
    tail: { on: 'hips', from: 'tail1', to: 'tailEnd', at: [0, 0.34, 0.67] },
  },
  names: {
    hips: 'pelvis',
    spine0: 'back_1',
    spine1: 'back_2',
    spine2: 'back_3',
    spine3: 'back_4',
    neck0: 'neck_1',
    neck1: 'neck_2',
    neck2: 'neck_3',
    head: 'skull',
    tail0: 'tail_1',
    tail1: 'tail_2',
    tail2: 'tail_3',
    ...sides((s, S) => [
      [`${s}FrontShoulder`, `blade.${S}`],
      [`${s}FrontUpperLeg`, `arm.${S}`],
      [`${s}FrontLowerLeg`, `elbow.${S}`],
      [`${s}FrontFoot`, `wrist.${S}`],
      [`${s}FrontToes`, `palm.${S}`],
      [`${s}HindUpperLeg`, `femur.${S}`],
      [`${s}HindLowerLeg`, `knee.${S}`],
      [`${s}HindFoot`, `hock.${S}`],
      [`${s}HindToes`, `ball.${S}`],
    ]),
  },
}
