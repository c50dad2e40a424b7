import {
  add,
  cross,
  dot,
  fromAxes,
  fromAxisAngle,
  length,
  multiply,
  normalize,
  rotate,
  scale,
  slerp,
  sub,
  type Quat,
  type Vec3,
} from '@chiraxis/core/math'

export const FINGERS = ['Thumb', 'Index', 'Middle', 'Ring', 'Little'] as const
export type Finger = (typeof FINGERS)[number]
export const fingerParts = (finger: Finger): readonly string[] =>
  finger === 'Thumb' ? ['Metacarpal', 'Proximal', 'Distal'] : ['Proximal', 'Intermediate', 'Distal']

/** Where each finger begins from the wrist of a left hand held straight out, its way, and its bones, metres. */
const HAND: Readonly<Record<Finger, { base: Vec3; way: Vec3; bones: readonly number[] }>> = {
  Thumb: { base: [0.025, -0.008, 0.028], way: [0.72, -0.2, 0.66], bones: [0.042, 0.032, 0.026] },
  Index: { base: [0.092, 0, 0.032], way: [0.995, 0, 0.08], bones: [0.042, 0.026, 0.022] },
  Middle: { base: [0.094, 0, 0.009], way: [1, 0, 0.01], bones: [0.046, 0.029, 0.023] },
  Ring: { base: [0.089, 0, -0.012], way: [0.997, 0, -0.06], bones: [0.042, 0.027, 0.023] },
  Little: { base: [0.081, 0, -0.029], way: [0.99, 0, -0.13], bones: [0.033, 0.019, 0.02] },
}

/** Finger joints of both hands, arms straight out, palms down. */
function fingerPlaces(): [string, Vec3][] {
  return (
    [
      ['left', 1],
      ['right', -1],
    ] as const
  ).flatMap(([side, s]) =>
    FINGERS.flatMap(finger => {
      const { base, way, bones } = HAND[finger]
      const along = normalize(way)
      let p: Vec3 = [0.7 + base[0], 1.41 + base[1], base[2]]
      const places: [string, Vec3][] = []
      const put = (part: string): void => {
        places.push([`${side}${finger}${part}`, [s * p[0], p[1], p[2]]])
      }
      fingerParts(finger).forEach((part, i) => {
        put(part)
        p = add(p, scale(along, bones[i]))
      })
      put(`${fingerParts(finger)[2]}End`)
      return places
    }),
  )
}

/** The recorded person, in metres, standing with arms straight out, Y up, facing +Z, by role. */
export const PERSON: Readonly<Record<string, Vec3>> = {
  ...Object.fromEntries(fingerPlaces()),
  hips: [0, 0.95, 0],
  neck: [0, 1.45, 0],
  head: [0, 1.53, 0.01],
  headEnd: [0, 1.74, 0.01],
  ...Object.fromEntries(
    (
      [
        ['left', 1],
        ['right', -1],
      ] as const
    ).flatMap(([side, s]) => [
      [`${side}Shoulder`, [s * 0.03, 1.41, 0]],
      [`${side}UpperArm`, [s * 0.17, 1.41, 0]],
      [`${side}LowerArm`, [s * 0.45, 1.41, 0]],
      [`${side}Hand`, [s * 0.7, 1.41, 0]],
      [`${side}HandEnd`, [s * 0.88, 1.41, 0]],
      [`${side}UpperLeg`, [s * 0.09, 0.91, 0]],
      [`${side}LowerLeg`, [s * 0.09, 0.5, 0]],
      [`${side}Foot`, [s * 0.09, 0.08, 0]],
      [`${side}Toes`, [s * 0.09, 0.02, 0.13]],
      [`${side}ToesEnd`, [s * 0.09, 0.02, 0.2]],
    ]),
  ),
}

/** One moment: where the hips are, and each part's turn away from standing with arms out, in world axes. */
export interface Moment {
  readonly hips: Vec3
  readonly turns: Readonly<Record<string, Quat>>
  /** Turns of parts of any number of joints, by the share of their length. */
  readonly along: Readonly<Record<string, (share: number) => Quat>>
  /** Toes still on the ground: left and right, or front left and right and hind left and right. */
  readonly contact: readonly boolean[]
  /** What else lies on the ground, or on another part of the body, by role of what touches. */
  readonly touches?: readonly string[]
}

/** What a motion asks of the body at a moment; legs are solved from where the feet are. */
export interface Posture {
  readonly hips: Vec3
  readonly pelvis: Quat
  readonly chest: Quat
  readonly head: Quat
  /** Per side: upper arm turn from straight out, and elbow bend in radians. */
  readonly arms: readonly [ArmPosture, ArmPosture]
  readonly feet: readonly [FootPosture, FootPosture]
}
/** Either how the arm is turned and bent, or where its wrist goes; `wrist` turns the hand on the forearm, `curl` bends each finger, 0..1. */
export type ArmPosture = (
  { readonly turn: Quat; readonly elbow: number } | { readonly reach: Vec3; readonly elbowTo: Vec3 }
) & { readonly wrist?: Quat; readonly curl?: Partial<Record<Finger, number>> | number; readonly spread?: number }
export interface FootPosture {
  readonly ankle: Vec3
  readonly foot: Quat
  readonly toes: Quat
  readonly contact: boolean
  /** Where the knee points; ahead of the foot where it is not told. */
  readonly kneeTo?: Vec3
}

/** Share of the way from hips to neck over which the spine turns from pelvis to chest. */
const SPINE_TURN = 0.76

export const about = (axis: 'x' | 'y' | 'z', degrees: number): Quat =>
  fromAxisAngle(axis === 'x' ? [1, 0, 0] : axis === 'y' ? [0, 1, 0] : [0, 0, 1], (degrees * Math.PI) / 180)

/** Works out every part's turn from a posture. */
export function momentOf(p: Posture): Moment {
  const turns: Record<string, Quat> = {
    hips: p.pelvis,
    chest: p.chest,
    neck: slerp(p.chest, p.head, 0.5),
    head: p.head,
  }
  ;(['left', 'right'] as const).forEach((side, i) => {
    const s = i === 0 ? 1 : -1
    turns[`${side}Shoulder`] = p.chest
    const arm = p.arms[i]
    if ('reach' in arm) {
      const { upper, lower } = solveArm(shoulderAt(p, side), arm.reach, arm.elbowTo, side)
      turns[`${side}UpperArm`] = upper
      turns[`${side}LowerArm`] = lower
    } else {
      const upper = multiply(p.chest, arm.turn)
      turns[`${side}UpperArm`] = upper
      turns[`${side}LowerArm`] = multiply(upper, fromAxisAngle([0, -s, 0], arm.elbow))
    }
    turns[`${side}Hand`] = multiply(turns[`${side}LowerArm`], arm.wrist ?? [0, 0, 0, 1])
    bendFingers(turns, side, s, arm)
    const foot = p.feet[i]
    const hip = add(p.hips, rotate(p.pelvis, sub(PERSON[`${side}UpperLeg`], PERSON.hips)))
    const { upper: thigh, lower: shin } = solveLeg(hip, foot.ankle, foot.kneeTo ?? rotate(foot.foot, [0, 0, 1]), side)
    turns[`${side}UpperLeg`] = thigh
    turns[`${side}LowerLeg`] = shin
    turns[`${side}Foot`] = foot.foot
    turns[`${side}Toes`] = foot.toes
  })
  return {
    hips: p.hips,
    turns,
    along: { spine: share => slerp(p.pelvis, p.chest, Math.min(1, share / SPINE_TURN)) },
    contact: [p.feet[0].contact, p.feet[1].contact],
  }
}

/** Roughly where a shoulder is: half of the way up the trunk turns with the pelvis, half with the chest. */
function shoulderAt(p: Posture, side: string): Vec3 {
  const up = sub(PERSON[`${side}UpperArm`], PERSON.hips)
  return add(p.hips, add(rotate(slerp(p.pelvis, p.chest, 0.5), [0, up[1], 0]), rotate(p.chest, [up[0], 0, up[2]])))
}

/** Two bones to a point, elbow towards a direction. */
function solveArm(shoulder: Vec3, wrist: Vec3, elbowTo: Vec3, side: 'left' | 'right'): { upper: Quat; lower: Quat } {
  const s = side === 'left' ? 1 : -1
  const a = length(sub(PERSON[`${side}UpperArm`], PERSON[`${side}LowerArm`])),
    b = length(sub(PERSON[`${side}LowerArm`], PERSON[`${side}Hand`]))
  const line = sub(wrist, shoulder)
  const d = Math.min(Math.max(length(line), 0.08), (a + b) * 0.995)
  const way = normalize(line)
  const out = normalize(sub(elbowTo, scale(way, dot(elbowTo, way))))
  const cos = (a * a + d * d - b * b) / (2 * a * d)
  const upper = add(scale(way, cos), scale(out, Math.sqrt(Math.max(0, 1 - cos * cos))))
  const lower = normalize(sub(scale(way, d), scale(upper, a)))
  // the arm straight out lies along ±x, its elbow bends about the vertical: y stays across the plane of the bend
  const across = normalize(cross(upper, lower))
  const turn = (along: Vec3): Quat => {
    const x = scale(along, s)
    const y = scale(across, -s)
    return fromAxes(x, y, cross(x, y))
  }
  return { upper: turn(upper), lower: turn(lower) }
}

/** Curls the fingers towards the palm; the thumb folds across it. */
function bendFingers(turns: Record<string, Quat>, side: string, s: number, arm: ArmPosture): void {
  for (const finger of FINGERS) {
    const curl = typeof arm.curl === 'number' ? arm.curl : (arm.curl?.[finger] ?? 0.22)
    const fan = (arm.spread ?? 0.3) * { Thumb: 0, Index: 8, Middle: 1, Ring: -5, Little: -11 }[finger]
    let turn = multiply(turns[`${side}Hand`], about('y', -s * fan))
    fingerParts(finger).forEach((part, i) => {
      const degrees = (finger === 'Thumb' ? [18, 34, 48] : [72, 92, 58])[i] * curl
      const axis: Vec3 = finger === 'Thumb' ? normalize([0.45, -0.2 * s, -0.85 * s]) : [0, 0, -s]
      turn = multiply(turn, fromAxisAngle(axis, (degrees * Math.PI) / 180))
      turns[`${side}${finger}${part}`] = turn
    })
  }
}

/** Two bones to a point, knee towards `ahead` (law of cosines). */
function solveLeg(hip: Vec3, ankle: Vec3, ahead: Vec3, side: string): { upper: Quat; lower: Quat } {
  const a = length(sub(PERSON[`${side}UpperLeg`], PERSON[`${side}LowerLeg`]))
  const b = length(sub(PERSON[`${side}LowerLeg`], PERSON[`${side}Foot`]))
  const line = sub(ankle, hip)
  const d = Math.min(length(line), (a + b) * 0.9999)
  const down = normalize(line)
  const front = normalize(sub(ahead, scale(down, dot(ahead, down))))
  const cosHip = (a * a + d * d - b * b) / (2 * a * d)
  const sinHip = Math.sqrt(Math.max(0, 1 - cosHip * cosHip))
  const thigh = add(scale(down, cosHip), scale(front, sinHip))
  const shin = normalize(sub(scale(down, d), scale(thigh, a)))
  const across = cross(scale(down, -1), front)
  const turn = (d2: Vec3): Quat => fromAxes(across, scale(d2, -1), cross(across, scale(d2, -1)))
  return { upper: turn(thigh), lower: turn(shin) }
}
