import { seededRandom, type Vec3 } from '@chiraxis/core/math'

export const ease = (t: number): number => t * t * (3 - 2 * t)
export const clamp = (t: number): number => Math.min(1, Math.max(0, t))

/** A steady swing, ±1. */
export const beat = (time: number, period: number, phase = 0): number => Math.sin((2 * Math.PI * time) / period + phase)

/** Slow, smooth, seeded unrest, about ±1. */
export function unrest(seed: number): (t: number) => number {
  const random = seededRandom(seed)
  const waves = Array.from({ length: 4 }, (_, i) => ({
    f: 0.23 + 0.41 * i + 0.2 * random(),
    p: 2 * Math.PI * random(),
    a: 1 / (i + 1.4),
  }))
  return t => waves.reduce((s, w) => s + w.a * Math.sin(2 * Math.PI * w.f * t + w.p), 0) / 1.6
}

/** A value over time through keys, eased: monotone cubic (Fritsch and Carlson 1980), so that it never overshoots a key. */
export type Curve = (time: number) => number

export function curve(...keys: readonly (readonly [time: number, value: number])[]): Curve {
  const n = keys.length
  const slope = keys.map((_, i) => {
    if (i === 0 || i === n - 1) return 0
    const a = (keys[i][1] - keys[i - 1][1]) / (keys[i][0] - keys[i - 1][0]),
      b = (keys[i + 1][1] - keys[i][1]) / (keys[i + 1][0] - keys[i][0])
    return a * b <= 0 ? 0 : (2 * a * b) / (a + b)
  })
  return time => {
    if (time <= keys[0][0]) return keys[0][1]
    if (time >= keys[n - 1][0]) return keys[n - 1][1]
    let i = 0
    while (keys[i + 1][0] < time) i++
    const [t0, v0] = keys[i],
      [t1, v1] = keys[i + 1]
    const h = t1 - t0,
      t = (time - t0) / h
    return (
      v0 * (1 + 2 * t) * (1 - t) ** 2 +
      h * slope[i] * t * (1 - t) ** 2 +
      v1 * t * t * (3 - 2 * t) +
      h * slope[i + 1] * t * t * (t - 1)
    )
  }
}

/** A point over time through keys. */
export function path(
  ...keys: readonly (readonly [time: number, x: number, y: number, z: number])[]
): (time: number) => Vec3 {
  const [x, y, z] = [1, 2, 3].map(k => curve(...keys.map(key => [key[0], key[k as 1]] as const)))
  return t => [x(t), y(t), z(t)]
}

/** A foot's way: where it stands, and when it lifts to the next place and comes down there. */
export interface Step {
  readonly lift: number
  readonly land: number
  readonly x: number
  readonly z: number
  readonly yaw: number
  /** Height of the arc, metres. */ readonly high?: number
  /** Height of the place, metres. */ readonly y?: number
}
export interface FootAt {
  readonly x: number
  readonly y: number
  readonly z: number
  readonly yaw: number
  readonly pitch: number
  readonly rests: boolean
}

/** Follows a foot through its steps: it peels off over the ball, swings and comes down on the heel. */
export function footPath(
  start: { x: number; z: number; yaw: number; y?: number },
  steps: readonly Step[],
): (time: number) => FootAt {
  const smooth = (t: number): number => t * t * (3 - 2 * t)
  return time => {
    let at = { x: start.x, y: start.y ?? 0, z: start.z, yaw: start.yaw }
    for (const s of steps) {
      if (time <= s.lift) break
      const to = { x: s.x, y: s.y ?? 0, z: s.z, yaw: s.yaw }
      if (time < s.land) {
        const u = (time - s.lift) / (s.land - s.lift),
          e = smooth(u)
        const far = Math.min(1, Math.hypot(to.x - at.x, to.z - at.z) / 0.5)
        const pitch =
          far *
          (26 * Math.sin(Math.PI * Math.min(1, u * 2)) * (u < 0.5 ? 1 : 0) -
            12 * Math.sin(Math.PI * Math.max(0, u * 2 - 1)))
        return {
          x: at.x + (to.x - at.x) * e,
          y: at.y + (to.y - at.y) * smooth(Math.min(1, u * 1.3)) + (s.high ?? 0.08) * Math.sin(Math.PI * u) ** 2,
          z: at.z + (to.z - at.z) * e,
          yaw: at.yaw + (to.yaw - at.yaw) * e,
          pitch,
          rests: false,
        }
      }
      at = to
    }
    return { ...at, pitch: 0, rests: true }
  }
}
