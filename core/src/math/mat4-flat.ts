/** Column-major 4×4 matrices in flat arrays, without one being made: for loops over nodes and frames. */

/** out[o..] = the matrix of translation t[i..], rotation q[j..] (xyzw) and scale s[k..]. */
export function composeAt(
  out: Float64Array,
  o: number,
  t: ArrayLike<number>,
  i: number,
  q: ArrayLike<number>,
  j: number,
  s: ArrayLike<number>,
  k: number,
): void {
  const x = q[j],
    y = q[j + 1],
    z = q[j + 2],
    w = q[j + 3]
  const sx = s[k],
    sy = s[k + 1],
    sz = s[k + 2]
  out[o] = (1 - 2 * (y * y + z * z)) * sx
  out[o + 1] = 2 * (x * y + z * w) * sx
  out[o + 2] = 2 * (x * z - y * w) * sx
  out[o + 3] = 0
  out[o + 4] = 2 * (x * y - z * w) * sy
  out[o + 5] = (1 - 2 * (x * x + z * z)) * sy
  out[o + 6] = 2 * (y * z + x * w) * sy
  out[o + 7] = 0
  out[o + 8] = 2 * (x * z + y * w) * sz
  out[o + 9] = 2 * (y * z - x * w) * sz
  out[o + 10] = (1 - 2 * (x * x + y * y)) * sz
  out[o + 11] = 0
  out[o + 12] = t[i]
  out[o + 13] = t[i + 1]
  out[o + 14] = t[i + 2]
  out[o + 15] = 1
}

/** out[o..] = a[m..] · b[n..] of affine matrices; `out` must not be either of them. */
export function multiplyAffineAt(
  out: Float64Array,
  o: number,
  a: Float64Array,
  m: number,
  b: Float64Array,
  n: number,
): void {
  for (let c = 0; c < 4; c++) {
    const x = b[n + 4 * c],
      y = b[n + 4 * c + 1],
      z = b[n + 4 * c + 2]
    const last = c === 3 ? 1 : 0
    out[o + 4 * c] = a[m] * x + a[m + 4] * y + a[m + 8] * z + a[m + 12] * last
    out[o + 4 * c + 1] = a[m + 1] * x + a[m + 5] * y + a[m + 9] * z + a[m + 13] * last
    out[o + 4 * c + 2] = a[m + 2] * x + a[m + 6] * y + a[m + 10] * z + a[m + 14] * last
    out[o + 4 * c + 3] = last
  }
}

/** The rotation of an affine matrix without its scale and shear, as `decompose` tells it: q[j..] xyzw. */
export function rotationOfAt(q: Float64Array, j: number, m: Float64Array, o: number): void {
  let xx = m[o],
    xy = m[o + 1],
    xz = m[o + 2]
  let yx = m[o + 4],
    yy = m[o + 5],
    yz = m[o + 6]
  const wx = m[o + 8],
    wy = m[o + 9],
    wz = m[o + 10]
  const mirrored = xx * (yy * wz - yz * wy) + xy * (yz * wx - yx * wz) + xz * (yx * wy - yy * wx) < 0
  const lx = Math.sqrt(xx * xx + xy * xy + xz * xz) * (mirrored ? -1 : 1),
    ly = Math.sqrt(yx * yx + yy * yy + yz * yz)
  const kx = lx !== 0 ? 1 / lx : 0,
    ky = ly !== 0 ? 1 / ly : 0
  xx *= kx
  xy *= kx
  xz *= kx
  yx *= ky
  yy *= ky
  yz *= ky
  // y is kept, z stands across both, x across those
  let zx = xy * yz - xz * yy,
    zy = xz * yx - xx * yz,
    zz = xx * yy - xy * yx
  const kz = 1 / (Math.sqrt(zx * zx + zy * zy + zz * zz) || 1)
  zx *= kz
  zy *= kz
  zz *= kz
  xx = yy * zz - yz * zy
  xy = yz * zx - yx * zz
  xz = yx * zy - yy * zx
  let a: number, b: number, c: number, d: number
  const trace = xx + yy + zz
  if (trace > 0) {
    a = yz - zy
    b = zx - xz
    c = xy - yx
    d = trace + 1
  } else if (xx > yy && xx > zz) {
    a = 1 + xx - yy - zz
    b = yx + xy
    c = zx + xz
    d = yz - zy
  } else if (yy > zz) {
    a = yx + xy
    b = 1 + yy - xx - zz
    c = zy + yz
    d = zx - xz
  } else {
    a = zx + xz
    b = zy + yz
    c = 1 + zz - xx - yy
    d = xy - yx
  }
  const long = Math.sqrt(a * a + b * b + c * c + d * d)
  const k = long > 0 ? 1 / long : 0
  q[j] = a * k
  q[j + 1] = b * k
  q[j + 2] = c * k
  q[j + 3] = long > 0 ? d * k : 1
}
