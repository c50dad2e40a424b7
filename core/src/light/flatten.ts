import potpack from 'potpack'
import type { LightSurface } from './make'

/** A light surface laid flat: its vertices split where charts are cut. */
export interface FlatSurface {
  /** Which vertex of the surface each one is. */
  readonly from: Uint32Array
  /** 4·Q over the split vertices */
  readonly quads: Uint32Array
  /** 2 a split vertex, 0..1, the first image row at 0 */
  readonly uvs: Float32Array
}

/** Room kept free around each chart, pixels. */
const GUTTER = 6

/**
 * Lays the charts of a light surface flat: each a rectangle whose columns and rows are as wide and high as its quads are on average,
 * all at one scale, packed into a square (by the kept library).
 * @param size of the image, pixels
 */
export function flatten(
  { positions: p, quads, cellOf, charts }: Pick<LightSurface, 'positions' | 'quads' | 'cellOf' | 'charts'>,
  size: number,
): FlatSurface {
  const widths = charts.map(c => ({ sum: new Float64Array(c.across), count: new Float64Array(c.across) }))
  const heights = charts.map(c => ({ sum: new Float64Array(c.up), count: new Float64Array(c.up) }))
  const between = (a: number, b: number): number =>
    Math.hypot(p[3 * a] - p[3 * b], p[3 * a + 1] - p[3 * b + 1], p[3 * a + 2] - p[3 * b + 2])
  for (let q = 0; q < quads.length / 4; q++) {
    const [chart, x, y] = [cellOf[3 * q], cellOf[3 * q + 1], cellOf[3 * q + 2]]
    const [a, b, c, d] = [0, 1, 2, 3].map(i => quads[4 * q + i])
    const grid = charts[chart].on === 'bottom'
    const across = grid ? between(b, c) + between(d, a) : between(a, b) + between(c, d)
    const up = grid ? between(a, b) + between(c, d) : between(b, c) + between(d, a)
    widths[chart].sum[x] += across / 2
    widths[chart].count[x]++
    heights[chart].sum[y] += up / 2
    heights[chart].count[y]++
  }
  const upTo = ({ sum, count }: { sum: Float64Array; count: Float64Array }): Float64Array => {
    const all =
      sum.reduce((a, b) => a + b, 0) /
      Math.max(
        1,
        count.reduce((a, b) => a + b, 0),
      )
    const out = new Float64Array(sum.length + 1)
    sum.forEach((s, i) => (out[i + 1] = out[i] + (count[i] > 0 ? s / count[i] : all)))
    return out
  }
  const xs = widths.map(upTo),
    ys = heights.map(upTo)
  const last = (list: Float64Array): number => list[list.length - 1]
  // how many metres a pixel is follows from how well the rest packs, and the gutters from that
  let metre = size / Math.sqrt(charts.reduce((sum, _, i) => sum + last(xs[i]) * last(ys[i]), 0) / 0.8)
  let places: { x: number; y: number }[] = []
  for (let turn = 0; turn < 8; turn++) {
    const boxes = charts.map((_, i) => ({
      i,
      w: Math.ceil(last(xs[i]) * metre) + 2 * GUTTER,
      h: Math.ceil(last(ys[i]) * metre) + 2 * GUTTER,
      x: 0,
      y: 0,
    }))
    const { w, h } = potpack(boxes)
    places = []
    for (const b of boxes) places[b.i] = { x: b.x, y: b.y }
    const fits = size / Math.max(w, h)
    if (fits >= 1 && (fits < 1.02 || turn === 7)) break
    metre *= fits >= 1 ? Math.min(fits, 1.05) : fits * 0.995
  }
  const split = new Map<string, number>()
  const from: number[] = []
  const uvs: number[] = []
  const out = new Uint32Array(quads.length)
  for (let q = 0; q < quads.length / 4; q++) {
    const [chart, x, y] = [cellOf[3 * q], cellOf[3 * q + 1], cellOf[3 * q + 2]]
    // corners of a wall and a top run across and then up; a grid below is turned over
    const corners = charts[chart].on === 'bottom' ? [[1, 1], [1, 0], [0, 0], [0, 1]] : [[0, 0], [1, 0], [1, 1], [0, 1]] // prettier-ignore
    for (let i = 0; i < 4; i++) {
      const [cx, cy] = [x + corners[i][0], y + corners[i][1]]
      const v = quads[4 * q + i]
      const key = `${chart},${cx},${cy},${v}`
      let at = split.get(key)
      if (at === undefined) {
        at = from.length
        split.set(key, at)
        from.push(v)
        const place = places[chart]
        uvs.push(
          (place.x + GUTTER + xs[chart][cx] * metre) / size,
          1 - (place.y + GUTTER + ys[chart][cy] * metre) / size,
        )
      }
      out[4 * q + i] = at
    }
  }
  return { from: Uint32Array.from(from), quads: out, uvs: Float32Array.from(uvs) }
}
