import { maxOf } from '../math'
import { neighbourSteps, type Voxels } from '../mesh'

/** The largest connected solid; loose crumbs beside it are dropped. */
export function largestPiece(voxels: Voxels): Voxels {
  const n = voxels.cells.length
  const offsets = neighbourSteps(voxels.counts).map(s => s.offset)
  const label = new Int32Array(n).fill(-1)
  const sizes: number[] = []
  const stack: number[] = []
  for (let seed = 0; seed < n; seed++) {
    if (label[seed] >= 0) continue
    const piece = sizes.length
    let size = 0
    label[seed] = piece
    stack.push(seed)
    while (stack.length > 0) {
      const cell = stack.pop()!
      size++
      for (const o of offsets) {
        const next = voxels.slot[voxels.cells[cell] + o]
        if (next >= 0 && label[next] < 0) {
          label[next] = piece
          stack.push(next)
        }
      }
    }
    sizes.push(size)
  }
  if (sizes.length <= 1) return voxels
  const largest = sizes.indexOf(maxOf(sizes))
  const slot = new Int32Array(voxels.slot.length).fill(-1)
  const cells = voxels.cells.filter((_, i) => label[i] === largest)
  cells.forEach((c, i) => {
    slot[c] = i
  })
  return { ...voxels, slot, cells }
}
