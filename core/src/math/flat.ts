/**
 * Quaternions in flat arrays of doubles, for loops over many frames: arrays and places only, because numbers handed over one by one
 * would be boxed and small arrays made anew. Kept to one kind of array, so that they are compiled for it.
 */

/** out[o] = a[m] · b[n] */
export function timesAt(out: Float64Array, o: number, a: Float64Array, m: number, b: Float64Array, n: number): void {
  const ax = a[m],
    ay = a[m + 1],
    az = a[m + 2],
    aw = a[m + 3]
  const bx = b[n],
    by = b[n + 1],
    bz = b[n + 2],
    bw = b[n + 3]
  out[o] = aw * bx + ax * bw + ay * bz - az * by
  out[o + 1] = aw * by - ax * bz + ay * bw + az * bx
  out[o + 2] = aw * bz + ax * by - ay * bx + az * bw
  out[o + 3] = aw * bw - ax * bx - ay * by - az * bz
}

/** out[o] = a[m] · b[n], the second factor from a take. */
export function timesTakeAt(
  out: Float64Array,
  o: number,
  a: Float64Array,
  m: number,
  b: Float32Array,
  n: number,
): void {
  const ax = a[m],
    ay = a[m + 1],
    az = a[m + 2],
    aw = a[m + 3]
  const bx = b[n],
    by = b[n + 1],
    bz = b[n + 2],
    bw = b[n + 3]
  out[o] = aw * bx + ax * bw + ay * bz - az * by
  out[o + 1] = aw * by - ax * bz + ay * bw + az * bx
  out[o + 2] = aw * bz + ax * by - ay * bx + az * bw
  out[o + 3] = aw * bw - ax * bx - ay * by - az * bz
}

/** out[o] = [x, y, z] turned by q[n] */
export function rotateAt(
  out: Float64Array,
  o: number,
  q: Float64Array,
  n: number,
  x: number,
  y: number,
  z: number,
): void {
  const qx = q[n],
    qy = q[n + 1],
    qz = q[n + 2],
    qw = q[n + 3]
  const tx = 2 * (qy * z - qz * y),
    ty = 2 * (qz * x - qx * z),
    tz = 2 * (qx * y - qy * x)
  out[o] = x + qw * tx + qy * tz - qz * ty
  out[o + 1] = y + qw * ty + qz * tx - qx * tz
  out[o + 2] = z + qw * tz + qx * ty - qy * tx
}

/** out[o] = [x, y, z] turned back by q[n] */
export function rotateBackAt(
  out: Float64Array,
  o: number,
  q: Float64Array,
  n: number,
  x: number,
  y: number,
  z: number,
): void {
  const qx = -q[n],
    qy = -q[n + 1],
    qz = -q[n + 2],
    qw = q[n + 3]
  const tx = 2 * (qy * z - qz * y),
    ty = 2 * (qz * x - qx * z),
    tz = 2 * (qx * y - qy * x)
  out[o] = x + qw * tx + qy * tz - qz * ty
  out[o + 1] = y + qw * ty + qz * tx - qx * tz
  out[o + 2] = z + qw * tz + qx * ty - qy * tx
}
