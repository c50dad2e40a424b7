import { useDerived } from '~/stores/derived'
import { useView } from '~/stores/view'

/** Linear colour of a joint: hues a golden angle apart, none of them dark or loud. */
function hue(j: number): [number, number, number] {
  const h = (j * 0.381966) % 1
  const f = (n: number): number => {
    const k = (n + h * 12) % 12
    return 0.5 - 0.26 * Math.max(-1, Math.min(k - 3, 9 - k, 1))
  }
  return [f(0) ** 2.2, f(8) ** 2.2, f(4) ** 2.2]
}

export const jointCss = (j: number): string =>
  `rgb(${hue(j)
    .map(x => Math.round(255 * x ** (1 / 2.2)))
    .join(' ')})`

/** Every joint's hold in a colour of its own, mixed by weight; undefined where that is not shown. */
export function useJointColors() {
  const view = useView()
  const derived = useDerived()
  const colors = computed<Float32Array | undefined>(() => {
    const { skin, skeleton, shape } = derived
    if (
      view.step !== 'skin' ||
      view.skinMode === 'check' ||
      view.skinMode === 'correct' ||
      view.solo ||
      !skin ||
      !skeleton ||
      !shape
    )
      return undefined
    const table = skeleton.names.map((_, j) => hue(j))
    const n = shape.mesh.positions.length / 3
    const k = skin.influences
    if (skin.joints.length !== n * k) return undefined
    const out = new Float32Array(3 * n)
    for (let v = 0; v < n; v++)
      for (let i = v * k; i < v * k + k; i++) {
        const w = skin.weights[i]!
        if (w === 0) continue
        const c = table[skin.joints[i]!]!
        out[3 * v]! += w * c[0]
        out[3 * v + 1]! += w * c[1]
        out[3 * v + 2]! += w * c[2]
      }
    return out
  })
  return { colors }
}
