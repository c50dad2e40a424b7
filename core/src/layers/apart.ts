import { conjugate, multiply, quatAt, rotate, setQuat, setVec3, sub, vec3At, type Quat } from '../math'

/** Local values of every joint in a frame: 3·J and 4·J. */
interface Frame {
  readonly translations: Float32Array
  readonly rotations: Float32Array
}

/**
 * How a frame that is shown stands apart from the same one as its layers make it: travel that was dropped, another way, a floor.
 * What is changed in the layers is shown through {@link laidApart}, and told back by {@link takenBack}.
 */
export interface Apart {
  readonly settled: Frame
  readonly shown: Frame
}

const turnOf = ({ settled, shown }: Apart, j: number): Quat =>
  multiply(quatAt(shown.rotations, j), conjugate(quatAt(settled.rotations, j)))

/** A frame of the layers as it is shown: what carries the body turns what was changed of its place along. */
export const laidApart = (frame: Frame, apart: Apart): Frame =>
  each(frame, apart, (j, t, q) => {
    const turn = turnOf(apart, j)
    const { settled, shown } = apart
    const shift = rotate(turn, sub(t, vec3At(settled.translations, j)))
    const at = vec3At(shown.translations, j)
    return [[at[0] + shift[0], at[1] + shift[1], at[2] + shift[2]], multiply(turn, q)]
  })

/** The other way: a frame that is shown as the layers would have to make it. */
export const takenBack = (frame: Frame, apart: Apart): Frame =>
  each(frame, apart, (j, t, q) => {
    const turn = conjugate(turnOf(apart, j))
    const { settled, shown } = apart
    const shift = rotate(turn, sub(t, vec3At(shown.translations, j)))
    const at = vec3At(settled.translations, j)
    return [[at[0] + shift[0], at[1] + shift[1], at[2] + shift[2]], multiply(turn, q)]
  })

type Values = readonly [translation: readonly [number, number, number], rotation: Quat]
function each(
  frame: Frame,
  { settled, shown }: Apart,
  change: (j: number, t: [number, number, number], q: Quat) => Values,
): Frame {
  const translations = frame.translations.slice()
  const rotations = frame.rotations.slice()
  for (let j = 0; j < rotations.length / 4; j++) {
    if (same(settled.translations, shown.translations, 3, j) && same(settled.rotations, shown.rotations, 4, j)) continue
    const [t, q] = change(j, vec3At(frame.translations, j), quatAt(frame.rotations, j))
    setVec3(translations, j, [...t])
    setQuat(rotations, j, q)
  }
  return { translations, rotations }
}

function same(a: Float32Array, b: Float32Array, size: number, j: number): boolean {
  for (let k = size * j; k < size * (j + 1); k++) if (a[k] !== b[k]) return false
  return true
}
