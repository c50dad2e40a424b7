/**
 * Quaternions in flat arrays of doubles, for loops over many frames: arrays and places only, because numbers handed over one by one
 * would be boxed and small arrays made anew. First factors are doubles throughout: with one kind of array the loops are compiled for it.
 */

/** Doubles of a computation, or single precision of what is kept, such as a take. */
export type Flat = Float32Array | Float64Array

/** out[o] = a[m] · b[n] */
export function timesAt(out: Float64Array, o: number, a: Float64Array, m: number, b: Flat, n: number): void {
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

/**
 * out[o] = from a[m] to b[n] by the share t, on the shorter way; the same numbers as `slerp` gives, without an array
 * being made.
 */
export function slerpAt(out: Flat, o: number, a: Flat, m: number, b: Flat, n: number, t: number): void {
  const ax = a[m],
    ay = a[m + 1],
    az = a[m + 2],
    aw = a[m + 3]
  let bx = b[n],
    by = b[n + 1],
    bz = b[n + 2],
    bw = b[n + 3]
  let d = ax * bx + ay * by + az * bz + aw * bw
  if (d < 0) {
    d = -d
    bx = -bx
    by = -by
    bz = -bz
    bw = -bw
  }
  let wa = 1 - t,
    wb = t
  const near = d > 0.9995
  if (!near) {
    const theta = Math.acos(d)
    const sine = Math.sin(theta)
    wa = Math.sin((1 - t) * theta) / sine
    wb = Math.sin(t * theta) / sine
  }
  const x = ax * wa + bx * wb,
    y = ay * wa + by * wb,
    z = az * wa + bz * wb,
    w = aw * wa + bw * wb
  // close by, the straight way is made unit again
  const k = near ? 1 / (Math.sqrt(x * x + y * y + z * z + w * w) || 1) : 1
  out[o] = x * k
  out[o + 1] = y * k
  out[o + 2] = z * k
  out[o + 3] = w * k
}
