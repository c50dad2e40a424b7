import { decompose, multiply, quatAt, setQuat, type Mat4 } from '../math'
import { floatValues } from './accessors'
import type { Draft } from './draft'
import { withUsedSamplers } from './samplers'

/**
 * Moves the keys of a node along with it: what stood at `t` stands at `matrix · t` then. Turns, shifts and sizes are linear in
 * what is keyed, so keys between and their tangents stay exact whatever the interpolation.
 * @param matrix a turn, a shift and an even size
 */
export function moveKeys(draft: Draft, node: number, matrix: Mat4): void {
  const { rotation, scale } = decompose(matrix)
  for (const a of draft.json.animations ?? []) {
    let moved = false
    for (const channel of a.channels) {
      const { path } = channel.target
      if (channel.target.node !== node || !(path === 'translation' || path === 'rotation' || path === 'scale')) continue
      const sampler = a.samplers[channel.sampler]
      const size = path === 'rotation' ? 4 : 3
      const values = floatValues(draft.source, sampler.output, size).slice()
      const cubic = sampler.interpolation === 'CUBICSPLINE'
      for (let i = 0; i < values.length / size; i++) {
        // of three values a key has with tangents, only the middle one is a place
        const shift = cubic && i % 3 !== 1 ? 0 : 1
        if (path === 'rotation') setQuat(values, i, multiply(rotation, quatAt(values, i)))
        else if (path === 'scale') for (let k = 0; k < 3; k++) values[3 * i + k] *= scale[k]
        else {
          const [x, y, z] = [values[3 * i], values[3 * i + 1], values[3 * i + 2]]
          for (let k = 0; k < 3; k++)
            values[3 * i + k] = matrix[k] * x + matrix[4 + k] * y + matrix[8 + k] * z + shift * matrix[12 + k]
        }
      }
      const output = draft.accessor(values, size === 4 ? 'VEC4' : 'VEC3')
      channel.sampler = a.samplers.push({ ...sampler, output }) - 1
      moved = true
    }
    if (moved) Object.assign(a, withUsedSamplers(a))
  }
}
