import { bodyPart, type Range } from '../body'
import { conjugate, IDENTITY, multiply, quatAt, setQuat, timesAt, type Quat } from '../math'
import type { Played, Take } from '../motion'
import { worldPose } from '../skeleton'
import { restStance } from '../retarget'

/** Share of a limit from which it is felt. */
const FELT = 0.85

/** A limited joint: its turn against the part above, told from the reference stance, is left · own turns · right. */
interface Limited {
  readonly joint: number
  readonly between: readonly number[]
  readonly left: Quat
  readonly right: Quat
  readonly along: 0 | 1 | 2
  readonly limit: Range
}

/**
 * Holds joints back from turning farther than a body's do: the nearer to its limit the less a joint gives, and what stays well
 * within is not touched at all. Turns are told from arms straight out and legs straight down, whatever the rest pose.
 * @returns the take itself where nothing is held back
 */
export function limitJoints(played: Played): Take {
  const { skeleton, take } = played
  const list = limitedJoints(played)
  const J = skeleton.names.length
  let rotations = take.rotations
  const q = new Float64Array(4)
  for (const { joint, between, left, right, along, limit } of list) {
    const first = Float64Array.from(left),
      after = Float64Array.from(right)
    const back = conjugate(left),
      front = conjugate(right)
    const easy = easily(limit)
    for (let f = 0; f < take.frames; f++) {
      for (let c = 0; c < 4; c++) q[c] = first[c]
      for (let i = 0; i < between.length; i++) timesAt(q, 0, q, 0, take.rotations, 4 * (f * J + between[i]))
      timesAt(q, 0, q, 0, take.rotations, 4 * (f * J + joint))
      timesAt(q, 0, q, 0, after, 0)
      if (
        q[along] * q[along] + q[3] * q[3] >= easy.swing &&
        Math.abs(q[along]) <= easy.twist * Math.abs(q[3]) &&
        !(limit.hinge && q[0] * q[3] < 0)
      )
        continue
      const held = within([q[0], q[1], q[2], q[3]], along, limit)
      if (!held) continue
      if (rotations === take.rotations) rotations = take.rotations.slice()
      const above = between.reduce<Quat>((sum, j) => multiply(sum, quatAt(take.rotations, f * J + j)), left)
      const inner = multiply(multiply(back, held), front)
      setQuat(
        rotations,
        f * J + joint,
        between.length === 0 ? inner : multiply(conjugate(multiply(back, above)), inner),
      )
    }
  }
  return rotations === take.rotations ? take : { ...take, rotations }
}

function limitedJoints({ skeleton, joints, frame }: Played): Limited[] {
  const rest = worldPose(skeleton)
  const { stance } = restStance(skeleton, joints, frame)
  return Object.entries(joints).flatMap(([role, joint]): Limited[] => {
    const part = bodyPart(role)
    const limit = part?.range
    const upper = part?.parents.find(r => joints[r] !== undefined)
    if (!part || !limit || upper === undefined) return []
    const between: number[] = []
    let p = skeleton.parents[joint]
    for (; p >= 0 && p !== joints[upper]; p = skeleton.parents[p]) between.unshift(p)
    if (p < 0) return []
    const left = multiply(conjugate(stance[upper] ?? IDENTITY), multiply(frame, quatAt(rest.rotations, joints[upper])))
    const right = multiply(
      conjugate(quatAt(rest.rotations, joint)),
      multiply(conjugate(frame), stance[role] ?? [...IDENTITY]),
    )
    const { along } = part
    return [{ joint, between, left, right, along, limit }]
  })
}

/** What a turn surely within its limits passes at a glance: squared cosine of half the swing, tangent of half the twist. */
const easily = ({ swing, twist }: Range): { swing: number; twist: number } => ({
  swing: Math.cos(radians(FELT * swing) / 2) ** 2,
  twist: twist >= 180 ? Infinity : Math.tan(radians(FELT * twist) / 2),
})

/** A turn held within its limit; undefined where it is well within. */
function within(turn: Quat, along: 0 | 1 | 2, { swing, twist, hinge }: Range): Quat | undefined {
  const q: Quat = turn[3] < 0 ? [-turn[0], -turn[1], -turn[2], -turn[3]] : turn
  const long = Math.hypot(q[along], q[3])
  const about: Quat = [0, 0, 0, long > 1e-9 ? q[3] / long : 1]
  about[along] = long > 1e-9 ? q[along] / long : 0
  const aside = multiply(q, conjugate(about))
  const t = degrees(2 * Math.atan2(about[along], about[3]))
  const heldTwist = Math.sign(t) * soft(Math.abs(t), twist)
  const sine = Math.hypot(aside[0], aside[1], aside[2])
  const s = degrees(2 * Math.atan2(sine, Math.abs(aside[3])))
  // turned about the way from left to right, a hinge may bend to one side only
  const share = hinge && sine > 1e-9 ? (aside[0] * (aside[3] < 0 ? -1 : 1)) / sine : 0
  // in between its limits lie on an ellipse
  const most = hinge
    ? 1 / Math.sqrt((share / (share > 0 ? hinge[1] : hinge[0])) ** 2 + (1 - share * share) / (swing * swing))
    : swing
  const heldSwing = soft(s, most)
  if (heldTwist === t && heldSwing === s) return undefined
  const k = sine > 1e-9 ? ((aside[3] < 0 ? -1 : 1) * Math.sin(radians(heldSwing) / 2)) / sine : 0
  const twisted: Quat = [0, 0, 0, Math.cos(radians(heldTwist) / 2)]
  twisted[along] = Math.sin(radians(heldTwist) / 2)
  return multiply([aside[0] * k, aside[1] * k, aside[2] * k, Math.cos(radians(heldSwing) / 2)], twisted)
}

/** An angle that never passes its limit: unchanged where it is not felt, then ever less. */
function soft(angle: number, limit: number): number {
  const felt = FELT * limit
  if (limit >= 180 || angle <= felt) return angle
  return felt + (limit - felt) * (1 - Math.exp(-(angle - felt) / (limit - felt)))
}

const degrees = (v: number): number => (v * 180) / Math.PI
const radians = (v: number): number => (v * Math.PI) / 180
