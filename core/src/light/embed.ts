import { breather, type Vec3, type WorkOptions } from '../math'
import type { Layout } from './layout'
import type { MeasuredLimb } from './measured'
import { sectionOf, spreadAround, wholeSection } from './sections'
import type { Target } from './target'

/** A complex of quads with places in space. */
export interface Embedded {
  /** 3·V metres */
  readonly places: Float64Array
  /** V: 1 where a cut through the sculpt told the place. */
  readonly told: Uint8Array
  /** 3·V: the way a ring should not move along, for vertices of rings that are cut, as long as the root of how much; zeros elsewhere. */
  readonly along: Float32Array
}

/** Neighbours of every vertex along edges of quads. */
export interface QuadEdges {
  readonly starts: Uint32Array
  readonly list: Uint32Array
}

export function quadEdges(vertices: number, quads: ArrayLike<number>): QuadEdges {
  const sets: number[][] = Array.from({ length: vertices }, () => [])
  const join = (a: number, b: number): void => {
    if (!sets[a].includes(b)) sets[a].push(b)
  }
  for (let q = 0; q < quads.length; q += 4)
    for (let k = 0; k < 4; k++) {
      const a = quads[q + k],
        b = quads[q + ((k + 1) % 4)]
      join(a, b)
      join(b, a)
    }
  const starts = new Uint32Array(vertices + 1)
  sets.forEach((s, v) => (starts[v + 1] = starts[v] + s.length))
  return { starts, list: Uint32Array.from(sets.flat()) }
}

/** How much rings are held that lie at no joint. */
const LOOSE = 0.2

/** Lays every ring that is cut on its cut, and spans what lies between evenly from one to the next. */
export async function embed(
  layout: Layout,
  limbs: readonly MeasuredLimb[],
  target: Target,
  edges: QuadEdges,
  work: WorkOptions = {},
): Promise<Embedded> {
  const pulse = breather(work)
  const { complex, cuts, facing } = layout
  const n = complex.vertices
  const places = new Float64Array(3 * n)
  const told = new Uint8Array(n)
  const along = new Float32Array(3 * n)
  let done = 0
  for (const plan of layout.plans) {
    await pulse(done++ / layout.plans.length)
    const limb = limbs.find(l => l.id === plan.id)!
    const rings = complex.rings.get(plan.id)!
    const list = cuts.get(plan.id) ?? []
    for (let r = 0; r < rings.length; r++) {
      const cut = list[r]
      if (!cut) continue
      const section = wholeSection(sectionOf(target, limb.axis, cut, limb.counts, limb.reach), limb.bound)
      if (!section) continue
      const ring = rings[r]
      const spread = spreadAround(section, ring.length, facing.get(plan.id) ?? 0)
      const lean = cut.lean && cut.toward ? cut.lean : 0
      const way: Vec3 = lean
        ? ([0, 1, 2].map(k => section.frame.along[k] - lean * cut.toward![k]) as Vec3)
        : section.frame.along
      const l = Math.hypot(...way)
      const hold = Math.sqrt(cut.hold ?? LOOSE)
      ring.forEach((v, k) => {
        if (v < 0) return
        for (let c = 0; c < 3; c++) {
          // what two limbs share lies between what each tells
          places[3 * v + c] = (places[3 * v + c] * told[v] + spread[k][c]) / (told[v] + 1)
          along[3 * v + c] = told[v] > 0 ? 0 : (way[c] / l) * hold
        }
        told[v]++
      })
    }
  }
  span(places, told, edges)
  return { places, told: told.map(t => (t > 0 ? 1 : 0)), along }
}

/** Fills what has no place with the membrane between what has (the mean of neighbours everywhere; over-relaxed Gauss and Seidel). */
export function span(places: Float64Array, told: Uint8Array, { starts, list }: QuadEdges): void {
  const known = told.map(t => (t > 0 ? 1 : 0))
  const order: number[] = []
  let front = [...known.keys()].filter(v => known[v])
  while (front.length > 0) {
    const next: number[] = []
    for (const v of front)
      for (let e = starts[v]; e < starts[v + 1]; e++) {
        const u = list[e]
        if (known[u]) continue
        known[u] = 2
        for (let c = 0; c < 3; c++) places[3 * u + c] = places[3 * v + c]
        next.push(u)
        order.push(u)
      }
    front = next
  }
  for (let sweep = 0; sweep < 400; sweep++) {
    let most = 0
    for (const v of order) {
      const m = starts[v + 1] - starts[v]
      for (let c = 0; c < 3; c++) {
        let sum = 0
        for (let e = starts[v]; e < starts[v + 1]; e++) sum += places[3 * list[e] + c]
        const move = 1.7 * (sum / m - places[3 * v + c])
        places[3 * v + c] += move
        if (Math.abs(move) > most) most = Math.abs(move)
      }
    }
    if (most < 1e-5) break
  }
}
