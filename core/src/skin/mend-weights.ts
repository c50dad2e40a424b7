import { adjacencyOf, boundsOf, pointGrid, weldByPosition, weldedIndices, type Mesh } from '../mesh'
import type { Skin } from './skin'

/** What is amiss with the weights of a received skin. */
export interface WeightFaults {
  /** Vertices whose weights do not sum to one, though they have some. */
  readonly uneven: number
  /** Vertices without any weight. */
  readonly loose: number
  /** Most joints that move one vertex, and vertices moved by more than eight or four. */
  readonly most: number
  /** One vertex of each kind, to show the place. */
  readonly unevenAt: number
  readonly looseAt: number
}

const NEAR = 0.005

/** Counts vertices whose weights games and films cannot use as they are. */
export function checkWeights(skin: Skin): WeightFaults {
  const k = skin.influences
  let uneven = 0,
    loose = 0,
    most = 0,
    unevenAt = -1,
    looseAt = -1
  for (let v = 0; v < skin.joints.length / k; v++) {
    let sum = 0,
      used = 0
    for (let i = v * k; i < v * k + k; i++) {
      sum += skin.weights[i]
      if (skin.weights[i] > 0) used++
    }
    most = Math.max(most, used)
    if (!(sum > 1e-4)) {
      loose++
      looseAt = looseAt < 0 ? v : looseAt
    } else if (Math.abs(sum - 1) > NEAR) {
      uneven++
      unevenAt = unevenAt < 0 ? v : unevenAt
    }
  }
  return { uneven, loose, most, unevenAt, looseAt }
}

/** The same shares, summing to one at every vertex that has any. */
export function normaliseWeights(skin: Skin): Skin {
  const k = skin.influences
  const weights = skin.weights.slice()
  for (let v = 0; v < weights.length / k; v++) {
    let sum = 0
    for (let i = v * k; i < v * k + k; i++) sum += weights[i]
    if (sum > 1e-4) for (let i = v * k; i < v * k + k; i++) weights[i] /= sum
  }
  return { ...skin, weights }
}

/** Gives every vertex without weight that of the nearest vertex over the surface that has some, else of the nearest in space. */
export function fillWeights(skin: Skin, mesh: Pick<Mesh, 'positions' | 'indices'>): Skin {
  const k = skin.influences
  const joints = skin.joints.slice()
  const weights = skin.weights.slice()
  const weld = weldByPosition(mesh.positions)
  const w = weld.first.length
  const sumOf = (v: number): number => {
    let s = 0
    for (let i = v * k; i < v * k + k; i++) s += weights[i]
    return s
  }
  const source = new Int32Array(w).fill(-1)
  const n = mesh.positions.length / 3
  for (let v = 0; v < n; v++) if (sumOf(v) > 1e-4) source[weld.of[v]] = v
  const adjacency = adjacencyOf(w, weldedIndices(mesh.indices, weld))
  let front = [...source.keys()].filter(i => source[i] >= 0)
  const seeds = front.map(i => source[i])
  while (front.length > 0) {
    const next: number[] = []
    for (const i of front)
      for (let e = adjacency.starts[i]; e < adjacency.starts[i + 1]; e++) {
        const o = adjacency.neighbours[e]
        if (source[o] >= 0) continue
        source[o] = source[i]
        next.push(o)
      }
    front = next
  }
  let nearest: ((v: number) => number) | undefined
  for (let v = 0; v < n; v++) {
    if (sumOf(v) > 1e-4) continue
    let from = source[weld.of[v]]
    if (from < 0) from = (nearest ??= nearestAmong(mesh.positions, seeds))(v)
    if (from < 0) continue
    for (let i = 0; i < k; i++) {
      joints[v * k + i] = skin.joints[from * k + i]
      weights[v * k + i] = skin.weights[from * k + i]
    }
  }
  return normaliseWeights({ influences: k, joints, weights })
}

/** Looks up the nearest of some vertices; the grid is as fine as they lie apart, and reaches over the whole body. */
function nearestAmong(positions: Float32Array, among: readonly number[]): (v: number) => number {
  if (among.length === 0) return () => -1
  const points = new Float32Array(3 * among.length)
  among.forEach((u, i) => points.set(positions.subarray(3 * u, 3 * u + 3), 3 * i))
  const { min, max } = boundsOf(positions)
  const size = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2]) || 1
  const grid = pointGrid(points, size / 48)
  return v => among[grid.nearest(positions[3 * v], positions[3 * v + 1], positions[3 * v + 2], 50)] ?? -1
}
