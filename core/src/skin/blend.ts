import { KERNEL } from './blend-kernel'
import type { Skin } from './skin'

/** Vertices that go through the kernel at a time: few enough to stay near the processor. */
const AT_ONCE = 2048
const PAGE = 65_536

interface Kernel {
  readonly memory: { readonly buffer: ArrayBuffer; grow(pages: number): number }
  blend(n: number, k: number, at: number, joints: number, weights: number, columns: number, out: number): void
}

let loaded: Kernel | null | undefined

/** The kernel, compiled at its first use; null where the host has no WebAssembly with vectors. */
function kernel(): Kernel | null {
  if (loaded !== undefined) return loaded
  try {
    const bytes = Uint8Array.from(atob(KERNEL), c => c.charCodeAt(0))
    loaded = new WebAssembly.Instance(new WebAssembly.Module(bytes)).exports as unknown as Kernel
  } catch {
    loaded = null
  }
  return loaded
}

/**
 * Linear blend skinning of a whole body, by the vector instructions of WebAssembly: the blend of the matrices first, then one
 * matrix a vertex, in single precision, so that it is the same to the bit on every machine.
 * @param positions 3·V as bound  @param matrices 12·J, rows of 3×4 matrices
 * @returns 3·V
 */
export function blendSkin(positions: Float32Array, skin: Skin, matrices: Float32Array): Float32Array {
  const fast = kernel()
  return fast ? blendFast(fast, positions, skin, matrices) : blendPlainly(positions, skin, matrices)
}

function blendFast(
  { memory, blend }: Kernel,
  positions: Float32Array,
  { influences: k, joints, weights }: Skin,
  matrices: Float32Array,
): Float32Array {
  const count = matrices.length / 12
  const vertices = positions.length / 3
  // what is read in fours and in columns lies at multiples of 16
  const columnsAt = 0,
    positionsAt = 64 * count,
    jointsAt = positionsAt + 12 * AT_ONCE,
    weightsAt = jointsAt + 2 * k * AT_ONCE,
    outAt = weightsAt + 4 * k * AT_ONCE,
    needed = outAt + 12 * AT_ONCE + 4
  if (needed > memory.buffer.byteLength) memory.grow(Math.ceil((needed - memory.buffer.byteLength) / PAGE))
  const { buffer } = memory
  const columns = new Float32Array(buffer, columnsAt, 16 * count)
  for (let j = 0; j < count; j++)
    for (let c = 0; c < 4; c++) {
      const [to, from] = [16 * j + 4 * c, 12 * j + c]
      columns[to] = matrices[from]
      columns[to + 1] = matrices[from + 4]
      columns[to + 2] = matrices[from + 8]
      columns[to + 3] = 0
    }
  const [toPositions, toJoints, toWeights, placed] = [
    new Float32Array(buffer, positionsAt, 3 * AT_ONCE),
    new Uint16Array(buffer, jointsAt, k * AT_ONCE),
    new Float32Array(buffer, weightsAt, k * AT_ONCE),
    new Float32Array(buffer, outAt, 3 * AT_ONCE),
  ]
  const out = new Float32Array(positions.length)
  for (let v = 0; v < vertices; v += AT_ONCE) {
    const n = Math.min(AT_ONCE, vertices - v)
    toPositions.set(positions.subarray(3 * v, 3 * (v + n)))
    toJoints.set(joints.subarray(k * v, k * (v + n)))
    toWeights.set(weights.subarray(k * v, k * (v + n)))
    blend(n, k, positionsAt, jointsAt, weightsAt, columnsAt, outAt)
    out.set(n === AT_ONCE ? placed : placed.subarray(0, 3 * n), 3 * v)
  }
  return out
}

/** The same without vector instructions, rounded at the same places: for hosts that have none, and to prove the kernel by. */
export function blendPlainly(
  positions: Float32Array,
  { influences: k, joints, weights }: Skin,
  matrices: Float32Array,
): Float32Array {
  const round = Math.fround
  const out = new Float32Array(positions.length)
  const m = new Float32Array(12)
  for (let v = 0; v < positions.length / 3; v++) {
    m.fill(0)
    for (let i = v * k; i < v * k + k; i++) {
      const w = weights[i]
      if (w === 0) continue
      const a = 12 * joints[i]
      for (let c = 0; c < 12; c++) m[c] += round(w * matrices[a + c])
    }
    const x = positions[3 * v],
      y = positions[3 * v + 1],
      z = positions[3 * v + 2]
    for (let r = 0; r < 3; r++)
      out[3 * v + r] =
        round(round(m[4 * r] * x) + round(m[4 * r + 1] * y)) + round(round(m[4 * r + 2] * z) + m[4 * r + 3])
  }
  return out
}
