import type { SkinMode, StepId } from '~/stores/view'

/** One stop of the short tour: where it is, and what can be seen there. */
interface TourStop {
  readonly step: StepId
  readonly mode?: SkinMode
  readonly title: string
  readonly text: string
}
const STOPS: readonly TourStop[] = [
  {
    step: 'straighten',
    title: 'A body comes in',
    text: 'Which way is up, how tall she is and where the ground lies was found by itself, and can be set on the right.',
  },
  {
    step: 'landmarks',
    title: 'Where the joints belong',
    text: 'Drag a mark in any view: the round cut shows whether it sits in the middle of the limb, and everything after it follows.',
  },
  {
    step: 'skin',
    mode: 'check',
    title: 'Skin put to the test',
    text: 'She goes through poses one by one. The worst places stand in a list, each with the step that mends it.',
  },
  {
    step: 'pose',
    title: 'Handles',
    text: 'Pull the outline of a hand or a foot: the limb follows, or the whole figure while what you hold stays.',
  },
  {
    step: 'takes',
    title: 'Motion of somebody else',
    text: 'This take was recorded on another skeleton. Her feet stay where they come down; Space plays and stops.',
  },
  {
    step: 'deliver',
    title: 'Out again',
    text: 'Choose how the receiver wants it. Every file is read back and compared before it is handed over.',
  },
]

const at = ref<number>()

/** A short tour over the plate; the work goes on under it, and it can be left at any time. */
export function useTour() {
  const view = useView()
  const files = useFiles()
  function goTo(i: number): void {
    const stop = STOPS[i]
    at.value = stop ? i : undefined
    if (!stop) return
    if (stop.mode) view.skinMode = stop.mode
    view.go(stop.step)
  }
  return {
    at: readonly(at),
    count: STOPS.length,
    stop: computed(() => (at.value === undefined ? undefined : STOPS[at.value])),
    /** Begins with the sample figure. */
    async begin(): Promise<void> {
      await files.openSample('oda-marl')
      goTo(0)
    },
    next: (): void => goTo((at.value ?? 0) + 1),
    back: (): void => goTo(Math.max(0, (at.value ?? 0) - 1)),
    leave: (): void => {
      at.value = undefined
    },
  }
}
