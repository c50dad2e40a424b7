import type { ShallowRef } from 'vue'
import type { Stage } from '~/stage/stage'

/** Small pictures of the figure in the middle of each clip agents play, by the clip's name. */
const pictures = shallowRef<Readonly<Record<string, string>>>({})
export const crowdPictures = (): Readonly<Record<string, string>> => pictures.value

const WIDTH = 40,
  HEIGHT = 58

/** Draws them one after another, letting the window answer in between. */
export function useCrowdPictures(stage: ShallowRef<Stage | undefined>): void {
  const crowd = useCrowd()
  let run = 0
  watch([() => stage.value, crowd.drawn], ([s]) => {
    const turn = ++run
    const own = crowd.made.value[0]
    pictures.value = {}
    if (!s || !own || crowd.drawn.value.length === 0) return
    const J = own.kind.skeleton.names.length
    const used = new Set(crowd.agents.value.filter(a => a.kind === 0).map(a => a.clip))
    const wanted = own.takes.filter(t => used.has(t.name))
    const next = (): void => {
      const take = wanted.shift()
      if (!take || turn !== run) return
      const k = Math.floor(0.4 * take.clip.samples)
      const address = s.pictureOf(
        take.clip.translations.subarray(3 * J * k, 3 * J * (k + 1)),
        take.clip.rotations.subarray(4 * J * k, 4 * J * (k + 1)),
        WIDTH,
        HEIGHT,
      )
      s.poseAgain()
      pictures.value = { ...pictures.value, [take.name]: address }
      setTimeout(next, s.isSoft ? 60 : 4)
    }
    setTimeout(next, 100)
  })
}
