import { addScaled, breather, cross, dot, maxOf, normalize, scale, type Vec3, type WorkOptions } from '../math'
import { between, clamp, framed, isLong, of, quantile, type Framed } from './framed'
import { mirrorSearch, type MirrorPlane, type MirrorSearch } from './symmetry'

const deviation = (values: readonly number[]): number => {
  const mean = values.reduce((a, b) => a + b, 0) / Math.max(1, values.length)
  return Math.sqrt(values.reduce((a, b) => a + (b - mean) ** 2, 0) / Math.max(1, values.length))
}

/**
 * How much a frame looks like that of a body that stands in it: legs parted about the midline at its lower end, one
 * narrow head above, soles that are flat, a trunk broader than deep, or legs before and behind. About -3 to 3.
 */
export function standsWell(f: Framed): number {
  const { x, z, tall } = f
  const slices = 12
  const free = 0.01 * tall
  const near = (i: number): boolean => Math.abs(x[i]) < 0.4 * tall
  const parted = (low: number, high: number): number => {
    let n = 0
    for (let s = 0; s < slices; s++) {
      const own = between(f, low + ((high - low) * s) / slices, low + ((high - low) * (s + 1)) / slices, near)
      const left = own.filter(i => x[i] > free).length
      const right = own.filter(i => x[i] < -free).length
      if (left > 2 && right > 2 && own.length - left - right <= 0.02 * own.length) n++
    }
    return n / slices
  }
  const legs = parted(0, 0.28) - parted(0.72, 1)
  const spread = (low: number, high: number): number => {
    const own = between(f, low, high, i => Math.abs(x[i]) < 0.2 * tall)
    return Math.hypot(deviation(of(x, own)), deviation(of(z, own))) / tall
  }
  const narrow = clamp((spread(0, 0.1) - spread(0.9, 1)) / 0.06)
  // soles are flat; what is on top is not
  const soles = between(f, 0, 0.02).length,
    tops = between(f, 0.98, 1).length
  const flat = (soles - tops) / Math.max(1, soles + tops)
  let broad = 0
  // a long body that does not stand on four legs lies
  if (isLong(f)) broad = 1.5 * Math.max(0, legs) * onFour(f) - 0.2
  else {
    const mz = quantile(
      of(
        z,
        between(f, 0.5, 0.85, i => Math.abs(x[i]) < 0.2 * tall),
      ),
      0.5,
    )
    const trunk = between(f, 0.5, 0.85, i => Math.abs(x[i]) < 0.2 * tall && Math.abs(z[i] - mz) < 0.2 * tall)
    broad = clamp((deviation(of(x, trunk)) / Math.max(1e-9, deviation(of(z, trunk))) - 1) / 0.4)
    // most of a body that stands on two legs is near its midline, however its arms are held; seen from the side, not
    const inner = x.reduce((count, v) => count + (Math.abs(v) < 0.22 * tall ? 1 : 0), 0) / x.length
    broad = Math.min(broad, clamp((inner - 0.52) / 0.1))
  }
  return 1.6 * legs + 0.3 * narrow + 0.45 * flat + 0.8 * broad
}

/** How far the lower end of a long body is parted into legs before and legs behind, 0..1. */
function onFour(f: Framed): number {
  const { z, tall } = f
  const slices = 8
  let parted = 0
  for (let s = 0; s < slices; s++) {
    const own = of(z, between(f, (0.3 * s) / slices, (0.3 * (s + 1)) / slices)).sort((a, b) => a - b)
    if (own.length < 8) continue
    let gap = 0,
      at = 0
    for (let i = 1; i < own.length; i++)
      if (own[i] - own[i - 1] > gap) {
        gap = own[i] - own[i - 1]
        at = i / own.length
      }
    if (gap > 0.12 * tall && at > 0.2 && at < 0.8) parted++
  }
  // none is so long for its height; what lies is
  const long = (quantile([...z], 0.99) - quantile([...z], 0.01)) / tall
  return (Math.max(0, Math.min(1, (2.62 - long) / 0.1)) * parted) / slices
}

/** How a body stands in its file. */
export interface Standing {
  readonly up: Vec3
  /** Across, and where the midline lies along it. */
  readonly lateral: Vec3
  readonly offset: number
  /** How badly it mirrors about the midline, as a share of its size. */
  readonly error: number
  /** By how much this reading is likelier than any with another way up. */
  readonly upMargin: number
}

const AXIS_LINES: readonly Vec3[] = [
  [0, 1, 0],
  [0, 0, 1],
  [1, 0, 0],
]
/** How much it counts against a way up that the body is shorter so than along another axis: few are, lying ones all. */
const TALL = 2.2
/** A mirror error that counts as much as legs that are not parted. */
const MIRROR_SCALE = 0.018

/**
 * Reads how a body stands: every way up along the file's axes, and for each the planes it mirrors about best, are
 * judged together by how well the body mirrors and by how much it then looks like one that stands.
 * @param points 3·N surface samples  @param told the way up, where somebody settled it
 */
export async function standingOf(points: Float32Array, told?: Vec3, work: WorkOptions = {}): Promise<Standing> {
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
        // as files usually stand and face, where nothing else tells
        const usual = 0.06 * line[1] - 0.3 * line[0] + (up === line ? 0.9 : 0) + 0.03 * Math.abs(plane.normal[0])
        const tall = told ? 0 : TALL * (extentAlong(few, up) / longest - 1)
        const well = standsWell(framed(few, up, plane.normal, plane.offset))
        candidates.push({ up, plane, score: well + usual + tall - plane.error / MIRROR_SCALE })
      }
  }
  candidates.sort((a, b) => b.score - a.score)
  // the best few are settled, and the one that then mirrors best among nearly as good ones is taken
  let best: { up: Vec3; plane: MirrorPlane; score: number } | undefined
  for (const c of candidates.slice(0, 3)) {
    if (c.score < candidates[0].score - 0.7) break
    await pulse(0.8)
    const plane = upright(search, better(search, c.plane), c.up)
    const score = c.score + (c.plane.error - plane.error) / MIRROR_SCALE
    if (!best || score > best.score + 0.02) best = { up: c.up, plane, score }
  }
  const { up, score } = best!
  await pulse(0.9)
  const plane = centred(search, turned(search, best!.plane, up))
  const rival = candidates.find(c => dot(c.up, up) < 0.5)
  return {
    up: normalize(addScaled(up, plane.normal, -dot(up, plane.normal))),
    lateral: plane.normal,
    offset: plane.offset,
    error: plane.error,
    upMargin: rival ? score - rival.score : 1,
  }
}

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
