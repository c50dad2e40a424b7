import { neighbourSteps, type Voxels } from '../mesh'
import type { Extremity } from './extremities'

/** The cells of the limb behind an extremity: those reached from its tip without going below where it joins, or beyond the tip along what it holds. */
export function limbCells(voxels: Voxels, distance: Float32Array, end: Extremity): number[] {
  const offsets = neighbourSteps(voxels.counts).map(s => s.offset)
  const seen = new Set<number>([end.cell])
  const cells = [end.cell]
  const tip = distance[end.cell]
  for (let i = 0; i < cells.length; i++) {
    for (const o of offsets) {
      const next = voxels.slot[voxels.cells[cells[i]] + o]
      if (next < 0 || seen.has(next) || distance[next] <= end.joinsAt || distance[next] > tip) continue
      seen.add(next)
      cells.push(next)
    }
  }
  return cells
}
