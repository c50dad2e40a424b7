import { breather, type WorkOptions } from '../math'
import { crossingsOf } from './crossings'
import { span, type Embedded, type QuadEdges } from './embed'
import type { Draw } from './fit'
import { trianglesOf } from './quads'

/** Rounds of taking apart what is tangled; each frees a wider ring of vertices around it. */
const ROUNDS = 7

/**
 * Takes apart a surface that passes through itself or folds back: the vertices of what crosses and of some rings around are spanned anew from what is around them and
 * drawn onto the sculpt again, more widely each time; what still crosses stays as it was spanned, off the sculpt.
 * @returns how many pairs of triangles cross in the end
 */
export async function untangle(
  embedded: Embedded,
  quads: Uint32Array,
  edges: QuadEdges,
  draw: Draw,
  on: Uint8Array,
  height: number,
  work: WorkOptions = {},
): Promise<number> {
  const pulse = breather(work)
  const { places } = embedded
  const n = places.length / 3
  let left = 0
  for (let round = 0; round <= ROUNDS; round++) {
    await pulse(round / (ROUNDS + 1))
    const triangles = trianglesOf(places, quads)
    const pairs = await crossingsOf(places, triangles)
    left = pairs.length
    const bad = new Uint8Array(n)
    for (const pair of pairs) for (const f of pair) for (let c = 0; c < 3; c++) bad[triangles[3 * f + c]] = 1
    if (round < 3) markFolds(places, quads, bad)
    if (round === ROUNDS || !bad.includes(1)) break
    for (let s = 0; s < 1 + round; s++) {
      const wide = bad.slice()
      for (let v = 0; v < n; v++)
        if (bad[v]) for (let e = edges.starts[v]; e < edges.starts[v + 1]; e++) wide[edges.list[e]] = 1
      bad.set(wide)
    }
    const list = Uint32Array.from([...bad.keys()].filter(v => bad[v]))
    span(places, bad.map(b => 1 - b), edges)
    // the last rounds leave what they spanned as it is
    if (round >= ROUNDS - 2) {
      for (const v of list) on[v] = 0
      continue
    }
    for (let turn = 0; turn < 5; turn++) {
      draw.look()
      for (const v of list) on[v] = draw.project(v, 0.04 * height, round === 0) ? 1 : 0
      draw.look()
      draw.smooth(list, 0.5, true)
    }
    draw.look()
    for (const v of list) on[v] = draw.project(v, 0.04 * height, false) ? 1 : 0
  }
  return left
}

/** Marks the corners of quads that look against their neighbours across an edge. */
function markFolds(places: Float64Array, quads: Uint32Array, bad: Uint8Array): void {
  const n = places.length / 3
  const normals = new Float64Array((3 * quads.length) / 4)
  for (let q = 0; q < quads.length / 4; q++) {
    const [a, b, c, d] = [0, 1, 2, 3].map(i => 3 * quads[4 * q + i])
    const u = [0, 1, 2].map(i => places[c + i] - places[a + i])
    const v = [0, 1, 2].map(i => places[d + i] - places[b + i])
    const x = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]]
    const l = Math.hypot(...x) || 1
    for (let i = 0; i < 3; i++) normals[3 * q + i] = x[i] / l
  }
  const across = new Map<number, number>()
  for (let q = 0; q < quads.length / 4; q++)
    for (let k = 0; k < 4; k++) {
      const a = quads[4 * q + k],
        b = quads[4 * q + ((k + 1) % 4)]
      const key = a < b ? a * n + b : b * n + a
      const other = across.get(key)
      if (other === undefined) {
        across.set(key, q)
        continue
      }
      const d =
        normals[3 * q] * normals[3 * other] +
        normals[3 * q + 1] * normals[3 * other + 1] +
        normals[3 * q + 2] * normals[3 * other + 2]
      if (d < -0.6) bad[a] = bad[b] = 1
    }
}
