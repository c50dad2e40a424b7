import { addScaled, breather, cross, dot, maxOf, normalize, scale, type Vec3, type WorkOptions } from '../math'
import { framed } from './framed'
import { mirrorSearch, type MirrorPlane, type MirrorSearch } from './symmetry'
import { standsWell } from './stands-well'

/** How a body stands in its file. */
export interface Standing {
  readonly up: Vec3
  /** Across, and where the midline lies along it. */
  readonly lateral: Vec3
  readonly offset: number
  /** How badly it mirrors about the midline, as a share of its size. */
  readonly error: number
  /** How likely this way up is among all, 0..1. */
  readonly upChance: number
}

const AXIS_LINES: readonly Vec3[] = [
  [0, 1, 0],
  [0, 0, 1],
  [1, 0, 0],
]
/** How much it counts against a way up that the body is shorter so than along another axis. */
const TALL = 0.21
/** A mirror error that halves the odds of a plane is about two thirds of it; no worse one counts more than the largest. */
const MIRROR_SCALE = 0.0088
const WORST_MIRROR = 0.1
/** Logarithms of odds of ways up as files bring bodies: along Y, seldom along X, hardly ever along a minus axis. */
const usualUp = (up: Vec3): number => 0.3 * Math.abs(up[1]) - 1.5 * Math.abs(up[0]) + (up.some(v => v > 0.5) ? 2 : 0)
/** The same of the way up that a file's own format asks for. */
const SPECIFIED = 1.2
/** Readings that are at least so likely beside the best one are settled before one is taken. */
const NEARLY = 1.2

/**
 * Reads how a body stands: every way up along the file's axes, and for each the planes it mirrors about best, are
 * judged together by how well the body mirrors and by how much it then looks like one that stands.
 * @param points 3·N surface samples  @param told the way up, where somebody settled it
 * @param specified the way up that the file's format asks for: a hint, as not every file keeps to it
 */
export async function standingOf(
  points: Float32Array,
  { told, specified }: { readonly told?: Vec3; readonly specified?: Vec3 } = {},
  work: WorkOptions = {},
): Promise<Standing> {
  const search = mirrorSearch(points, work)
  const pulse = breather(work)
  // a part of the points tells well enough how one stands
  const few = points.filter((_, i) => Math.floor(i / 3) % 3 === 0)
  const longest = maxOf(AXIS_LINES.map(a => extentAlong(few, a)))
  const candidates: { up: Vec3; plane: MirrorPlane; score: number }[] = []
  const lines = told ? [told] : AXIS_LINES
  for (const [l, line] of lines.entries()) {
    const planes = await search.around(line)
    await pulse((0.6 * (l + 1)) / lines.length)
    const least = planes.filter((p, i) => {
      const before = planes[(i + 35) % 36],
        after = planes[(i + 1) % 36]
      return p.error <= before.error && p.error <= after.error
    })
    const own = planes.filter(p => AXIS_LINES.some(a => Math.abs(dot(a, p.normal)) > 0.999))
    const tried = new Set([...least.sort((a, b) => a.error - b.error).slice(0, 4), ...own])
    for (const up of told ? [told] : [line, scale(line, -1)])
      for (const plane of tried) {
        await pulse()
        const usual =
          usualUp(up) + 0.03 * Math.abs(plane.normal[0]) + (specified && dot(specified, up) > 0.999 ? SPECIFIED : 0)
        const tall = told ? 0 : TALL * (extentAlong(few, up) / longest - 1)
        const well = standsWell(framed(few, up, plane.normal, plane.offset))
        candidates.push({ up, plane, score: well + usual + tall - mirrorCost(plane) })
      }
  }
  candidates.sort((a, b) => b.score - a.score)
  // the best few are settled, and the one that then mirrors best among nearly as good ones is taken
  let best: { up: Vec3; plane: MirrorPlane; score: number } | undefined
  for (const c of candidates.slice(0, 3)) {
    if (c.score < candidates[0].score - NEARLY) break
    await pulse(0.8)
    const plane = upright(search, better(search, c.plane), c.up)
    const score = c.score + mirrorCost(c.plane) - mirrorCost(plane)
    if (!best || score > best.score + 0.04) best = { up: c.up, plane, score }
  }
  const { up } = best!
  await pulse(0.9)
  const plane = centred(search, turned(search, best!.plane, up))
  const odds = (only: (c: Vec3) => boolean): number =>
    candidates.reduce((sum, c) => sum + (only(c.up) ? Math.exp(c.score - candidates[0].score) : 0), 0)
  return {
    up: normalize(addScaled(up, plane.normal, -dot(up, plane.normal))),
    lateral: plane.normal,
    offset: plane.offset,
    error: plane.error,
    upChance: odds(v => v === up) / odds(() => true),
  }
}

const mirrorCost = ({ error }: MirrorPlane): number => Math.min(error, WORST_MIRROR) / MIRROR_SCALE

/** A plane settled among its neighbours, unless that made it worse: thin legs may pair with one another wrongly. */
function better(search: MirrorSearch, plane: MirrorPlane): MirrorPlane {
  const settled = search.settle(plane.normal, plane.offset)
  const error = search.errorOf(plane.normal, plane.offset)
  return error < search.errorOf(settled.normal, settled.offset) ? { ...plane, error } : settled
}

/** A plane turned about the upright and moved, by ever smaller steps, to where the body mirrors best; clearly better, or as it was. */
function turned(search: MirrorSearch, plane: MirrorPlane, up: Vec3): MirrorPlane {
  const start = search.errorOf(plane.normal, plane.offset)
  if (start < 0.002) return plane
  const side = normalize(cross(up, plane.normal))
  const at = (turn: number, shift: number): MirrorPlane => {
    const normal = normalize(addScaled(plane.normal, side, Math.tan(turn)))
    const offset = plane.offset * dot(normal, plane.normal) + shift * search.size
    return { normal, offset, error: search.errorOf(normal, offset) }
  }
  let [turn, shift] = [0, 0]
  let best: MirrorPlane = { ...plane, error: start }
  for (const [t, d] of [
    [0.05, 0.02],
    [0.02, 0.008],
    [0.008, 0.003],
  ])
    for (const [a, b] of [
      [t, 0],
      [-t, 0],
      [0, d],
      [0, -d],
      [t, d],
      [t, -d],
      [-t, d],
      [-t, -d],
    ]) {
      const next = at(turn + a, shift + b)
      if (next.error >= best.error) continue
      best = next
      turn += a
      shift += b
    }
  return best.error < 0.93 * start ? best : plane
}

/** A plane that leans is taken as upright unless the body then mirrors clearly worse: a held pose leans, not its file. */
function upright(search: MirrorSearch, plane: MirrorPlane, up: Vec3): MirrorPlane {
  const lean = dot(plane.normal, up)
  if (Math.abs(lean) < 1e-4) return plane
  const normal = normalize(addScaled(plane.normal, up, -lean))
  const level = search.settle(normal, plane.offset)
  const flat = normalize(addScaled(level.normal, up, -dot(level.normal, up)))
  const offset = level.offset
  const error = search.errorOf(flat, offset)
  return error < 2.5 * search.errorOf(plane.normal, plane.offset) + 2e-4 ? { normal: flat, offset, error } : plane
}

/** Arms held unlike one another draw the midline to one side: then it is where trunk, head and legs alone mirror best. */
function centred(search: MirrorSearch, plane: MirrorPlane): MirrorPlane {
  if (plane.error < 0.006) return plane
  const near = 0.17
  const errorAt = (offset: number): number => search.errorOf(plane.normal, offset, near)
  const start = errorAt(plane.offset)
  let best = { offset: plane.offset, error: start }
  for (const step of [0.02, 0.005]) {
    const from = best.offset
    for (let k = -6; k <= 6; k++) {
      const offset = from + k * step * search.size
      const error = errorAt(offset)
      if (error < best.error) best = { offset, error }
    }
  }
  if (best.error > 0.93 * start) return plane
  return { ...plane, offset: best.offset, error: search.errorOf(plane.normal, best.offset) }
}

function extentAlong(points: Float32Array, d: Vec3): number {
  let low = Infinity,
    high = -Infinity
  for (let i = 0; i < points.length; i += 3) {
    const t = points[i] * d[0] + points[i + 1] * d[1] + points[i + 2] * d[2]
    low = Math.min(low, t)
    high = Math.max(high, t)
  }
  return high - low
}
