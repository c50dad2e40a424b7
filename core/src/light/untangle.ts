import { breather, type WorkOptions } from '../math'
import { crossingsOf } from './crossings'
import type { Embedded, QuadEdges } from './embed'
import type { Draw } from './fit'
import { trianglesOf } from './quads'

/** Rounds of taking apart what is tangled; each frees a wider ring of vertices around it. */
const ROUNDS = 24

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
    asWritten(places)
    const triangles = trianglesOf(places, quads)
    const pairs = await crossingsOf(places, triangles)
    left = pairs.length
    const bad = new Uint8Array(n)
    for (const pair of pairs) for (const f of pair) for (let c = 0; c < 3; c++) bad[triangles[3 * f + c]] = 1
    if (round < 3) markFolds(places, quads, bad)
    if (round === ROUNDS || !bad.includes(1)) break
    const list = around(bad, edges, round < 6 ? 2 : round < 12 ? 3 : 4)
    // smoothed without regard to the sculpt a fold opens; drawn back gently it mostly stays open, and stays off where it does not
    for (let s = 0; s < 3 + 2 * round; s++) draw.smooth(list, 0.6, false)
    for (const v of list) on[v] = 0
    if (round >= 8) continue
    for (let turn = 0; turn < 2; turn++) {
      draw.look()
      for (const v of list) on[v] = draw.project(v, 0.03 * height, false) ? 1 : 0
      draw.look()
      if (turn === 0) draw.smooth(list, 0.5, true)
    }
  }
  return left > 0 ? left : regrow(embedded, quads, edges, draw, on, height, work)
}

/** Turns in which what was left off the sculpt is drawn back. */
const TURNS = 8

/** Draws what lies off the sculpt back to it a little at a time; what then crosses goes back where it was and stays. */
async function regrow(
  { places }: Embedded,
  quads: Uint32Array,
  edges: QuadEdges,
  draw: Draw,
  on: Uint8Array,
  height: number,
  work: WorkOptions,
): Promise<number> {
  const pulse = breather(work)
  const stays = new Uint8Array(on.length)
  for (let turn = 0; turn < TURNS; turn++) {
    await pulse(turn / TURNS)
    const last = turn === TURNS - 1
    const off = around(
      on.map((o, v) => (o || stays[v] ? 0 : 1)),
      edges,
      0,
    )
    if (off.length === 0) break
    const before = places.slice()
    draw.look()
    const share = last ? 1 : 0.4
    for (const v of off) {
      if (!draw.project(v, 0.08 * height, turn < TURNS / 2)) continue
      for (let c = 0; c < 3; c++)
        places[3 * v + c] = before[3 * v + c] + share * (places[3 * v + c] - before[3 * v + c])
      if (last) on[v] = 1
    }
    draw.look()
    if (!last) draw.smooth(off, 0.4, true)
    for (let tries = 0; tries < 4; tries++) {
      asWritten(places)
      const triangles = trianglesOf(places, quads)
      const pairs = await crossingsOf(places, triangles)
      if (pairs.length === 0) break
      const bad = new Uint8Array(on.length)
      for (const pair of pairs) for (const f of pair) for (let c = 0; c < 3; c++) bad[triangles[3 * f + c]] = 1
      const back = tries < 3 ? around(bad, edges, tries + 1) : off
      for (const v of back) {
        if (places[3 * v] === before[3 * v] && places[3 * v + 1] === before[3 * v + 1]) continue
        for (let c = 0; c < 3; c++) places[3 * v + c] = before[3 * v + c]
        on[v] = 0
        if (turn >= TURNS / 2) stays[v] = 1
      }
    }
  }
  return (await crossingsOf(places, trianglesOf(places, quads))).length
}

/** Rounds places to what a file can hold, so that what is looked at is what is written. */
function asWritten(places: Float64Array): void {
  for (let i = 0; i < places.length; i++) places[i] = Math.fround(places[i])
}

/** Vertices marked and some rings around them. */
function around(marked: Uint8Array, { starts, list }: QuadEdges, rings: number): Uint32Array {
  let wide = marked
  for (let s = 0; s < rings; s++) {
    const next = wide.slice()
    for (let v = 0; v < wide.length; v++) if (wide[v]) for (let e = starts[v]; e < starts[v + 1]; e++) next[list[e]] = 1
    wide = next
  }
  return Uint32Array.from([...wide.keys()].filter(v => wide[v]))
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
