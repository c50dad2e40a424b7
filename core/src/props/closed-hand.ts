import {
  dot,
  inverseOf,
  length,
  pointIn,
  quatAt,
  rotate,
  scale,
  sub,
  vec3At,
  type Quat,
  type Rigid,
  type Vec3,
} from '../math'
import { FINGERS, fingerJoints } from '../body'
import { shapeHand } from '../handles'
import { atBind, hasTip, jointPlace, worldPose, type Skeleton } from '../skeleton'
import type { HandHold } from './hand-hold'

/** Turns of a hand's fingers as they lie around what is held. */
export interface ClosedHand {
  readonly joints: readonly number[]
  /** Local turns, one a joint. */
  readonly turns: readonly Quat[]
}

const STEPS = 24
/** A finger that finds nothing to lie around closes as far as this. */
const LOOSE = 0.85

/**
 * Closes every finger around a shaft as far as it goes: until one of its bones would come nearer than the shaft and the finger are
 * thick.
 * @param shaft in the space of the hand's joint: x runs along it  @param thick half across, metres
 */
export function closedHand(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  hold: HandHold,
  shaft: Rigid,
  thick: number,
): ClosedHand {
  const out: { joints: number[]; turns: Quat[] } = { joints: [], turns: [] }
  const bound = atBind(skeleton)
  const bind = worldPose(bound)
  const back = inverseOf(jointPlace(bind, hold.joint))
  const way = rotate(shaft.turn, [1, 0, 0])
  const room = thick + hold.finger
  for (const finger of FINGERS) {
    const chain = fingerJoints(finger).flatMap(part => joints[hold.side + finger + part] ?? [])
    if (chain.length === 0) continue
    const bent = (curl: number): Float32Array =>
      shapeHand(
        skeleton,
        joints,
        hold.side,
        { curl, spread: 0, relax: 0 },
        Float32Array.from(bound.restRotations),
        finger,
      )
    const near = (curl: number): number => {
      const w = worldPose(bound, bound.restTranslations, bent(curl))
      const dots = chain.map(j => pointIn(back, vec3At(w.positions, j)))
      const last = chain[chain.length - 1]
      if (hasTip(skeleton, last)) {
        dots.push(pointIn(back, pointIn(jointPlace(w, last), vec3At(skeleton.tips!, last))))
      }
      let least = Infinity
      for (let i = 0; i + 1 < dots.length; i++) least = Math.min(least, apart(dots[i], dots[i + 1], shaft.at, way))
      return least
    }
    // the first bone stands still where it is nearest: what counts is that bending brings no bone nearer than there is room
    const start = near(0)
    let curl = 0
    for (let i = 1; i <= STEPS; i++) {
      const next = (LOOSE * i) / STEPS
      const off = near(next)
      if (off < room && off < start - 1e-4) break
      curl = next
    }
    const rotations = bent(curl)
    for (const j of chain) {
      out.joints.push(j)
      out.turns.push(quatAt(rotations, j))
    }
  }
  return out
}

/** The least way between a stretch and an endless line. */
function apart(a: Vec3, b: Vec3, on: Vec3, way: Vec3): number {
  const flat = (p: Vec3): Vec3 => {
    const d = sub(p, on)
    return sub(d, scale(way, dot(d, way)))
  }
  const [p, q] = [flat(a), flat(b)]
  const d = sub(q, p)
  const long = dot(d, d)
  const t = long > 0 ? Math.min(1, Math.max(0, -dot(p, d) / long)) : 0
  return length([p[0] + t * d[0], p[1] + t * d[1], p[2] + t * d[2]])
}
