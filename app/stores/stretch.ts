import { defineStore } from 'pinia'
import { useDerived } from './derived'

/** A stretch of the take in play, in seconds of its recording, so that it stays where it is through a new trim or pace. */
export interface Stretch {
  readonly from: number
  readonly to: number
}

/** A contact as the score shows it, its part told of the recording's own sides. */
export interface ShownContact extends Stretch {
  readonly part: string
  readonly onto: string
}

/** What of the take in play is chosen in the score. */
export const useStretch = defineStore('stretch', () => {
  const derived = useDerived()
  /** The take in play, one that came with the body too. */
  const inPlay = (): string | undefined => (derived.ownShown ? derived.performed?.id : derived.wantedTake)
  const held = shallowRef<{ take: string; span?: Stretch; contact?: ShownContact }>()
  /** What was chosen belongs to the take it was chosen in. */
  const here = computed(() => (held.value?.take === inPlay() ? held.value : undefined))
  const span = computed(() => here.value?.span)
  const contact = computed(() => here.value?.contact)
  function choose(next: Stretch | undefined): void {
    const take = inPlay()
    held.value = take && next ? { take, span: next } : undefined
  }
  function chooseContact(next: ShownContact): void {
    const take = inPlay()
    if (take) held.value = { take, contact: next }
  }
  function clear(): void {
    held.value = undefined
  }
  /** Whether heels and balls of feet have lanes of their own. */
  const apart = ref(false)
  return { span, contact, choose, chooseContact, clear, apart }
})
