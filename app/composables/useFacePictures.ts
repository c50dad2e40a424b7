import { EXPRESSIONS, type Expression } from '@chiraxis/core/face'
import type { ShallowRef } from 'vue'
import type { Stage } from '~/stage/stage'

/** Small pictures of the figure's own face in every expression; `rest` shows none. */
const pictures = shallowRef<Readonly<Partial<Record<Expression | 'rest', string>>>>({})
export const facePictures = (): Readonly<Partial<Record<Expression | 'rest', string>>> => pictures.value

const WIDTH = 72
const HEIGHT = 84

/** Draws the pictures one after another while the face is looked at, letting the window answer in between. */
export function useFacePictures(stage: ShallowRef<Stage | undefined>): void {
  const view = useView()
  const derived = useDerived()
  const face = useFace()
  let run = 0
  watch(
    [() => stage.value, () => view.step === 'face', face.around, () => derived.expressions, () => derived.skin],
    ([s, looking, around]) => {
      const turn = ++run
      const { skeleton } = derived
      if (!s || !looking || !around || !skeleton) return
      pictures.value = {}
      const wanted: (Expression | 'rest')[] = ['rest', ...EXPRESSIONS.filter(e => face.binds.value[e]?.length)]
      const next = (): void => {
        const e = wanted.shift()
        if (!e || turn !== run) return
        s.setFace(face.weightsOf(e === 'rest' ? undefined : e))
        const address = s.pictureOf(skeleton.restTranslations, skeleton.restRotations, WIDTH, HEIGHT, true, around)
        s.poseAgain()
        s.setFace(face.lookedAt.value)
        pictures.value = { ...pictures.value, [e]: address }
        setTimeout(next, s.isSoft ? 30 : 4)
      }
      setTimeout(next, 150)
    },
    { immediate: true },
  )
}
