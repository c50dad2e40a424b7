import { footstepSound, SOUND_RATE, SURFACES, type Footfall, type Surface } from '@chiraxis/core/trial'
import { core, unwrap } from '~/workers/client'

/** Sounds a surface has, so that no two steps after each other are the same. */
const KINDS = 5

let context: AudioContext | undefined
const made = new Map<string, AudioBuffer[]>()
const heard = ref(true)
/** How many steps sounded on what. */
const counts = ref<Partial<Record<Surface, number>>>({})

/** Sounds of footsteps by what is stepped on: made here, or files of one's own. */
export function useFootsteps() {
  const trial = useTrial()

  async function own(surface: Surface): Promise<AudioBuffer | undefined> {
    const file = trial.told.value?.sounds?.[surface]
    if (!file || !context) return undefined
    const bytes = await unwrap(core().bytesOf({ ...toRaw(file) }))
    return context.decodeAudioData(bytes.slice().buffer)
  }
  function soundsOf(surface: Surface): AudioBuffer[] {
    const key = `${surface} ${trial.told.value?.sounds?.[surface]?.hash ?? ''}`
    const known = made.get(key)
    if (known) return known
    const list = Array.from({ length: KINDS }, (_, i) => {
      const samples = footstepSound(surface, i + 1)
      const buffer = context!.createBuffer(1, samples.length, SOUND_RATE)
      buffer.copyToChannel(samples as Float32Array<ArrayBuffer>, 0)
      return buffer
    })
    made.set(key, list)
    void own(surface)
      .then(sound => sound && made.set(key, [sound]))
      .catch(() => {
        trial.refused.value = `The sound for ${surface} cannot be played here; the one made here is used.`
      })
    return list
  }
  /** @param speed metres a second: who runs treads harder */
  function sound(falls: readonly Footfall[], speed: number): void {
    for (const [i, f] of falls.entries()) {
      const surface = SURFACES.find(s => s === f.surface) ?? 'planks'
      counts.value = { ...counts.value, [surface]: (counts.value[surface] ?? 0) + 1 }
      if (!heard.value) continue
      try {
        context ??= new AudioContext()
        if (context.state === 'suspended') void context.resume()
        const list = soundsOf(surface)
        const from = context.createBufferSource()
        from.buffer = list[(counts.value[surface]! + i) % list.length]!
        from.playbackRate.value = 0.94 + 0.12 * Math.random()
        const gain = context.createGain()
        gain.gain.value = Math.min(1, 0.25 + 0.18 * speed)
        from.connect(gain).connect(context.destination)
        from.start()
      } catch {
        // where nothing can be heard, the figure walks silently
        heard.value = false
      }
    }
  }
  const forget = (): void => {
    counts.value = {}
  }
  return { sound, heard, counts, forget }
}
