import type { Vec3 } from '../math'
import type { Mesh } from '../mesh'

/** A head as seen from ahead: how far ahead its surface lies, and which triangle that is, on a grid. */
export interface DepthMap {
  readonly columns: number
  readonly rows: number
  /** Metres a cell. */
  readonly cell: number
  /** Place of the middle of the first cell, x and y. */
  readonly from: readonly [number, number]
  /** z of what is seen, -Infinity where nothing is; row after row from below. */
  readonly z: Float32Array
  /** The triangle seen, -1 where none is. */
  readonly triangle: Int32Array
}

/** Draws what of some triangles is seen from ahead (along -Z). @param corners first corner of each triangle in the index list */
export function depthFromAhead(
  { positions, indices }: Mesh,
  corners: Iterable<number>,
  low: readonly [number, number],
  high: readonly [number, number],
  cell: number,
): DepthMap {
  const columns = Math.max(1, Math.round((high[0] - low[0]) / cell) + 1)
  const rows = Math.max(1, Math.round((high[1] - low[1]) / cell) + 1)
  const z = new Float32Array(columns * rows).fill(-Infinity)
  const triangle = new Int32Array(columns * rows).fill(-1)
  for (const f of corners) {
    const [a, b, c] = [3 * indices[f], 3 * indices[f + 1], 3 * indices[f + 2]]
    const [ax, ay] = [(positions[a] - low[0]) / cell, (positions[a + 1] - low[1]) / cell]
    const [bx, by] = [(positions[b] - low[0]) / cell, (positions[b + 1] - low[1]) / cell]
    const [cx, cy] = [(positions[c] - low[0]) / cell, (positions[c + 1] - low[1]) / cell]
    const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    if (area <= 1e-12) continue
    const [x0, x1] = [
      Math.max(0, Math.ceil(Math.min(ax, bx, cx))),
      Math.min(columns - 1, Math.floor(Math.max(ax, bx, cx))),
    ]
    const [y0, y1] = [
      Math.max(0, Math.ceil(Math.min(ay, by, cy))),
      Math.min(rows - 1, Math.floor(Math.max(ay, by, cy))),
    ]
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const wa = ((bx - x) * (cy - y) - (by - y) * (cx - x)) / area
        const wb = ((cx - x) * (ay - y) - (cy - y) * (ax - x)) / area
        const wc = 1 - wa - wb
        if (wa < -1e-9 || wb < -1e-9 || wc < -1e-9) continue
        const here = wa * positions[a + 2] + wb * positions[b + 2] + wc * positions[c + 2]
        const i = y * columns + x
        if (here <= z[i]) continue
        z[i] = here
        triangle[i] = f
      }
  }
  return { columns, rows, cell, from: low, z, triangle }
}

/** How far ahead the surface lies at a place, between cells; -Infinity beside the head. */
export function depthAt({ columns, rows, cell, from, z }: DepthMap, x: number, y: number): number {
  const [u, v] = [(x - from[0]) / cell, (y - from[1]) / cell]
  const [i, j] = [Math.floor(u), Math.floor(v)]
  if (i < 0 || j < 0 || i >= columns - 1 || j >= rows - 1) return -Infinity
  const [s, t] = [u - i, v - j]
  const at = j * columns + i
  const corners = [z[at], z[at + 1], z[at + columns], z[at + columns + 1]]
  const weights = [(1 - s) * (1 - t), s * (1 - t), (1 - s) * t, s * t]
  // beside a step of depth the nearer of both sides is meant
  const most = Math.max(corners[0], corners[1], corners[2], corners[3])
  let sum = 0
  let all = 0
  corners.forEach((value, k) => {
    if (value < most - 6 * cell) return
    sum += weights[k] * value
    all += weights[k]
  })
  return all > 1e-6 ? sum / all : most
}

/** The point seen at a place. */
export const seenAt = (map: DepthMap, x: number, y: number): Vec3 => [x, y, depthAt(map, x, y)]
