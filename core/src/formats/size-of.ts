import { boundsOf } from '../mesh'

/** The longest side of the box around some points; 1 where they have none. */
export function sizeOf(positions: ArrayLike<number>): number {
  const { min, max } = boundsOf(positions)
  const size = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2])
  return size > 0 ? size : 1
}
