import { shapeWeights } from '@chiraxis/core/face'
import type { Take } from '@chiraxis/core/motion'
import type { ShallowRef } from 'vue'
import type { Stage } from '~/stage/stage'

/** The face on the stage: in Motion as the take tells, in the step of the face as is looked at. */
export function useShownFace(stage: ShallowRef<Stage | undefined>) {
  const view = useView()
  const derived = useDerived()
  const player = usePlayer()
  const face = useFace()
  const light = useLight()

  /** Gives the stage the shapes of the face; none where nothing shows them. */
  function bringFace(): void {
    stage.value?.setFaceShapes(face.shapes.value.map(s => ({ ...s, offsets: light.onShown(s.offsets) })))
    showFace()
  }
  /** Weights of every shape through the take that is shown. */
  const through = computed(() => {
    const take: Take | undefined = derived.performed?.answer.take
    if (!take?.scalars?.length) return undefined
    const names = new Set(face.shapes.value.map(s => s.name))
    return { take, weights: shapeWeights(take.scalars, names, face.binds.value) }
  })
  const weights = computed<Record<string, number>>(() => {
    if (view.step === 'face') return face.lookedAt.value
    const now = through.value
    if (view.phase !== 'motion' || view.resting || !now) return {}
    const at = Math.min(now.take.frames - 1, Math.max(0, player.time * now.take.fps))
    const [i, j] = [Math.floor(at), Math.min(now.take.frames - 1, Math.floor(at) + 1)]
    return Object.fromEntries([...now.weights].map(([name, v]) => [name, v[i]! + (v[j]! - v[i]!) * (at - i)]))
  })
  const showFace = (): void => stage.value?.setFace(weights.value)
  watch([() => stage.value, face.shapes], bringFace)
  watch(weights, showFace)
  useFacePictures(stage)
  return { bringFace }
}
