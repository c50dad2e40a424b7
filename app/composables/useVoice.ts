import type { TakeRef } from '@chiraxis/core/recipe'
import type { Said } from '@chiraxis/core/voice'
import { core, RefusedError, unwrap } from '~/workers/client'
import type { VoiceAnswer } from '~/workers/core-api'

type TakeFace = NonNullable<TakeRef['face']>

/** Voices that were listened to, by the hash of their files. */
const known = shallowRef<Readonly<Record<string, VoiceAnswer>>>({})
const sounds = new Map<string, AudioBuffer>()
/** Why a sound or a solution was refused. */
const refused = ref('')
/** The stretch of what is said that is chosen. */
const chosen = ref<number>()
const listening = new Set<string>()

/** The voice of the take in play: its sound, what is said, and how strongly each part of the face takes part. */
export function useVoice() {
  const derived = useDerived()
  const { take, setTake } = useTakeEdit()
  const told = computed<TakeFace>(() => take.value?.face ?? {})
  const voice = computed(() => told.value.voice)
  const answer = computed(() => (voice.value ? known.value[voice.value.sound.hash] : undefined))
  const said = computed<readonly Said[]>(() => voice.value?.said ?? answer.value?.heard.said ?? [])
  const seconds = computed(() => answer.value?.heard.seconds ?? said.value[said.value.length - 1]?.to ?? 0)

  /** Changes what the face of the take does; what is nothing is not kept. */
  function keep(name: string, change: Partial<TakeFace>, joins = false): void {
    const next = Object.fromEntries(
      Object.entries({ ...told.value, ...change }).filter(
        ([, v]) => v !== undefined && !(typeof v === 'object' && Object.keys(v).length === 0),
      ),
    ) as TakeFace
    setTake(name, { face: Object.keys(next).length > 0 ? next : undefined }, joins)
  }

  async function listen(): Promise<void> {
    const sound = voice.value?.sound
    if (!sound || known.value[sound.hash] || listening.has(sound.hash)) return
    listening.add(sound.hash)
    try {
      known.value = { ...known.value, [sound.hash]: await derived.listen({ ...toRaw(sound) }) }
    } catch (error) {
      if (!(error instanceof RefusedError)) throw error
    } finally {
      listening.delete(sound.hash)
    }
  }

  /** Lets the take speak with a sound; one that holds no voice is refused before anything is changed. */
  async function bring(file: File): Promise<void> {
    refused.value = ''
    if (!take.value) {
      refused.value = 'Choose a take that came as a file first; the voice goes along with it.'
      return
    }
    try {
      const bytes = new Uint8Array(await file.arrayBuffer())
      const solution = /\.(json|csv)$/i.test(file.name)
      const kept = await unwrap(core().keep(file.name, bytes))
      if (solution) {
        await unwrap(core().faceSolution(kept))
        keep(`A face from ${file.name}`, { solution: { file: kept, at: 0 } })
        return
      }
      known.value = { ...known.value, [kept.hash]: await derived.listen(kept) }
      keep(`Speak ${file.name}`, { voice: { sound: kept, at: 0 } })
    } catch (error) {
      if (!(error instanceof RefusedError)) throw error
      refused.value = error.stopped ? '' : `${error.message} Your project is unchanged.`
    }
  }

  /** What is said, told by hand. */
  function tell(name: string, next: readonly Said[] | undefined, joins = false): void {
    if (voice.value) keep(name, { voice: { ...voice.value, said: next && [...next] } }, joins)
  }
  /** Moves the border before a stretch; neighbours keep a hair's breadth. */
  function moveBorder(i: number, to: number, joins: boolean): void {
    const list = said.value
    const [before, after] = [list[i - 1], list[i]]
    if (!before || !after) return
    const at = Math.min(after.to - 0.01, Math.max(before.from + 0.01, to))
    tell(
      'When a mouth shape begins',
      list.map((s, k) => (k === i - 1 ? { ...s, to: at } : k === i ? { ...s, from: at } : s)),
      joins,
    )
  }
  function change(i: number, to: Partial<Said>, joins = false): void {
    tell(
      'A mouth shape',
      said.value.map((s, k) => (k === i ? { ...s, ...to } : s)),
      joins,
    )
  }

  /** The sound itself, to be played. */
  async function soundIn(context: AudioContext): Promise<AudioBuffer | undefined> {
    const sound = voice.value?.sound
    if (!sound) return undefined
    const there = sounds.get(sound.hash)
    if (there) return there
    const bytes = await unwrap(core().bytesOf({ ...toRaw(sound) }))
    const made = await context.decodeAudioData(bytes.slice().buffer)
    sounds.set(sound.hash, made)
    return made
  }
  return { told, voice, answer, said, seconds, refused, chosen, keep, listen, bring, tell, moveBorder, change, soundIn }
}
