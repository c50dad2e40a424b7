import { pointGrid } from '../mesh'
import { breather, type WorkOptions } from '../math'

/** How far every vertex is from the mirrored body, metres; mean and worst as shares of height. */
export interface Asymmetry {
  readonly deviation: Float32Array
  readonly mean: number
  readonly worst: number
  readonly worstVertex: number
}

/**
 * Left-right deviation of an upright body about x = 0: the distance of each vertex mirrored to the nearest vertex.
 * @param positions 3·V metres
 */
export async function asymmetryOf(positions: Float32Array, height: number, work: WorkOptions = {}): Promise<Asymmetry> {
  const pulse = breather(work)
  const n = positions.length / 3
  const reach = 0.04 * height
  const grid = pointGrid(positions, Math.max(reach / 3, height * Math.sqrt(2 / n)))
  const deviation = new Float32Array(n)
  let sum = 0,
    worst = 0,
    worstVertex = 0
  for (let v = 0; v < n; v++) {
    if ((v & 4095) === 0) await pulse(v / n)
    const near = grid.nearest(-positions[3 * v], positions[3 * v + 1], positions[3 * v + 2], 2)
    const d =
      near < 0
        ? reach
        : Math.min(
            reach,
            Math.hypot(
              positions[3 * near] + positions[3 * v],
              positions[3 * near + 1] - positions[3 * v + 1],
              positions[3 * near + 2] - positions[3 * v + 2],
            ),
          )
    deviation[v] = d
    sum += d
    if (d > worst) {
      worst = d
      worstVertex = v
    }
  }
  return { deviation, mean: sum / n / height, worst: worst / height, worstVertex }
}
