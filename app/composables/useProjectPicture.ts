import type { ShallowRef } from 'vue'
import type { Stage } from '~/stage/stage'

const WIDTH = 58
const HEIGHT = 76
/** Seconds of quiet before the figure is drawn for the list of projects. */
const QUIET = 1500

/** Draws the figure small for the list of projects, when its body has changed and nothing else is to be done. */
export function useProjectPicture(stage: ShallowRef<Stage | undefined>): void {
  const project = useProject()
  const derived = useDerived()
  let drawn: object | undefined
  watch([() => derived.shape?.mesh, () => derived.busy, () => project.id], ([mesh, busy], _, done) => {
    if (!mesh || busy || drawn === mesh || project.readOnly) return
    const timer = setTimeout(() => {
      const s = stage.value
      const rest = derived.skeleton
      if (!s) return
      drawn = mesh
      const picture = s.pictureOf(rest?.restTranslations ?? [], rest?.restRotations ?? [], WIDTH, HEIGHT, false)
      s.poseAgain()
      void project.setPicture(picture).catch(() => undefined)
    }, QUIET)
    done(() => clearTimeout(timer))
  })
}
