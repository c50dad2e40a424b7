import { breather, type WorkOptions } from '../math'
import type { ClosestOnSurface } from '../mesh'
import { sampleSurface } from '../shape'

/** How far one surface is from another. Metres. */
export interface Deviation {
  readonly mean: number
  readonly p95: number
  readonly worst: number
}

/** Distances from places spread evenly over a surface to another. */
export async function deviationOf(
  from: { readonly positions: Float32Array; readonly indices: Uint32Array },
  to: ClosestOnSurface,
  samples: number,
  work: WorkOptions = {},
): Promise<Deviation> {
  const pulse = breather(work)
  const places = sampleSurface(from.positions, from.indices, samples)
  const far = new Float64Array(samples)
  for (let i = 0; i < samples; i++) {
    if (i % 500 === 0) await pulse(i / samples)
    far[i] = to.nearest(places[3 * i], places[3 * i + 1], places[3 * i + 2])?.distance ?? 0
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
