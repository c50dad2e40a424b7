import { conjugate, multiply, rotate, slerp, type Quat, type ReadonlyQuat } from './quat'
import { add, sub, type ReadonlyVec3, type Vec3 } from './vec3'

/** Where something rigid is: turned, then shifted. */
export interface Rigid {
  readonly at: Vec3
  readonly turn: Quat
}

export const STILL: Rigid = { at: [0, 0, 0], turn: [0, 0, 0, 1] }

/** A place told in another's axes, in those the other is told in. */
export const within = (outer: Rigid, inner: Rigid): Rigid => ({
  at: add(outer.at, rotate(outer.turn, inner.at)),
  turn: multiply(outer.turn, inner.turn),
})

/** The way back. */
export function inverseOf({ at, turn }: Rigid): Rigid {
  const back = conjugate(turn)
  const [x, y, z] = rotate(back, at)
  return { at: [-x, -y, -z], turn: back }
}

/** A point told in the axes of something rigid. */
export const pointIn = ({ at, turn }: Rigid, p: ReadonlyVec3): Vec3 => add(at, rotate(turn, p))

/** Between two places; 0 is the first, to the bit. */
export function between(a: Rigid, b: Rigid, t: number): Rigid {
  if (t <= 0) return a
  if (t >= 1) return b
  const d = sub(b.at, a.at)
  return { at: [a.at[0] + t * d[0], a.at[1] + t * d[1], a.at[2] + t * d[2]], turn: slerp(a.turn, b.turn, t) }
}

/** Turned about a point of the space it stands in. */
export const turnedAbout = ({ at, turn }: Rigid, point: ReadonlyVec3, by: ReadonlyQuat): Rigid => ({
  at: add(point, rotate(by, sub(at, point))),
  turn: multiply(by, turn),
})
