import { standIn } from '@chiraxis/core/strain'
import type { ShallowRef } from 'vue'
import type { Stage } from '~/stage/stage'
import { useDerived } from '~/stores/derived'
import { useView } from '~/stores/view'

/** Small pictures of the figure in every check pose, by the pose's id. */
const pictures = shallowRef<Readonly<Record<string, string>>>({})
export const posePictures = (): Readonly<Record<string, string>> => pictures.value

const WIDTH = 52,
  HEIGHT = 76

/** Draws the pictures one after another while the check is looked at, letting the window answer in between. */
export function usePosePictures(stage: ShallowRef<Stage | undefined>): void {
  const view = useView()
  const derived = useDerived()
  const { poses } = usePosePlayer()
  let run = 0
  watch(
    [
      () => stage.value,
      () => (view.step === 'skin' && view.skinMode === 'check') || view.step === 'pose',
      () => derived.skin,
      () => view.step === 'pose' && poses.value.length,
    ],
    ([s, looking, skin], before) => {
      if (before && before[2] !== skin) pictures.value = {}
      const turn = ++run
      if (!s || !looking || !skin || !derived.skeleton) return
      const skeleton = derived.skeleton
      const wanted = poses.value.filter(p => !pictures.value[p.id] && (view.step !== 'pose' || p.group === 'own'))
      const next = (): void => {
        const pose = wanted.shift()
        if (!pose || turn !== run) return
        // a playing figure needs the renderer more
        if (!view.playingPoses) {
          const { translations, rotations } = standIn(skeleton, pose)
          const address = s.pictureOf(translations, rotations, WIDTH, HEIGHT)
          s.poseAgain()
          pictures.value = { ...pictures.value, [pose.id]: address }
        } else wanted.push(pose)
        setTimeout(next, s.isSoft ? 30 : 4)
      }
      setTimeout(next, 200)
    },
    { immediate: true },
  )
}
