import { addScaled, dot, normalize, type ReadonlyVec3, type Vec3 } from '../math'
import type { AxisFrame, LimbAxis } from './axis'
import { looks, type Target } from './target'

/** Ways looked along around a limb. */
export const WAYS = 72

/** A cut through a limb: how far its surface is from the middle, in each of {@link WAYS} ways around. */
export interface Section {
  readonly frame: AxisFrame
  /** WAYS × 3: the ways themselves, within the plane of the cut; of unit length across the limb. */
  readonly ways: readonly Vec3[]
  /** WAYS: metres times the length of its way; NaN where nothing of the limb was met. */
  readonly radii: Float64Array
}

/** A plane across a limb: where it meets the middle, and how it leans. */
export interface Cut {
  readonly s: number
  /** How much farther along it lies for each metre in the way `toward`. */
  readonly lean?: number
  readonly toward?: ReadonlyVec3
  /** How much a ring is held in its plane while the surface smooths itself, 0 to 1. */
  readonly hold?: number
}

/** Whose a triangle met at a place is: the limb's own, a neighbour's that counts where nothing of its own is, or nobody's. */
export type Counts = (triangle: number, met: ReadonlyVec3) => 'own' | 'guest' | undefined

/** How much farther than its own surface usually is a neighbour's may be. */
const GUESTS = 1.5

export function sectionOf(target: Target, axis: LimbAxis, cut: Cut, counts: Counts, reach: number): Section {
  const frame = axis.at(cut.s)
  const { place, across, deep, along } = frame
  const ways: Vec3[] = []
  const radii = new Float64Array(WAYS).fill(NaN)
  const guests = new Float64Array(WAYS).fill(NaN)
  const listOf = (f: number, met: Vec3, far: number): Float64Array | undefined => {
    const whose = counts(f, met)
    if (!whose) return undefined
    // what belongs to another stretch of a limb that is bent back on itself does not count
    const off = Math.abs(axis.nearest(met) - cut.s)
    if (off >= 0.35 * axis.length && off >= 1.5 * far) return undefined
    return whose === 'own' ? radii : guests
  }
  for (let i = 0; i < WAYS; i++) {
    const angle = (2 * Math.PI * i) / WAYS
    const flat = addScaled(
      [across[0] * Math.cos(angle), across[1] * Math.cos(angle), across[2] * Math.cos(angle)],
      deep,
      Math.sin(angle),
    )
    const way = cut.lean && cut.toward ? addScaled(flat, along, cut.lean * dot(flat, cut.toward)) : flat
    ways.push(way)
    target.surface.along([place[0], place[1], place[2]], [way[0], way[1], way[2]], reach, (f, far) => {
      const list = far > 0 && looks(target, f, way) > 0.02 ? listOf(f, addScaled(place, way, far), far) : undefined
      if (list && !(list[i] >= far)) list[i] = far
    })
  }
  const own = [...radii].filter(r => r > 0).sort((a, b) => a - b)
  const most = own.length > 0 ? GUESTS * own[own.length >> 1] : reach
  for (let i = 0; i < WAYS; i++) if (!(radii[i] > 0) && guests[i] <= most) radii[i] = guests[i]
  return { frame, ways, radii }
}

/** How much of the way around the surface was met, 0 to 1. */
export const metOf = (section: Section): number => section.radii.reduce((n, r) => n + (r > 0 ? 1 : 0), 0) / WAYS

/** A plane what is only supposed stays on one side of. */
export interface Bound {
  readonly place: ReadonlyVec3
  /** The way to the other side; of unit length. */
  readonly out: ReadonlyVec3
}

/** Fills what was not met from its neighbours around, and takes out what stands out alone. Undefined where too little was met. */
export function wholeSection(section: Section, bound?: Bound, least = 0.3): Section | undefined {
  if (metOf(section) < least) return undefined
  const radii = section.radii.slice()
  for (let i = 0; i < WAYS; i++) {
    if (section.radii[i] > 0) continue
    let before = 1,
      after = 1
    while (!(section.radii[(i - before + WAYS) % WAYS] > 0)) before++
    while (!(section.radii[(i + after) % WAYS] > 0)) after++
    const a = section.radii[(i - before + WAYS) % WAYS],
      b = section.radii[(i + after) % WAYS]
    // across a gap as a chord goes, not as an arc
    const gap = ((before + after) * 2 * Math.PI) / WAYS
    const t = before / (before + after)
    radii[i] = gap < 3 ? chord(a, b, gap, t) : a + (b - a) * t
    if (bound) {
      const { place } = section.frame
      const room = [0, 1, 2].reduce((sum, c) => sum + (bound.place[c] - place[c]) * bound.out[c], 0)
      const share = dot(section.ways[i], bound.out)
      if (share > 1e-3) radii[i] = Math.max(1e-4, Math.min(radii[i], room / share))
    }
  }
  const calm = radii.slice()
  for (let i = 0; i < WAYS; i++) {
    const near = [-2, -1, 0, 1, 2].map(k => radii[(i + k + WAYS) % WAYS]).sort((a, b) => a - b)
    if (radii[i] > 1.5 * near[2] || radii[i] < near[2] / 1.5) calm[i] = near[2]
  }
  return { ...section, radii: calm }
}

/** The distance to a straight line between two points seen `gap` apart, at a share of the gap. */
function chord(a: number, b: number, gap: number, t: number): number {
  const bx = b * Math.cos(gap),
    by = b * Math.sin(gap)
  const c = Math.cos(t * gap),
    s = Math.sin(t * gap)
  // (a, 0) + k ((bx, by) - (a, 0)) along (c, s)
  const d = c * by - s * (bx - a)
  return Math.abs(d) > 1e-9 ? Math.abs((a * by) / d) : a + (b - a) * t
}

export const pointOf = (section: Section, i: number): Vec3 =>
  addScaled(section.frame.place, section.ways[i], section.radii[i])

/** Length around a section, metres. */
export function girthOf(section: Section): number {
  let sum = 0
  for (let i = 0; i < WAYS; i++) {
    const a = pointOf(section, i),
      b = pointOf(section, (i + 1) % WAYS)
    sum += Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])
  }
  return sum
}

/**
 * Places spread evenly around a section. The place `facing` (it may lie between two) looks against `deep`, the one half
 * around from it along `deep`.
 */
export function spreadAround(section: Section, sides: number, facing: number): Vec3[] {
  const points = Array.from({ length: WAYS }, (_, i) => pointOf(section, i))
  const half = WAYS / 2
  // ways run from `across` over `deep`: three quarters around lies what looks against `deep`
  const from = (3 * WAYS) / 4
  const halves = [0, half].map(start => {
    const line = Array.from({ length: half + 1 }, (_, k) => points[(from + start + k) % WAYS])
    const run = [0]
    for (let k = 1; k <= half; k++) run.push(run[k - 1] + Math.hypot(...sub3(line[k], line[k - 1])))
    return { line, run }
  })
  return Array.from({ length: sides }, (_, k) => {
    let share = ((((k - facing) / sides) % 1) + 1) % 1
    const { line, run } = halves[share < 0.5 ? 0 : 1]
    if (share >= 0.5) share -= 0.5
    const want = 2 * share * run[half]
    let i = 1
    while (i < half && run[i] < want) i++
    const t = (want - run[i - 1]) / (run[i] - run[i - 1] || 1)
    return addScaled(line[i - 1], sub3(line[i], line[i - 1]), Math.min(1, Math.max(0, t)))
  })
}
const sub3 = (a: ReadonlyVec3, b: ReadonlyVec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]

/**
 * How far along a limb it has parted from what it leaves: there its surface turns toward `inward` before the host's does.
 * @returns undefined where it never parts
 */
export function partingOf(
  target: Target,
  axis: LimbAxis,
  inward: ReadonlyVec3,
  limbs: ReadonlySet<number>,
  reach: number,
  upTo: number,
): { s: number; place: Vec3 } | undefined {
  const steps = 48
  for (let k = 0; k <= steps; k++) {
    const s = (upTo * k) / steps
    const { place, along } = axis.at(s)
    const flat = normalize(addScaled(inward, along, -dot(inward, along)), inward)
    let met = 0
    let where: Vec3 | undefined
    for (const turn of [0, -0.35, 0.35]) {
      const side = [
        along[1] * flat[2] - along[2] * flat[1],
        along[2] * flat[0] - along[0] * flat[2],
        along[0] * flat[1] - along[1] * flat[0],
      ] as const
      const way = addScaled(
        [flat[0] * Math.cos(turn), flat[1] * Math.cos(turn), flat[2] * Math.cos(turn)],
        side,
        Math.sin(turn),
      )
      let least = Infinity
      target.surface.along([place[0], place[1], place[2]], [way[0], way[1], way[2]], reach, (f, at) => {
        if (at < least && at > 0 && limbs.has(target.limbOf[f]) && looks(target, f, way) > 0.2) least = at
      })
      if (least < Infinity) {
        met++
        if (turn === 0) where = addScaled(place, way, least)
      }
    }
    if (met === 3 && where) return { s, place: where }
  }
  return undefined
}
