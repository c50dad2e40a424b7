import { fromAxes, type Quat, type ReadonlyQuat } from './quat'
import { cross, dot, length, type ReadonlyVec3, type Vec3 } from './vec3'

/** 4×4 matrix, column by column as glTF stores it. */
export type Mat4 = ArrayLike<number>

/** Rigid transform with uniform or per-axis scale as a column-major matrix. */
export function compose(t: ReadonlyVec3, q: ReadonlyQuat, s: ReadonlyVec3 = [1, 1, 1]): Float64Array {
  const [x, y, z, w] = q
  const m = new Float64Array(16)
  m[0] = (1 - 2 * (y * y + z * z)) * s[0]
  m[1] = 2 * (x * y + z * w) * s[0]
  m[2] = 2 * (x * z - y * w) * s[0]
  m[4] = 2 * (x * y - z * w) * s[1]
  m[5] = (1 - 2 * (x * x + z * z)) * s[1]
  m[6] = 2 * (y * z + x * w) * s[1]
  m[8] = 2 * (x * z + y * w) * s[2]
  m[9] = 2 * (y * z - x * w) * s[2]
  m[10] = (1 - 2 * (x * x + y * y)) * s[2]
  m[12] = t[0]
  m[13] = t[1]
  m[14] = t[2]
  m[15] = 1
  return m
}

export function multiplyMat4(a: Mat4, b: Mat4): Float64Array {
  const m = new Float64Array(16)
  for (let c = 0; c < 4; c++) {
    for (let r = 0; r < 4; r++) {
      m[4 * c + r] = a[r] * b[4 * c] + a[4 + r] * b[4 * c + 1] + a[8 + r] * b[4 * c + 2] + a[12 + r] * b[4 * c + 3]
    }
  }
  return m
}

export const transformPoint = (m: Mat4, p: ReadonlyVec3): Vec3 => [
  m[0] * p[0] + m[4] * p[1] + m[8] * p[2] + m[12],
  m[1] * p[0] + m[5] * p[1] + m[9] * p[2] + m[13],
  m[2] * p[0] + m[6] * p[1] + m[10] * p[2] + m[14],
]

/** Determinant of the upper 3×3: negative where the transform mirrors, 0 where it flattens. */
export function determinant3(m: Mat4): number {
  return dot([m[0], m[1], m[2]], cross([m[4], m[5], m[6]], [m[8], m[9], m[10]]))
}

/** Inverse of an affine matrix, or undefined where it cannot be inverted. */
export function invertAffine(m: Mat4): Float64Array | undefined {
  const det = determinant3(m)
  if (!(Math.abs(det) > 1e-30)) return undefined
  const x: Vec3 = [m[0], m[1], m[2]]
  const y: Vec3 = [m[4], m[5], m[6]]
  const z: Vec3 = [m[8], m[9], m[10]]
  const rows = [cross(y, z), cross(z, x), cross(x, y)]
  const out = new Float64Array(16)
  for (let r = 0; r < 3; r++) {
    for (let c = 0; c < 3; c++) out[4 * c + r] = rows[r][c] / det
    out[12 + r] = -(rows[r][0] * m[12] + rows[r][1] * m[13] + rows[r][2] * m[14]) / det
  }
  out[15] = 1
  return out
}

/** Translation, rotation and scale of an affine matrix; shear is dropped. */
export function decompose(m: Mat4): { translation: Vec3; rotation: Quat; scale: Vec3 } {
  const axes: Vec3[] = [
    [m[0], m[1], m[2]],
    [m[4], m[5], m[6]],
    [m[8], m[9], m[10]],
  ]
  const scale: Vec3 = [length(axes[0]), length(axes[1]), length(axes[2])]
  if (determinant3(m) < 0) scale[0] = -scale[0]
  const unit = axes.map((a, i) => a.map(v => (scale[i] !== 0 ? v / scale[i] : 0)) as Vec3)
  // Gram–Schmidt, so that a sheared matrix still gives a rotation
  const y = unit[1]
  const z = cross(unit[0], y)
  const lz = length(z) || 1
  const zn: Vec3 = [z[0] / lz, z[1] / lz, z[2] / lz]
  return { translation: [m[12], m[13], m[14]], rotation: fromAxes(cross(y, zn), y, zn), scale }
}
