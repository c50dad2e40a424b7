import { boundsOf, type Mesh } from '../mesh'
import type { HeadPlace } from './find'

/** A head is about this many times as high as it is broad. */
const TALL = 1.38

/**
 * Where the head of a bust is, by its breadth from above: for a surface on which no body is to be found. The face itself settles
 * where the chin is.
 */
export function headOf({ positions }: Mesh): HeadPlace {
  const { min, max } = boundsOf(positions)
  const rows = 80
  const step = (max[1] - min[1]) / rows || 1
  const [low, high] = [new Float64Array(rows).fill(Infinity), new Float64Array(rows).fill(-Infinity)]
  for (let i = 0; i < positions.length; i += 3) {
    const r = Math.min(rows - 1, Math.floor((max[1] - positions[i + 1]) / step))
    low[r] = Math.min(low[r], positions[i])
    high[r] = Math.max(high[r], positions[i])
  }
  let broad = 0
  let r = 0
  while (r < rows && r * step < 1.1 * Math.max(broad, step)) broad = Math.max(broad, high[r] - low[r++])
  const crown = max[1]
  const z = (min[2] + max[2]) / 2
  const x = (min[0] + max[0]) / 2
  return { crown: [x, crown, z], chin: [x, Math.max(min[1], crown - TALL * broad), z] }
}
