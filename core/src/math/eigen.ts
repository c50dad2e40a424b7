import { normalize, type Vec3 } from './vec3'

/**
 * Eigenvectors of a symmetric 3×3 matrix by cyclic Jacobi rotations.
 * @param m the upper triangle: xx, xy, xz, yy, yz, zz
 * @returns values in falling order with unit vectors in the same order
 */
export function symmetricEigen(m: readonly number[]): { values: Vec3; vectors: [Vec3, Vec3, Vec3] } {
  const a = [
    [m[0], m[1], m[2]],
    [m[1], m[3], m[4]],
    [m[2], m[4], m[5]],
  ]
  const v = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ]
  for (let sweep = 0; sweep < 32; sweep++) {
    if (Math.abs(a[0][1]) + Math.abs(a[0][2]) + Math.abs(a[1][2]) < 1e-18) break
    for (const [p, q] of [
      [0, 1],
      [0, 2],
      [1, 2],
    ]) {
      if (a[p][q] === 0) continue
      const theta = (a[q][q] - a[p][p]) / (2 * a[p][q])
      const t = Math.sign(theta || 1) / (Math.abs(theta) + Math.hypot(theta, 1))
      const c = 1 / Math.hypot(t, 1)
      const s = t * c
      for (let k = 0; k < 3; k++) {
        const kp = a[k][p],
          kq = a[k][q]
        a[k][p] = c * kp - s * kq
        a[k][q] = s * kp + c * kq
      }
      for (let k = 0; k < 3; k++) {
        const pk = a[p][k],
          qk = a[q][k]
        a[p][k] = c * pk - s * qk
        a[q][k] = s * pk + c * qk
      }
      for (let k = 0; k < 3; k++) {
        const kp = v[k][p],
          kq = v[k][q]
        v[k][p] = c * kp - s * kq
        v[k][q] = s * kp + c * kq
      }
    }
  }
  const order = [0, 1, 2].sort((i, j) => a[j][j] - a[i][i])
  return {
    values: order.map(i => a[i][i]) as Vec3,
    vectors: order.map(i => normalize([v[0][i], v[1][i], v[2][i]])) as [Vec3, Vec3, Vec3],
  }
}
