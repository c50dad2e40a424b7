import { ChiraxisError } from '../math'

/**
 * Where a tube leaves its host: a rectangle of the host's cells that is taken out. On a wall `at` is the first place around
 * and `ring` the first ring; on an end `u` and `v` are the first cells across and deep.
 */
export type Window =
  | { readonly host: string; readonly on: 'wall'; readonly at: number; readonly ring: number }
  | { readonly host: string; readonly on: 'top' | 'bottom'; readonly u: number; readonly v: number }

/** A stack of rings of quads, closed at its far end by a grid. */
export interface TubePlan {
  readonly id: string
  /** Cells of the rectangle it leaves by, across and deep: it has 2·(across + deep) sides. */
  readonly across: number
  readonly deep: number
  /** Cells of the grid that closes it; of as many sides together. */
  readonly end: {
    readonly across: number
    readonly deep: number
    /** Place around where the grid begins. */ readonly from: number
  }
  readonly rings: number
  /** Place around where its wall is cut open to be laid flat. */
  readonly seam?: number
  /** Left out for the trunk, which is closed at both ends. */
  readonly window?: Window
}

/** Quads over vertices that have no place yet. */
export interface QuadComplex {
  readonly vertices: number
  /** 4·Q, counter-clockwise seen from outside */
  readonly quads: Uint32Array
  /** For each tube and ring the vertices around it; -1 where a window was taken out. */
  readonly rings: ReadonlyMap<string, readonly Int32Array[]>
  /** For each tube the grid that closes it, across · (deep + 1) + deep; -1 within windows. */
  readonly ends: ReadonlyMap<string, Int32Array>
  /** Q: the tube of each quad, as its place among the plans. */
  readonly tubeOf: Uint16Array
  /** 3·Q: the chart each quad lies in, and its place there, across and up. */
  readonly cellOf: Int32Array
  readonly charts: readonly Chart[]
}

/** A rectangle of quads that can be laid flat: the wall of a tube, or the grid at its end. */
export interface Chart {
  readonly tube: string
  readonly on: 'wall' | 'top' | 'bottom'
  /** Cells across and up. */
  readonly across: number
  readonly up: number
}

export const sidesOf = (plan: Pick<TubePlan, 'across' | 'deep'>): number => 2 * (plan.across + plan.deep)

/**
 * Joins tubes that leave one another by rectangular windows into one closed surface of quads, as boxes are drawn out of boxes. A
 * corner of a window has five neighbours, unless it lies on the rim of an end, and a corner of a closing grid three; all other vertices have four. So the irregular
 * vertices are known beforehand and lie where limbs part and end, never where one bends. (Skeleton-driven layouts: Usai
 * and others 2015, "Extraction of the quad layout of a triangle mesh guided by its curve skeleton"; the boxes: Tarini and
 * others 2004, "PolyCube-Maps".)
 * @param plans hosts before what leaves them; the first is the trunk
 * @throws ChiraxisError `bad-input` where windows do not fit
 */
export function buildComplex(plans: readonly TubePlan[]): QuadComplex {
  const quads: number[] = []
  const tubeOf: number[] = []
  const cellOf: number[] = []
  const charts: Chart[] = []
  let vertices = 0
  const rings = new Map<string, Int32Array[]>()
  const ends = new Map<string, Int32Array>()
  plans.forEach((plan, tube) => {
    const n = sidesOf(plan)
    if (2 * (plan.end.across + plan.end.deep) !== n) throw misfit(plan.id)
    const first = plan.window ? windowLoop(plan, plan.window, plans, rings, ends) : undefined
    if (first && (first.length !== n || first.includes(-1))) throw misfit(plan.id)
    const children = plans.filter(p => p.window?.host === plan.id)
    const walls = children.filter(p => p.window?.on === 'wall')
    // cells taken out, and what is left of the vertices
    const gone = new Uint8Array(n * plan.rings)
    for (const [i, child] of walls.entries()) {
      const { at, ring } = child.window as Extract<Window, { on: 'wall' }>
      if (ring < 0 || ring + child.deep > plan.rings - 1) throw misfit(child.id)
      for (let r = 0; r < child.deep; r++)
        for (let k = 0; k < child.across; k++) {
          const cell = (ring + r) * n + ((at + k) % n)
          if (gone[cell]) throw misfit(child.id)
          gone[cell] = i + 1
        }
    }
    const own: Int32Array[] = []
    for (let r = 0; r < plan.rings; r++) {
      const row = new Int32Array(n).fill(-1)
      for (let k = 0; k < n; k++) {
        if (r === 0 && first) {
          row[k] = first[k]
          continue
        }
        const before = (k + n - 1) % n
        // within a window there is nothing; between two of them there is
        if (
          r > 0 &&
          r < plan.rings - 1 &&
          within(gone[(r - 1) * n + k], gone[(r - 1) * n + before], gone[r * n + k], gone[r * n + before])
        )
          continue
        row[k] = vertices++
      }
      own.push(row)
    }
    rings.set(plan.id, own)
    charts.push({ tube: plan.id, on: 'wall', across: n, up: plan.rings - 1 })
    const seam = plan.seam ?? 0
    for (let r = 0; r + 1 < plan.rings; r++)
      for (let k = 0; k < n; k++) {
        if (gone[r * n + k]) continue
        cellOf.push(charts.length - 1, (k - seam + n) % n, r)
        const next = (k + 1) % n
        quads.push(own[r][k], own[r][next], own[r + 1][next], own[r + 1][k])
        tubeOf.push(tube)
      }
    const close = (row: Int32Array, end: TubePlan['end'], on: 'top' | 'bottom'): Int32Array => {
      const { across: a, deep: b } = end
      const out = new Uint8Array(a * b)
      for (const [i, child] of children.entries()) {
        if (child.window?.on !== on) continue
        const { u, v } = child.window
        if (u < 0 || v < 0 || u + child.across > a || v + child.deep > b) throw misfit(child.id)
        for (let x = 0; x < child.across; x++)
          for (let y = 0; y < child.deep; y++) {
            if (out[(u + x) * b + v + y]) throw misfit(child.id)
            out[(u + x) * b + v + y] = i + 1
          }
      }
      const grid = new Int32Array((a + 1) * (b + 1)).fill(-1)
      for (let x = 0; x <= a; x++)
        for (let y = 0; y <= b; y++) {
          const around = aroundOf(x, y, a, b)
          if (around >= 0) grid[x * (b + 1) + y] = row[(around + end.from) % n]
          else if (!within(out[(x - 1) * b + y - 1], out[x * b + y - 1], out[(x - 1) * b + y], out[x * b + y]))
            grid[x * (b + 1) + y] = vertices++
        }
      charts.push({ tube: plan.id, on, across: a, up: b })
      for (let x = 0; x < a; x++)
        for (let y = 0; y < b; y++) {
          if (out[x * b + y]) continue
          // seen from outside, a grid below is seen the other way round
          cellOf.push(charts.length - 1, on === 'top' ? x : a - 1 - x, y)
          const at = x * (b + 1) + y
          const four = [grid[at], grid[at + b + 1], grid[at + b + 2], grid[at + 1]]
          quads.push(...(on === 'top' ? four : four.reverse()))
          tubeOf.push(tube)
        }
      return grid
    }
    ends.set(plan.id, close(own[plan.rings - 1], plan.end, 'top'))
    if (!plan.window)
      ends.set(bottomOf(plan.id), close(own[0], { across: plan.across, deep: plan.deep, from: 0 }, 'bottom'))
  })
  return compact(
    vertices,
    Uint32Array.from(quads),
    rings,
    ends,
    Uint16Array.from(tubeOf),
    Int32Array.from(cellOf),
    charts,
  )
}

/** Whether four cells around a vertex are all of one window. */
const within = (a: number, b: number, c: number, d: number): boolean => a > 0 && a === b && a === c && a === d

/** Where the lower end of the trunk is kept among the ends. */
export const bottomOf = (id: string): string => `${id}/bottom`

/** Place around of a vertex of a grid's rim, -1 within it. */
export function aroundOf(x: number, y: number, a: number, b: number): number {
  if (y === 0) return x
  if (x === a) return a + y
  if (y === b) return a + b + a - x
  return x === 0 ? 2 * a + b + b - y : -1
}

/** The vertices around a window, counter-clockwise seen from outside. */
function windowLoop(
  plan: TubePlan,
  window: Window,
  plans: readonly TubePlan[],
  rings: ReadonlyMap<string, readonly Int32Array[]>,
  ends: ReadonlyMap<string, Int32Array>,
): Int32Array {
  const host = plans.find(p => p.id === window.host)
  const rows = rings.get(window.host)
  if (!host || !rows) throw misfit(plan.id)
  const { across, deep } = plan
  const out: number[] = []
  let cell: (x: number, y: number) => number
  if (window.on === 'wall') cell = (x, y) => rows[window.ring + y][(window.at + x) % rows[0].length]
  else {
    const grid = ends.get(window.on === 'top' ? host.id : bottomOf(host.id))
    if (!grid) throw misfit(plan.id)
    const b = window.on === 'top' ? host.end.deep : host.deep
    cell = (x, y) => grid[(window.u + (window.on === 'top' ? x : across - x)) * (b + 1) + window.v + y]
  }
  for (let x = 0; x < across; x++) out.push(cell(x, 0))
  for (let y = 0; y < deep; y++) out.push(cell(across, y))
  for (let x = across; x > 0; x--) out.push(cell(x, deep))
  for (let y = deep; y > 0; y--) out.push(cell(0, y))
  return Int32Array.from(out)
}

const misfit = (id: string): ChiraxisError =>
  new ChiraxisError('bad-input', `At so few quads no window for ${id} fits the surface it leaves.`)

/** Drops vertices no quad uses, such as those on an end that is taken out as a whole. */
function compact(
  vertices: number,
  quads: Uint32Array,
  rings: ReadonlyMap<string, Int32Array[]>,
  ends: ReadonlyMap<string, Int32Array>,
  tubeOf: Uint16Array,
  cellOf: Int32Array,
  charts: readonly Chart[],
): QuadComplex {
  const to = new Int32Array(vertices).fill(-1)
  let count = 0
  for (const v of quads) if (to[v] < 0) to[v] = count++
  const moved = (list: Int32Array): Int32Array => list.map(v => (v < 0 ? -1 : to[v]))
  return {
    vertices: count,
    quads: quads.map(v => to[v]),
    rings: new Map([...rings].map(([id, rows]) => [id, rows.map(moved)])),
    ends: new Map([...ends].map(([id, grid]) => [id, moved(grid)])),
    tubeOf,
    cellOf,
    charts,
  }
}
