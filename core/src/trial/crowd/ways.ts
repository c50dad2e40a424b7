import type { Way } from './document'

/** Metres once around a way. */
export const wayLength = ({ from, to, radius }: Way): number =>
  2 * Math.hypot(to[0] - from[0], to[1] - from[1]) + 2 * Math.PI * radius

/**
 * Where one is so far along a way, and how one faces there. It goes along the left of its middle line, from its beginning to its end, around, and back.
 * @returns across, ahead, radians to the left of ahead
 */
export function alongWay(way: Way, metres: number): readonly [x: number, z: number, heading: number] {
  const { from, to, radius } = way
  const long = Math.hypot(to[0] - from[0], to[1] - from[1])
  const [ux, uz] = long > 0 ? [(to[0] - from[0]) / long, (to[1] - from[1]) / long] : [0, 1]
  // to the right of the way it goes: left is +x where it goes along +z
  const [rx, rz] = [-uz, ux]
  const heading = Math.atan2(ux, uz)
  const whole = wayLength(way)
  let s = metres - whole * Math.floor(metres / whole)
  if (s < long) return [from[0] + ux * s + rx * radius, from[1] + uz * s + rz * radius, heading]
  s -= long
  const half = Math.PI * radius
  if (s < half) {
    const a = s / radius
    const [c, d] = [Math.cos(a), Math.sin(a)]
    return [to[0] + radius * (rx * c + ux * d), to[1] + radius * (rz * c + uz * d), heading + a]
  }
  s -= half
  if (s < long) return [to[0] - ux * s - rx * radius, to[1] - uz * s - rz * radius, heading + Math.PI]
  s -= long
  const a = s / radius
  const [c, d] = [Math.cos(a), Math.sin(a)]
  return [from[0] - radius * (rx * c + ux * d), from[1] - radius * (rz * c + uz * d), heading + Math.PI + a]
}
