import { cross, maxOf, minOf, type Vec3 } from '../math'

/** Surface points in a frame that may be the body's own: across from the midline, up, and ahead or back. */
export interface Framed {
  readonly x: Float64Array
  readonly y: Float64Array
  readonly z: Float64Array
  /** Extent along y, and the lowest of it. */
  readonly tall: number
  readonly ground: number
}

/** Points seen in a frame: `lateral` across, `up` up, and what is at right angles to both. */
export function framed(points: Float32Array, up: Vec3, lateral: Vec3, offset: number): Framed {
  const n = points.length / 3
  const deep = cross(lateral, up)
  const [x, y, z] = [lateral, up, deep].map(d =>
    Float64Array.from(
      { length: n },
      (_, i) => points[3 * i] * d[0] + points[3 * i + 1] * d[1] + points[3 * i + 2] * d[2],
    ),
  )
  for (let i = 0; i < n; i++) x[i] -= offset
  const ground = minOf(y)
  return { x, y, z, ground, tall: maxOf(y) - ground || 1 }
}

/** Those of a frame's points whose height, as a share of all of it, lies between two. */
export function between(
  { y, ground, tall }: Framed,
  low: number,
  high: number,
  only: (i: number) => boolean = () => true,
): number[] {
  const out: number[] = []
  for (let i = 0; i < y.length; i++) {
    const h = (y[i] - ground) / tall
    if (h >= low && h <= high && only(i)) out.push(i)
  }
  return out
}

/** The value below which a share of numbers lies; 0 of none. */
export function quantile(values: ArrayLike<number>, share: number): number {
  if (values.length === 0) return 0
  return Float64Array.from(values).sort()[Math.min(values.length - 1, Math.floor(share * values.length))]
}
export const of = (list: Float64Array, at: readonly number[]): number[] => at.map(i => list[i])
export const middleOf = (values: number[]): number => (quantile(values, 0.06) + quantile(values, 0.94)) / 2
export const clamp = (v: number, most = 1): number => Math.min(most, Math.max(-most, v))

/** Whether a body is longer than a standing biped is deep: it goes on four legs, or it lies. */
export const isLong = (f: Framed): boolean => quantile(f.z, 0.97) - quantile(f.z, 0.03) > 0.55 * f.tall
