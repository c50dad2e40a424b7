import { cross, dot, normalize, perpendicular, type ReadonlyVec3, type Vec3 } from './vec3'

/** Unit quaternion, x y z w. */
export type Quat = [number, number, number, number]
export type ReadonlyQuat = readonly [number, number, number, number]

export const IDENTITY: ReadonlyQuat = [0, 0, 0, 1]

/** The rotation that does `b` first, then `a`. */
export function multiply(a: ReadonlyQuat, b: ReadonlyQuat): Quat {
  const [ax, ay, az, aw] = a
  const [bx, by, bz, bw] = b
  return [
    aw * bx + ax * bw + ay * bz - az * by,
    aw * by - ax * bz + ay * bw + az * bx,
    aw * bz + ax * by - ay * bx + az * bw,
    aw * bw - ax * bx - ay * by - az * bz,
  ]
}

export const conjugate = (q: ReadonlyQuat): Quat => [-q[0], -q[1], -q[2], q[3]]

export function normalizeQuat(q: ReadonlyQuat): Quat {
  const l = Math.hypot(q[0], q[1], q[2], q[3])
  return l > 1e-12 ? [q[0] / l, q[1] / l, q[2] / l, q[3] / l] : [0, 0, 0, 1]
}

export function rotate(q: ReadonlyQuat, v: ReadonlyVec3): Vec3 {
  const [x, y, z, w] = q
  const tx = 2 * (y * v[2] - z * v[1])
  const ty = 2 * (z * v[0] - x * v[2])
  const tz = 2 * (x * v[1] - y * v[0])
  return [v[0] + w * tx + y * tz - z * ty, v[1] + w * ty + z * tx - x * tz, v[2] + w * tz + x * ty - y * tx]
}

/** Rotation by `angle` radians about the unit vector `axis`. */
export function fromAxisAngle(axis: ReadonlyVec3, angle: number): Quat {
  const s = Math.sin(angle / 2)
  return [axis[0] * s, axis[1] * s, axis[2] * s, Math.cos(angle / 2)]
}

/** The shortest rotation that carries unit `a` onto unit `b`. */
export function fromTo(a: ReadonlyVec3, b: ReadonlyVec3): Quat {
  const d = dot(a, b)
  if (1 + d < 1e-12) return fromAxisAngle(perpendicular(a), Math.PI)
  const c = cross(a, b)
  return normalizeQuat([c[0], c[1], c[2], 1 + d])
}

/** Rotation whose columns are the orthonormal right-handed axes x, y, z. */
export function fromAxes(x: ReadonlyVec3, y: ReadonlyVec3, z: ReadonlyVec3): Quat {
  const trace = x[0] + y[1] + z[2]
  if (trace > 0) {
    const s = 2 * Math.sqrt(trace + 1)
    return normalizeQuat([(y[2] - z[1]) / s, (z[0] - x[2]) / s, (x[1] - y[0]) / s, s / 4])
  }
  if (x[0] > y[1] && x[0] > z[2]) {
    const s = 2 * Math.sqrt(1 + x[0] - y[1] - z[2])
    return normalizeQuat([s / 4, (y[0] + x[1]) / s, (z[0] + x[2]) / s, (y[2] - z[1]) / s])
  }
  if (y[1] > z[2]) {
    const s = 2 * Math.sqrt(1 + y[1] - x[0] - z[2])
    return normalizeQuat([(y[0] + x[1]) / s, s / 4, (z[1] + y[2]) / s, (z[0] - x[2]) / s])
  }
  const s = 2 * Math.sqrt(1 + z[2] - x[0] - y[1])
  return normalizeQuat([(z[0] + x[2]) / s, (z[1] + y[2]) / s, s / 4, (x[1] - y[0]) / s])
}

/** Axes from a direction kept exactly (y) and a second one kept as nearly as it can be (x). */
export function fromDirections(y: ReadonlyVec3, xHint: ReadonlyVec3): Quat {
  const up = normalize(y)
  const z0 = cross(xHint, up)
  const z = Math.hypot(...z0) > 1e-6 ? normalize(z0) : perpendicular(up)
  return fromAxes(cross(up, z), up, z)
}

export function slerp(a: ReadonlyQuat, b: ReadonlyQuat, t: number): Quat {
  let d = a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3]
  const s = d < 0 ? -1 : 1
  d = Math.abs(d)
  if (d > 0.9995) {
    return normalizeQuat([
      a[0] + (s * b[0] - a[0]) * t,
      a[1] + (s * b[1] - a[1]) * t,
      a[2] + (s * b[2] - a[2]) * t,
      a[3] + (s * b[3] - a[3]) * t,
    ])
  }
  const theta = Math.acos(d)
  const wa = Math.sin((1 - t) * theta) / Math.sin(theta)
  const wb = (s * Math.sin(t * theta)) / Math.sin(theta)
  return [a[0] * wa + b[0] * wb, a[1] * wa + b[1] * wb, a[2] * wa + b[2] * wb, a[3] * wa + b[3] * wb]
}

/** Angle of the rotation between two orientations, radians in 0..π. */
export function angleOf(a: ReadonlyQuat, b: ReadonlyQuat = IDENTITY): number {
  const d = multiply(conjugate(a), b)
  return 2 * Math.atan2(Math.hypot(d[0], d[1], d[2]), Math.abs(d[3]))
}

/** Axis times angle of the shorter way, radians. */
export function rotationVector([x, y, z, w]: ReadonlyQuat): Vec3 {
  const s = Math.hypot(x, y, z)
  if (s < 1e-12) return [0, 0, 0]
  const angle = 2 * Math.atan2(s, Math.abs(w)) * (w < 0 ? -1 : 1)
  return [(x / s) * angle, (y / s) * angle, (z / s) * angle]
}

/** The turn of a rotation vector: the way back from {@link rotationVector}. */
export function fromRotationVector([x, y, z]: ReadonlyVec3): Quat {
  const angle = Math.hypot(x, y, z)
  const k = angle > 1e-9 ? Math.sin(angle / 2) / angle : 0.5
  return [k * x, k * y, k * z, Math.cos(angle / 2)]
}

export type EulerOrder = 'XYZ' | 'XZY' | 'YXZ' | 'YZX' | 'ZXY' | 'ZYX'

/** Intrinsic rotations in the order of the letters, angles in radians by axis x, y, z. */
export function fromEuler(x: number, y: number, z: number, order: EulerOrder): Quat {
  const parts: Record<string, Quat> = {
    X: fromAxisAngle([1, 0, 0], x),
    Y: fromAxisAngle([0, 1, 0], y),
    Z: fromAxisAngle([0, 0, 1], z),
  }
  return multiply(multiply(parts[order[0]], parts[order[1]]), parts[order[2]])
}

/**
 * Angles x, y, z in radians such that `fromEuler(x, y, z, order)` gives `q` back. Where the middle axis stands at a right
 * angle, and the first and last one turn alike, the last one is 0.
 */
export function toEuler(q: ReadonlyQuat, order: EulerOrder): Vec3 {
  const [i, j, k] = [...order].map(axis => 'XYZ'.indexOf(axis))
  const sign = (j - i + 3) % 3 === 1 ? 1 : -1
  const columns = [rotate(q, [1, 0, 0]), rotate(q, [0, 1, 0]), rotate(q, [0, 0, 1])]
  const m = (row: number, column: number): number => columns[column][row]
  const sine = Math.min(1, Math.max(-1, sign * m(i, k)))
  const out: Vec3 = [0, 0, 0]
  out[j] = Math.asin(sine)
  if (Math.abs(sine) < 0.9999999) {
    out[i] = Math.atan2(-sign * m(j, k), m(k, k))
    out[k] = Math.atan2(-sign * m(i, j), m(i, i))
  } else out[i] = Math.atan2(sign * m(k, j), m(j, j))
  return out
}

export const toEulerYXZ = (q: ReadonlyQuat): Vec3 => toEuler(q, 'YXZ')

export const quatAt = (array: ArrayLike<number>, i: number): Quat => [
  array[4 * i],
  array[4 * i + 1],
  array[4 * i + 2],
  array[4 * i + 3],
]

export function setQuat(array: { [n: number]: number }, i: number, q: ReadonlyQuat): void {
  array[4 * i] = q[0]
  array[4 * i + 1] = q[1]
  array[4 * i + 2] = q[2]
  array[4 * i + 3] = q[3]
}
