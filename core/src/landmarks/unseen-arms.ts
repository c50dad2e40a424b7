import type { Vec3 } from '../math'
import type { Mesh } from '../mesh'
import { sampleSurface } from '../shape'
import type { ArmReading } from './arms'
import type { Cue } from './likely-figure'
import type { Patch } from './rows'

/**
 * An arm that was not seen lies where its twin does on the other side, where there is something all the way: thin arms
 * may fall between the cells, or part where a scan has holes.
 * @param cues what the twin says, by the landmarks of the arm that was not seen, where the twin has them
 * @returns nothing where the surface shows no such arm
 */
export function twinArmCues(
  { positions, indices }: Pick<Mesh, 'positions' | 'indices'>,
  twin: ArmReading,
  cues: readonly Cue[],
  height: number,
): Cue[] {
  const surface = sampleSurface(positions, indices, 6000)
  const mirrored = ([x, y, z]: Vec3): Vec3 => [-x, y, z]
  const reach = (TWIN_NEAR * height) ** 2
  const shows = ([x, y, z]: Vec3): boolean => {
    for (let i = 0; i < surface.length; i += 3)
      if ((surface[i] - x) ** 2 + (surface[i + 1] - y) ** 2 + (surface[i + 2] - z) ** 2 < reach) return true
    return false
  }
  const way = twin.line.filter((_, i) => i % 3 === 0).map(mirrored)
  if (way.filter(shows).length < TWIN_SHOWS * way.length) return []
  return cues.map(c => ({
    ...c,
    at: mirrored(c.at),
    spread: c.spread + TWIN_SPREAD * height,
    along: c.along && mirrored(c.along),
    alongSpread: c.alongSpread && c.alongSpread + TWIN_SPREAD * height,
  }))
}
/** How near the surface must come to a twin's line, over what share of it, and how far off arms are from their twins', in shares of height. */
const TWIN_NEAR = 0.035
const TWIN_SHOWS = 0.85
const TWIN_SPREAD = 0.03

/** An arm that does not stand out hangs along the trunk: it lies inside the outline on its side. */
export function hiddenArmCues(
  rows: readonly (readonly Patch[])[],
  shoulderY: number,
  height: number,
  side: 1 | -1,
): Cue[] {
  const name = side > 0 ? 'left' : 'right'
  const outline = (y: number): Vec3 | undefined => {
    const near = rows.flat().filter(p => Math.abs(p.y - y) < 0.012 * height)
    if (near.length === 0) return undefined
    const edge = near.reduce((a, b) =>
      side * (side > 0 ? b.maxX : b.minX) > side * (side > 0 ? a.maxX : a.minX) ? b : a,
    )
    return [(side > 0 ? edge.maxX : edge.minX) - side * 0.03 * height, y, edge.z]
  }
  return (
    [
      ['Shoulder', 1],
      ['Elbow', 0.785],
      ['Wrist', 0.6],
    ] as const
  ).flatMap(([part, share]) => {
    const at = outline(share * shoulderY)
    return at
      ? [{ id: name + part, at, spread: 0.05 * height, along: [0, 1, 0] as Vec3, alongSpread: 0.09 * height }]
      : []
  })
}
