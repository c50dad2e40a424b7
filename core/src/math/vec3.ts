/** Three numbers: a point or direction, metres unless said otherwise. */
export type Vec3 = [number, number, number]
export type ReadonlyVec3 = readonly [number, number, number]

export const add = (a: ReadonlyVec3, b: ReadonlyVec3): Vec3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]]
export const sub = (a: ReadonlyVec3, b: ReadonlyVec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
export const scale = (a: ReadonlyVec3, s: number): Vec3 => [a[0] * s, a[1] * s, a[2] * s]
/** a + b·s */
export const addScaled = (a: ReadonlyVec3, b: ReadonlyVec3, s: number): Vec3 => [
  a[0] + b[0] * s,
  a[1] + b[1] * s,
  a[2] + b[2] * s,
]
export const dot = (a: ReadonlyVec3, b: ReadonlyVec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
export const cross = (a: ReadonlyVec3, b: ReadonlyVec3): Vec3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]
export const length = (a: ReadonlyVec3): number => Math.hypot(a[0], a[1], a[2])
export const distance = (a: ReadonlyVec3, b: ReadonlyVec3): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])
export const lerp = (a: ReadonlyVec3, b: ReadonlyVec3, t: number): Vec3 => [
  a[0] + (b[0] - a[0]) * t,
  a[1] + (b[1] - a[1]) * t,
  a[2] + (b[2] - a[2]) * t,
]

/** Unit vector along `a`, or `fallback` where `a` has no length. */
export function normalize(a: ReadonlyVec3, fallback: ReadonlyVec3 = [0, 1, 0]): Vec3 {
  const l = length(a)
  return l > 1e-12 ? [a[0] / l, a[1] / l, a[2] / l] : [fallback[0], fallback[1], fallback[2]]
}

/** Some unit vector at a right angle to unit `a`. */
export function perpendicular(a: ReadonlyVec3): Vec3 {
  return normalize(Math.abs(a[0]) < 0.7 ? cross(a, [1, 0, 0]) : cross(a, [0, 0, 1]))
}

/** Angle between two directions in radians, accurate near 0 and π. */
export const angleBetween = (a: ReadonlyVec3, b: ReadonlyVec3): number => Math.atan2(length(cross(a, b)), dot(a, b))

/** Reads the i-th triple of a packed array. */
export const vec3At = (array: ArrayLike<number>, i: number): Vec3 => [array[3 * i], array[3 * i + 1], array[3 * i + 2]]

/** Writes the i-th triple of a packed array. */
export function setVec3(array: { [n: number]: number }, i: number, v: ReadonlyVec3): void {
  array[3 * i] = v[0]
  array[3 * i + 1] = v[1]
  array[3 * i + 2] = v[2]
}
