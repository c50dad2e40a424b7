import type { ScalarTrack, Take } from '../motion'
import { mouthCurves, VOWELS, type FaceSolution, type Said } from '../voice'
import type { FacePart } from './choices'
import { EXPRESSION_KINDS, type Expression } from './expressions'

/** Where a moment of a take lies in its recording. */
export interface FaceClock {
  readonly toRecording: (seconds: number) => number
}

/** What a face does beside its recording, its files read. */
export interface SpokenFace {
  readonly voice?: {
    readonly at: number
    readonly said: readonly Said[]
    readonly seconds: number
    readonly lead?: number
  }
  readonly solution?: {
    readonly at: number
    readonly weights: FaceSolution
    readonly names?: Readonly<Record<string, string>>
  }
  readonly strength?: Readonly<Partial<Record<FacePart, number>>>
}

/** Values a second a mouth is worked out at before it is brought onto the frames of a take. */
const FINE = 120

/**
 * A take whose face speaks: mouth shapes of a voice and weights made elsewhere in place of its own tracks of those names, and every
 * part of the face as strong as it is to be. The same take where nothing is told.
 */
export function withFace(take: Take, { voice, solution, strength = {} }: SpokenFace, clock: FaceClock): Take {
  const made: ScalarTrack[] = []
  const onFrames = (values: Float32Array, fps: number, at: number): Float32Array =>
    Float32Array.from({ length: take.frames }, (_, f) => {
      const p = (clock.toRecording(f / take.fps) - at) * fps
      if (p < -1 || p > values.length) return 0
      const i = Math.min(values.length - 1, Math.max(0, Math.floor(p)))
      const j = Math.min(values.length - 1, i + 1)
      return values[i] + (values[j] - values[i]) * Math.min(1, Math.max(0, p - i))
    })
  if (solution)
    for (const { name, values } of solution.weights.tracks) {
      const own = solution.names?.[name] ?? name
      if (own === '') continue
      made.push({ name: own, kind: 'expression', values: onFrames(values, solution.weights.fps, solution.at) })
    }
  if (voice) {
    const { shapes, fps } = mouthCurves(voice.said, voice.seconds, { fps: FINE, lead: voice.lead })
    for (const vowel of VOWELS)
      made.push({ name: vowel, kind: 'expression', values: onFrames(shapes[vowel], fps, voice.at) })
  }
  const stronger = Object.values(strength).some(v => v !== undefined && v !== 1)
  if (made.length === 0 && !stronger) return take
  // of two that tell the same, the later one is meant
  const tracks = new Map<string, ScalarTrack>([...(take.scalars ?? []), ...made].map(s => [s.name, s]))
  const scalars = [...tracks.values()].map((s): ScalarTrack => {
    const by = s.kind === 'expression' ? (strength[partOf(s.name)] ?? 1) : 1
    return by === 1 ? s : { ...s, values: s.values.map(v => Math.min(1, Math.max(0, by * v))) }
  })
  return { ...take, scalars }
}

/** The part of a face that a track moves: told by its expression, else by words in the name of a shape. */
export function partOf(name: string): FacePart {
  if (name in EXPRESSION_KINDS) return EXPRESSION_KINDS[name as Expression]
  if (/blink|wink|squint|lid/i.test(name)) return 'lids'
  if (/look|gaze|eye(in|out|up|down)/i.test(name)) return 'gaze'
  if (/jaw|mouth|lip|tongue|viseme|phoneme/i.test(name)) return 'mouth'
  return 'mood'
}
