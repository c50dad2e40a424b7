import { add, cross, dot, fromAxes, fromAxisAngle, length, multiply, normalize, rotate, scale, slerp, sub, type Quat, type Vec3 } from '@chiraxis/core/math'

/** The recorded person, in metres, standing with arms straight out, Y up, facing +Z, by role. */
export const PERSON: Readonly<Record<string, Vec3>> = {
  hips: [0, 0.95, 0], neck: [0, 1.45, 0], head: [0, 1.53, 0.01], headEnd: [0, 1.74, 0.01],
  ...Object.fromEntries(([['left', 1], ['right', -1]] as const).flatMap(([side, s]) => [
    [`${side}Shoulder`, [s * 0.03, 1.41, 0]], [`${side}UpperArm`, [s * 0.17, 1.41, 0]], [`${side}LowerArm`, [s * 0.45, 1.41, 0]],
    [`${side}Hand`, [s * 0.7, 1.41, 0]], [`${side}HandEnd`, [s * 0.88, 1.41, 0]],
    [`${side}UpperLeg`, [s * 0.09, 0.91, 0]], [`${side}LowerLeg`, [s * 0.09, 0.5, 0]], [`${side}Foot`, [s * 0.09, 0.08, 0]],
    [`${side}Toes`, [s * 0.09, 0.02, 0.13]], [`${side}ToesEnd`, [s * 0.09, 0.02, 0.2]],
  ])),
}

/** One moment: where the hips are, and each part's turn away from standing with arms out, in world axes. */
export interface Moment {
  readonly hips: Vec3
  readonly turns: Readonly<Record<string, Quat>>
  /** Toes still on the ground, left and right. */
  readonly contact: readonly [boolean, boolean]
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
export interface ArmPosture { readonly turn: Quat; readonly elbow: number }
export interface FootPosture { readonly ankle: Vec3; readonly foot: Quat; readonly toes: Quat; readonly contact: boolean }

/** Share of the way from hips to neck over which the spine turns from pelvis to chest. */
export const SPINE_TURN = 0.66

export const about = (axis: 'x' | 'y' | 'z', degrees: number): Quat =>
  fromAxisAngle(axis === 'x' ? [1, 0, 0] : axis === 'y' ? [0, 1, 0] : [0, 0, 1], (degrees * Math.PI) / 180)

/** Works out every part's turn from a posture. */
export function momentOf(p: Posture): Moment {
  const turns: Record<string, Quat> = { hips: p.pelvis, chest: p.chest, neck: slerp(p.chest, p.head, 0.5), head: p.head }
  ;(['left', 'right'] as const).forEach((side, i) => {
    const s = i === 0 ? 1 : -1
    turns[`${side}Shoulder`] = p.chest
    const upper = multiply(p.chest, p.arms[i].turn)
    turns[`${side}UpperArm`] = upper
    turns[`${side}LowerArm`] = multiply(upper, fromAxisAngle([0, -s, 0], p.arms[i].elbow))
    turns[`${side}Hand`] = turns[`${side}LowerArm`]
    const foot = p.feet[i]
    const hip = add(p.hips, rotate(p.pelvis, sub(PERSON[`${side}UpperLeg`], PERSON.hips)))
    const { upper: thigh, lower: shin } = solveLeg(hip, foot.ankle, rotate(foot.foot, [0, 0, 1]), side)
    turns[`${side}UpperLeg`] = thigh
    turns[`${side}LowerLeg`] = shin
    turns[`${side}Foot`] = foot.foot
    turns[`${side}Toes`] = foot.toes
  })
  return { hips: p.hips, turns, contact: [p.feet[0].contact, p.feet[1].contact] }
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
