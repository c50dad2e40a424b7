import { type Vec3 } from '@chiraxis/core/math'

/** A volume the body is blended from. `k` is how widely it blends into what was added before it, metres. */
export interface Blob {
  readonly shape: 'cone' | 'ellipsoid'
  readonly a: Vec3
  /** Far end of a cone. */
  readonly b: Vec3
  /** Radii at both ends of a cone. */
  readonly ra: number
  readonly rb: number
  /** Axes of an ellipsoid, unit, with its radii. */
  readonly axes: readonly [Vec3, Vec3, Vec3]
  readonly radii: Vec3
  readonly k: number
  /** The joint that moves it, by role. */
  readonly role: string
  readonly color: readonly [number, number, number]
}

/** Blobs of one group blend with each other; the group then blends with the body by its own `k`. */
export interface BlobGroup {
  readonly k: number
  /** Cut out of what was there before it. */
  readonly carved?: boolean
  readonly blobs: readonly Blob[]
}

/** Signed distance to one blob, metres, negative inside (an ellipsoid's is a close bound, not exact). */
export function blobDistance(blob: Blob, x: number, y: number, z: number): number {
  const px = x - blob.a[0],
    py = y - blob.a[1],
    pz = z - blob.a[2]
  if (blob.shape === 'cone') {
    const bx = blob.b[0] - blob.a[0],
      by = blob.b[1] - blob.a[1],
      bz = blob.b[2] - blob.a[2]
    const l2 = bx * bx + by * by + bz * bz
    const t = l2 > 0 ? Math.min(1, Math.max(0, (px * bx + py * by + pz * bz) / l2)) : 0
    // smooth radius along the way keeps neighbouring segments without a crease
    const r = blob.ra + (blob.rb - blob.ra) * t
    const qx = px - bx * t,
      qy = py - by * t,
      qz = pz - bz * t
    return Math.sqrt(qx * qx + qy * qy + qz * qz) - r
  }
  let k0 = 0,
    k1 = 0
  for (let i = 0; i < 3; i++) {
    const axis = blob.axes[i],
      radius = blob.radii[i]
    const q = (px * axis[0] + py * axis[1] + pz * axis[2]) / radius
    const s = q / radius
    k0 += q * q
    k1 += s * s
  }
  if (k1 === 0) return -Math.min(...blob.radii)
  const n = Math.sqrt(k0)
  return (n * (n - 1)) / Math.sqrt(k1)
}

/** Smooth minimum of two distances (quadratic polynomial). */
function blend(a: number, b: number, k: number): number {
  if (k <= 0) return Math.min(a, b)
  const h = Math.max(k - Math.abs(a - b), 0) / k
  return Math.min(a, b) - (h * h * k) / 4
}

export function fieldDistance(groups: readonly BlobGroup[], x: number, y: number, z: number): number {
  let body = Infinity
  for (const group of groups) {
    let d = Infinity
    for (const blob of group.blobs) {
      const e = blobDistance(blob, x, y, z)
      d = d === Infinity ? e : blend(d, e, blob.k)
    }
    body =
      body === Infinity
        ? group.carved
          ? Infinity
          : d
        : group.carved
          ? -blend(-body, d, group.k)
          : blend(body, d, group.k)
  }
  return body
}

/** The part of a field that can matter within `reach` of a point: a faster field with the same values there. */
export function nearField(groups: readonly BlobGroup[], x: number, y: number, z: number, reach: number): BlobGroup[] {
  let nearest = Infinity
  const distances = groups.map(g =>
    g.blobs.map(b => {
      const d = blobDistance(b, x, y, z)
      nearest = Math.min(nearest, d)
      return d
    }),
  )
  return groups
    .map((g, i) => ({
      k: g.k,
      ...(g.carved && { carved: true }),
      blobs: g.blobs.filter((b, j) => distances[i][j] < nearest + 3 * reach + Math.max(b.k, g.k)),
    }))
    .filter(g => g.blobs.length > 0)
}

/** The blob a surface point belongs to: the one it lies deepest in. */
export function blobAt(groups: readonly BlobGroup[], x: number, y: number, z: number): Blob {
  let best = groups[0].blobs[0]
  let bestD = Infinity
  for (const group of groups) {
    if (group.carved) continue
    for (const blob of group.blobs) {
      const d = blobDistance(blob, x, y, z)
      if (d < bestD) {
        bestD = d
        best = blob
      }
    }
  }
  return best
}
