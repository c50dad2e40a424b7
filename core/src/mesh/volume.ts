import { cross, length, sub, vec3At } from '../math'

/**
 * Volume a closed surface encloses, by the divergence theorem; positive where faces look outwards.
 * Open or inside-out pieces make it a mere estimate.
 * @param positions 3·V metres  @param indices 3·F
 * @returns cubic metres
 */
export function enclosedVolume(positions: Float32Array, indices: Uint32Array): number {
  let six = 0
  for (let f = 0; f < indices.length; f += 3) {
    const a = 3 * indices[f],
      b = 3 * indices[f + 1],
      c = 3 * indices[f + 2]
    six +=
      positions[a] * (positions[b + 1] * positions[c + 2] - positions[b + 2] * positions[c + 1]) +
      positions[a + 1] * (positions[b + 2] * positions[c] - positions[b] * positions[c + 2]) +
      positions[a + 2] * (positions[b] * positions[c + 1] - positions[b + 1] * positions[c])
  }
  return six / 6
}

/** How thick a surface is on the whole: twice the volume it encloses over its area; 0 for a sheet. */
export function thicknessOf(positions: Float32Array, indices: Uint32Array): number {
  let area = 0
  for (let f = 0; f < indices.length; f += 3) {
    const [a, b, c] = [0, 1, 2].map(n => vec3At(positions, indices[f + n]))
    area += length(cross(sub(b, a), sub(c, a))) / 2
  }
  return (2 * Math.abs(enclosedVolume(positions, indices))) / (area || 1)
}
