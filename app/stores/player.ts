import { defineStore } from 'pinia'
import { timeMapOf, type TimeMap } from '@chiraxis/core/adjust'
import { takeSeconds } from '@chiraxis/core/motion'
import { useDerived } from './derived'
import { useProject } from './project'

/** Playing of the chosen take. */
export const usePlayer = defineStore('player', () => {
  const derived = useDerived()
  const project = useProject()
  const time = ref(0)
  const playing = ref(false)
  const loop = ref(true)
  const rate = ref(1)
  const take = computed(() => derived.performed?.answer.take)
  const length = computed(() => (take.value ? takeSeconds(take.value) : 0))
  const fps = computed(() => take.value?.fps ?? 30)
  const frame = computed(() => Math.round(time.value * fps.value))

  let last = 0
  let handle = 0
  function tick(now: number): void {
    if (!playing.value) return
    // a long pause between pictures is a hidden tab or a slow renderer, not time that passed
    const step = Math.min(0.25, (now - last) / 1000) * rate.value
    last = now
    let next = time.value + step
    if (next > length.value) {
      if (loop.value && length.value > 0) next %= length.value
      else {
        next = length.value
        playing.value = false
      }
    }
    time.value = next
    if (playing.value) handle = requestAnimationFrame(tick)
  }

  function play(): void {
    if (playing.value || length.value === 0) return
    if (time.value >= length.value) time.value = 0
    playing.value = true
    last = performance.now()
    handle = requestAnimationFrame(tick)
  }
  function pause(): void {
    playing.value = false
    cancelAnimationFrame(handle)
  }
  const toggle = (): void => (playing.value ? pause() : play())
  function seek(seconds: number): void {
    time.value = Math.min(length.value, Math.max(0, seconds))
  }
  const stepFrames = (n: number): void => {
    pause()
    seek((frame.value + n) / fps.value)
  }
  /** The clock of the take that is shown, so that the same moment of the recording stays in view when it is trimmed or paced. */
  const clock = shallowRef<{ id: string; map: TimeMap }>()
  watch(
    () => derived.performed,
    shown => {
      const before = clock.value
      const recorded = shown?.answer.recorded
      const own = project.recipe.takes.find(t => t.id === shown?.id)
      const now = (clock.value =
        shown && recorded && own
          ? {
              id: own.id,
              map: timeMapOf(own.adjust, {
                frames: Math.round(recorded.seconds * recorded.fps) + 1,
                fps: recorded.fps,
              }),
            }
          : undefined)
      if (before && now && before.id === now.id) seek(now.map.toResult(before.map.toRecording(time.value)))
      else if (time.value > length.value) time.value = 0
    },
  )
  /** Seconds of the recording at seconds of the take that is shown, and back. */
  const toRecording = (seconds: number): number => clock.value?.map.toRecording(seconds) ?? seconds
  const toTake = (seconds: number): number => clock.value?.map.toResult(seconds) ?? seconds
  return {
    time,
    playing,
    loop,
    rate,
    take,
    length,
    fps,
    frame,
    play,
    pause,
    toggle,
    seek,
    stepFrames,
    toRecording,
    toTake,
  }
})
