import type { Mesh } from '../mesh'
import { jointMatrices, type Skin } from '../skin'
import type { Skeleton, WorldPose } from '../skeleton'

/** Joints whose matrices differ by less, in metres and in parts of a turn, move alike. */
const ALIKE = 1e-5
/** Of a vertex moved by joints that move apart. */
const MIXED = -1

/** The triangles that a pose may strain, in rising order, F or fewer; written over with the next call. */
export type BentTriangles = (posed: WorldPose) => Uint32Array

/**
 * Tells which triangles a pose may strain: whatever goes along with joints that all move alike only turns and moves as one
 * piece, and most poses turn a few joints.
 * @param riders V: joint that what a vertex is measured from goes along with
 * @param always V: 1 for vertices whose shape changes without any joint
 */
export function bentTriangles(
  { indices }: Pick<Mesh, 'indices'>,
  skeleton: Skeleton,
  { influences: k, joints, weights }: Skin,
  riders: Uint16Array,
  always?: Uint8Array,
): BentTriangles {
  const vertices = riders.length
  const matrices = new Float32Array(12 * skeleton.names.length)
  const moves = new Int32Array(skeleton.names.length)
  const moveOf = new Int32Array(vertices)
  const bent = new Uint32Array(indices.length / 3)
  return posed => {
    jointMatrices(skeleton, posed, matrices)
    movesOf(matrices, moves)
    for (let v = 0; v < vertices; v++) {
      let move = always?.[v] ? MIXED : moves[riders[v]]
      for (let i = v * k, end = i + k; i < end; i++)
        if (weights[i] > 0 && moves[joints[i]] !== move) {
          move = MIXED
          break
        }
      moveOf[v] = move
    }
    let n = 0
    for (let f = 0, q = 0; f < bent.length; f++, q += 3) {
      const move = moveOf[indices[q]]
      if (move !== MIXED && moveOf[indices[q + 1]] === move && moveOf[indices[q + 2]] === move) continue
      bent[n++] = f
    }
    return bent.subarray(0, n)
  }
}

/** Of every joint the first one that moves like it. */
function movesOf(matrices: Float32Array, out: Int32Array): void {
  const kinds: number[] = []
  for (let j = 0; j < out.length; j++) {
    let kind = kinds.find(other => isAlike(matrices, j, other))
    if (kind === undefined) kinds.push((kind = j))
    out[j] = kind
  }
}

function isAlike(m: Float32Array, a: number, b: number): boolean {
  for (let i = 0; i < 12; i++) if (!(Math.abs(m[12 * a + i] - m[12 * b + i]) < ALIKE)) return false
  return true
}
