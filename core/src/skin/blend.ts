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

/** The kernel, compiled at its first use; null on a page and where the host has no WebAssembly with vectors. */
function kernel(): Kernel | null {
  if (loaded !== undefined) return loaded
  // pages are allowed no compiled programs, and asking would be told as a breach; workers and servers are
  if ('document' in globalThis) return (loaded = null)
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
  // told at every operation, so that the compiler keeps to single precision
  const r = Math.fround
  const m = matrices
  const out = new Float32Array(positions.length)
  for (let v = 0, p = 0; p < positions.length; v++, p += 3) {
    let m0 = 0,
      m1 = 0,
      m2 = 0,
      m3 = 0,
      m4 = 0,
      m5 = 0,
      m6 = 0,
      m7 = 0,
      m8 = 0,
      m9 = 0,
      m10 = 0,
      m11 = 0
    for (let i = v * k, end = i + k; i < end; i++) {
      const w = weights[i]
      if (w === 0) continue
      const a = 12 * joints[i]
      m0 = r(m0 + r(w * m[a + 0]))
      m1 = r(m1 + r(w * m[a + 1]))
      m2 = r(m2 + r(w * m[a + 2]))
      m3 = r(m3 + r(w * m[a + 3]))
      m4 = r(m4 + r(w * m[a + 4]))
      m5 = r(m5 + r(w * m[a + 5]))
      m6 = r(m6 + r(w * m[a + 6]))
      m7 = r(m7 + r(w * m[a + 7]))
      m8 = r(m8 + r(w * m[a + 8]))
      m9 = r(m9 + r(w * m[a + 9]))
      m10 = r(m10 + r(w * m[a + 10]))
      m11 = r(m11 + r(w * m[a + 11]))
    }
    const x = positions[p],
      y = positions[p + 1],
      z = positions[p + 2]
    out[p] = r(r(m0 * x) + r(m1 * y)) + r(r(m2 * z) + m3)
    out[p + 1] = r(r(m4 * x) + r(m5 * y)) + r(r(m6 * z) + m7)
    out[p + 2] = r(r(m8 * x) + r(m9 * y)) + r(r(m10 * z) + m11)
  }
  return out
}
