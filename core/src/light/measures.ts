import { breather, seededRandom, type WorkOptions } from '../math'
import type { ClosestOnSurface } from '../mesh'

/** How far one surface is from another. Metres. */
export interface Deviation {
  readonly mean: number
  readonly p95: number
  readonly worst: number
}

/** Distances from places spread evenly over a surface to another. @param area whether a triangle counts */
export async function deviationOf(
  from: { positions: ArrayLike<number>; indices: ArrayLike<number> },
  to: ClosestOnSurface,
  samples: number,
  work: WorkOptions = {},
  counts: (triangle: number) => boolean = () => true,
): Promise<Deviation> {
  const pulse = breather(work)
  const { positions: p, indices: t } = from
  const faces = t.length / 3
  const upTo = new Float64Array(faces + 1)
  for (let f = 0; f < faces; f++) {
    const [a, b, c] = [3 * t[3 * f], 3 * t[3 * f + 1], 3 * t[3 * f + 2]]
    const ux = p[b] - p[a],
      uy = p[b + 1] - p[a + 1],
      uz = p[b + 2] - p[a + 2]
    const vx = p[c] - p[a],
      vy = p[c + 1] - p[a + 1],
      vz = p[c + 2] - p[a + 2]
    const area = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2
    upTo[f + 1] = upTo[f] + (counts(f) ? area : 0)
  }
  const random = seededRandom(20)
  const far = new Float64Array(samples)
  let f = 0
  for (let i = 0; i < samples; i++) {
    if (i % 500 === 0) await pulse(i / samples)
    const at = ((i + random()) / samples) * upTo[faces]
    while (f + 1 < faces && upTo[f + 1] < at) f++
    let u = random(),
      v = random()
    if (u + v > 1) {
      u = 1 - u
      v = 1 - v
    }
    const [a, b, c] = [3 * t[3 * f], 3 * t[3 * f + 1], 3 * t[3 * f + 2]]
    const w = 1 - u - v
    far[i] =
      to.nearest(
        w * p[a] + u * p[b] + v * p[c],
        w * p[a + 1] + u * p[b + 1] + v * p[c + 1],
        w * p[a + 2] + u * p[b + 2] + v * p[c + 2],
      )?.distance ?? 0
  }
  far.sort()
  return {
    mean: far.reduce((a, b) => a + b, 0) / Math.max(1, samples),
    p95: far[Math.floor(0.95 * (samples - 1))] ?? 0,
    worst: far[samples - 1] ?? 0,
  }
}

/** Vertices by how many edges meet there; a regular one has four. */
export function irregularOf(vertices: number, quads: ArrayLike<number>): number[] {
  const edges = new Set<number>()
  const degree = new Uint8Array(vertices)
  for (let q = 0; q < quads.length; q += 4)
    for (let k = 0; k < 4; k++) {
      const a = quads[q + k],
        b = quads[q + ((k + 1) % 4)]
      const key = a < b ? a * vertices + b : b * vertices + a
      if (edges.has(key)) continue
      edges.add(key)
      degree[a]++
      degree[b]++
    }
  return [...degree.keys()].filter(v => degree[v] !== 4)
}
