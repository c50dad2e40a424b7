import { bodyPart, type Range } from '../body'
import { conjugate, IDENTITY, multiply, quatAt, setQuat, timesAt, type Quat } from '../math'
import type { Played, Take } from '../motion'
import { worldPose, type Skeleton } from '../skeleton'
import { restStance } from '../retarget'

/** Share of a limit from which it is felt. */
const FELT = 0.85

/** A limited joint: its turn against the part above, told from the reference stance, is left · own turns · right. */
interface Limited {
  readonly role: string
  readonly joint: number
  readonly between: readonly number[]
  readonly left: Quat
  readonly right: Quat
  /** The same, flat. */
  readonly after: Float64Array
  readonly along: 0 | 1 | 2
  readonly limit: Range
}

/**
 * Holds joints back from turning farther than a body's do: the nearer to its limit the less a joint gives, and what stays well
 * within is not touched at all. Turns are told from arms straight out and legs straight down, whatever the rest pose. A turn
 * about the bone is followed over time, so that one that goes past half a turn stays at the limit it came to.
 * @param performer where the performer's own joint goes farther than a body's the figure's may as well; left out, it may not
 * @returns the take itself where nothing is held back
 */
export function limitJoints(played: Played, performer?: Played): Take {
  const { skeleton, take } = played
  const J = skeleton.names.length
  let rotations = take.rotations
  const q = new Float64Array(4),
    theirs = new Float64Array(4)
  let evidence: Map<string, Limited> | undefined
  for (const limited of limitedJoints(played)) {
    const { joint, between, left, right, along, limit } = limited
    const back = conjugate(left),
      front = conjugate(right)
    const easy = easily(limit)
    let before = NaN
    for (let f = 0; f < take.frames; f++) {
      turnAt(q, limited, take.rotations, f * J)
      if (
        q[along] * q[along] + q[3] * q[3] >= easy.swing &&
        Math.abs(q[along]) <= easy.twist * Math.abs(q[3]) &&
        !(limit.hinge && q[0] * q[3] < 0)
      ) {
        before = NaN
        continue
      }
      const turn = toldAs([q[0], q[1], q[2], q[3]], along, before)
      before = turn.twist
      let free = { swing: 0, twist: 0 }
      if (performer) {
        evidence ??= new Map(limitedJoints(performer).map(l => [l.role, l]))
        const other = evidence.get(limited.role)
        if (other) {
          turnAt(theirs, other, performer.take.rotations, f * performer.skeleton.names.length)
          const t = toldAs([theirs[0], theirs[1], theirs[2], theirs[3]], along, NaN)
          free = { swing: t.swing, twist: Math.abs(t.twist) }
        }
      }
      const held = within(turn, along, limit, free)
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

/** A joint's turn against the part above, told from the reference stance. @param base first joint of the frame */
function turnAt(
  q: Float64Array,
  { joint, between, left, after }: Limited,
  rotations: Float32Array,
  base: number,
): void {
  for (let c = 0; c < 4; c++) q[c] = left[c]
  for (let i = 0; i < between.length; i++) timesAt(q, 0, q, 0, rotations, 4 * (base + between[i]))
  timesAt(q, 0, q, 0, rotations, 4 * (base + joint))
  timesAt(q, 0, q, 0, after, 0)
}

/** A skeleton's limited joints are asked for with every take on it. */
const known = new WeakMap<Skeleton, { readonly joints: Played['joints']; readonly limited: readonly Limited[] }>()

function limitedJoints(played: Played): readonly Limited[] {
  const before = known.get(played.skeleton)
  if (before?.joints === played.joints) return before.limited
  const limited = findLimited(played)
  known.set(played.skeleton, { joints: played.joints, limited })
  return limited
}

function findLimited({ skeleton, joints, frame }: Played): readonly Limited[] {
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
    return [{ role, joint, between, left, right, after: Float64Array.from(right), along, limit }]
  })
}

/** What a turn surely within its limits passes at a glance: squared cosine of half the swing, tangent of half the twist. */
const easily = ({ swing, twist }: Range): { swing: number; twist: number } => ({
  swing: Math.cos(radians(FELT * swing) / 2) ** 2,
  twist: twist >= 180 ? Infinity : Math.tan(radians(FELT * twist) / 2),
})

/** A turn as a swing and a turn about the bone, degrees. */
interface Told {
  readonly swing: number
  readonly twist: number
  /** The swing as a turn without twist. */
  readonly aside: Quat
  readonly sine: number
}

/** @param before the twist of the frame before, whose neighbour is taken; NaN where there is none */
function toldAs(turn: Quat, along: 0 | 1 | 2, before: number): Told {
  const q: Quat = turn[3] < 0 ? [-turn[0], -turn[1], -turn[2], -turn[3]] : turn
  const long = Math.hypot(q[along], q[3])
  const about: Quat = [0, 0, 0, long > 1e-9 ? q[3] / long : 1]
  about[along] = long > 1e-9 ? q[along] / long : 0
  const aside = multiply(q, conjugate(about))
  const sine = Math.hypot(aside[0], aside[1], aside[2])
  const found = degrees(2 * Math.atan2(about[along], about[3]))
  const twist = Number.isNaN(before) ? found : found + 360 * Math.round((before - found) / 360)
  return { swing: degrees(2 * Math.atan2(sine, Math.abs(aside[3]))), twist, aside, sine }
}

/**
 * A turn held within its limit; undefined where it is well within.
 * @param free how far it may go in any case, degrees
 */
function within(
  { swing: s, twist: t, aside, sine }: Told,
  along: 0 | 1 | 2,
  { swing, twist, hinge }: Range,
  free: { readonly swing: number; readonly twist: number },
): Quat | undefined {
  const heldTwist = Math.sign(t) * soft(Math.abs(t), Math.max(twist, free.twist / FELT))
  // turned about the way from left to right, a hinge may bend to one side only
  const share = hinge && sine > 1e-9 ? (aside[0] * (aside[3] < 0 ? -1 : 1)) / sine : 0
  // in between its limits lie on an ellipse
  const most = hinge
    ? 1 / Math.sqrt((share / (share > 0 ? hinge[1] : hinge[0])) ** 2 + (1 - share * share) / (swing * swing))
    : swing
  const heldSwing = soft(s, Math.max(most, free.swing / FELT))
  if (heldTwist === t && heldSwing === s) return undefined
  const k = sine > 1e-9 ? ((aside[3] < 0 ? -1 : 1) * Math.sin(radians(heldSwing) / 2)) / sine : 0
  const twisted: Quat = [0, 0, 0, Math.cos(radians(heldTwist) / 2)]
  twisted[along] = Math.sin(radians(heldTwist) / 2)
  return multiply([aside[0] * k, aside[1] * k, aside[2] * k, Math.cos(radians(heldSwing) / 2)], twisted)
}

/** An angle that never passes its limit: unchanged where it is not felt, then ever less. */
function soft(angle: number, limit: number): number {
  const felt = FELT * limit
  if (limit >= 180 || angle <= felt + 1e-9) return angle
  return felt + (limit - felt) * (1 - Math.exp(-(angle - felt) / (limit - felt)))
}

const degrees = (v: number): number => (v * 180) / Math.PI
const radians = (v: number): number => (v * Math.PI) / 180
