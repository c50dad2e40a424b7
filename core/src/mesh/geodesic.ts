import FlatQueue from 'flatqueue'
import { breather, type WorkOptions } from '../math'
import { neighbourSteps } from './voxel-access'
import type { Voxels } from './voxelize'

export interface GeodesicField {
  /** S: shortest way inside the body to the nearest source, metres; Infinity where none leads. */
  readonly distance: Float32Array
  /** S: which source that is; -1 where none. */
  readonly source: Int32Array
  /** S: the cell before on that way; -1 at sources. */
  readonly previous: Int32Array
}

export interface GeodesicOptions extends WorkOptions {
  /** Cost of a metre in each cell; 1 everywhere when left out. */
  readonly cost?: Float32Array
}

/**
 * Shortest ways through the solid from labelled source cells, over 26 neighbours (Dijkstra).
 * The border of the grid is never solid, so neighbour steps need no range check.
 * @param sources cells with their label and start distance in metres
 */
export async function geodesics(
  voxels: Voxels,
  sources: readonly { cell: number; label: number; start?: number }[],
  options: GeodesicOptions = {},
): Promise<GeodesicField> {
  const pulse = breather(options)
  const { cells, slot, size, counts } = voxels
  const n = cells.length
  const distance = new Float32Array(n).fill(Infinity)
  const source = new Int32Array(n).fill(-1)
  const previous = new Int32Array(n).fill(-1)
  const steps = neighbourSteps(counts)
  const offsets = Int32Array.from(steps, s => s.offset)
  const lengths = Float32Array.from(steps, s => s.length * size)
  const queue = new FlatQueue<number>()
  for (const s of sources) {
    const start = Math.fround(s.start ?? 0)
    if (start < distance[s.cell]) {
      distance[s.cell] = start
      source[s.cell] = s.label
      queue.push(s.cell, start)
    }
  }
  const { cost } = options
  let settled = 0
  while (queue.length > 0) {
    const d = queue.peekValue()!
    const at = queue.pop()!
    if (d > distance[at]) continue
    if ((++settled & 2047) === 0) await pulse(settled / n)
    const cell = cells[at]
    for (let s = 0; s < 26; s++) {
      const next = slot[cell + offsets[s]]
      if (next < 0) continue
      const way = Math.fround(d + lengths[s] * (cost ? 0.5 * (cost[at] + cost[next]) : 1))
      if (way < distance[next]) {
        distance[next] = way
        source[next] = source[at]
        previous[next] = at
        queue.push(next, way)
      }
    }
  }
  return { distance, source, previous }
}
