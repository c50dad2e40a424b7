/** The faces given with the vertices they use alone, numbered as they first occur, and which each was. @param positions 3·V  @param indices 3·F */
export function usedVertices(
  positions: Float32Array,
  indices: Uint32Array,
): { positions: Float32Array; indices: Uint32Array; from: Uint32Array } {
  const to = new Int32Array(positions.length / 3).fill(-1)
  const kept: number[] = []
  const from: number[] = []
  const own = indices.map(v => {
    if (to[v] < 0) {
      to[v] = kept.length / 3
      from.push(v)
      kept.push(positions[3 * v], positions[3 * v + 1], positions[3 * v + 2])
    }
    return to[v]
  })
  return { positions: Float32Array.from(kept), indices: own, from: Uint32Array.from(from) }
}
