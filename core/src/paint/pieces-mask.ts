import type { Canvas } from './canvas'

/** Welded vertices of chosen pieces, 1 for those that belong; a seam belongs to both of its pieces. */
export function verticesOfPieces({ mesh, weld }: Canvas, pieces: Iterable<string>): Uint8Array {
  const names = new Set(pieces)
  const out = new Uint8Array(weld.first.length)
  for (const p of mesh.parts)
    if (names.has(p.name)) for (let i = p.start; i < p.start + p.count; i++) out[weld.of[mesh.indices[i]]] = 1
  return out
}

/**
 * Makes a change and then gives all vertices outside of chosen pieces back what they had.
 * @param pieces undefined: everything is changed
 */
export async function within(
  canvas: Canvas,
  pieces: readonly string[] | undefined,
  change: () => void | Promise<void>,
): Promise<void> {
  if (!pieces) return void (await change())
  const inside = verticesOfPieces(canvas, pieces)
  const { influences: k, joints, weights } = canvas.skin
  const before = { joints: joints.slice(), weights: weights.slice() }
  await change()
  for (let v = 0; v < inside.length; v++) {
    if (inside[v]) continue
    joints.set(before.joints.subarray(v * k, v * k + k), v * k)
    weights.set(before.weights.subarray(v * k, v * k + k), v * k)
  }
}
