import type { Beside, ScalarTrack, Take, TakeEvent } from '../motion'
import { mirroredEvent } from '../adjust'
import { inOrder } from './find'
import type { TakeCues, ToldCue, ToldCurve } from './settings'

/** Seconds within which a found moment is the one a person meant. */
export const SAME_CUE = 0.12

/** How moments of a recording are found in its take, and whether its sides were exchanged. */
export interface CueClock {
  readonly timeOf: (seconds: number) => number
  readonly toRecording: (seconds: number) => number
  readonly mirrored: boolean
}

/** A told moment on its take; undefined where it is cut away. */
function placed(cue: ToldCue, clock: CueClock, seconds: number): TakeEvent | undefined {
  const time = clock.timeOf(cue.at)
  if (time < -1e-6 || time > seconds + 1e-6) return undefined
  const event: TakeEvent = {
    time: Math.min(seconds, Math.max(0, time)),
    name: cue.name,
    ...(cue.data && { data: cue.data }),
  }
  return clock.mirrored ? mirroredEvent(event) : event
}

/** Moments as found, without those that are not wanted, and those a person told. */
export function withToldCues(
  found: readonly TakeEvent[],
  told: readonly ToldCue[] = [],
  clock: CueClock,
  seconds: number,
): TakeEvent[] {
  const left = [...found]
  const own: TakeEvent[] = []
  for (const cue of told) {
    const event = placed(cue, clock, seconds)
    if (!event) continue
    if (!cue.without) {
      own.push(event)
      continue
    }
    const nearest = left
      .map((e, i) => ({ i, off: sameCue(e, event) ? Math.abs(e.time - event.time) : Infinity }))
      .sort((a, b) => a.off - b.off)[0]
    if (nearest && nearest.off <= SAME_CUE) left.splice(nearest.i, 1)
  }
  return inOrder([...left, ...own])
}

/** Whether two moments are of one kind: of one name, and of the same foot or hand where both tell one. */
export function sameCue(a: TakeEvent, b: TakeEvent): boolean {
  if (a.name !== b.name) return false
  return (['foot', 'hand', 'ahead'] as const).every(
    key => a.data?.[key] === undefined || b.data?.[key] === undefined || a.data[key] === b.data[key],
  )
}

/** Curves of a person's own on the frames of a take. */
export function toldCurves(
  curves: readonly ToldCurve[] = [],
  { frames, fps }: Pick<Take, 'frames' | 'fps'>,
  clock: CueClock,
): ScalarTrack[] {
  return curves
    .filter(c => c.keys.length > 0)
    .map(({ name, keys }): ScalarTrack => {
      const sorted = [...keys].sort((a, b) => a.at - b.at)
      const values = Float32Array.from({ length: frames }, (_, f) => curveAt(sorted, clock.toRecording(f / fps)))
      return { name, kind: 'curve', values }
    })
}

/** The value of a curve at a moment of the recording. @param keys in the order of time */
export function curveAt(keys: ToldCurve['keys'], at: number): number {
  const after = keys.findIndex(k => k.at > at)
  if (after === 0) return keys[0].value
  if (after < 0) return keys[keys.length - 1].value
  const [a, b] = [keys[after - 1], keys[after]]
  return a.value + ((b.value - a.value) * (at - a.at)) / (b.at - a.at || 1)
}

/** Whether anything was told of the moments and curves of a take. */
export const tellsCues = (told: TakeCues | undefined): boolean =>
  (told?.cues?.length ?? 0) > 0 || (told?.curves?.length ?? 0) > 0

/** Moments a recording brought along and those that were found: of two that are one, the brought one. */
export const foundBeside = (brought: readonly TakeEvent[], found: readonly TakeEvent[]): TakeEvent[] =>
  inOrder([
    ...brought,
    ...found.filter(e => !brought.some(b => sameCue(b, e) && Math.abs(b.time - e.time) <= SAME_CUE)),
  ])

/** A take with these moments, and with curves beside those it has; the take itself where that is nothing new. */
export function withCues(take: Take, events: readonly TakeEvent[], scalars: readonly ScalarTrack[]): Take {
  const before = take.events ?? []
  const same = events.length === before.length && events.every((e, i) => e === before[i])
  if (same && scalars.length === 0) return take
  const names = new Set(scalars.map(s => s.name))
  const beside: Beside = {
    ...(!same && { events }),
    ...(scalars.length > 0 && { scalars: [...(take.scalars ?? []).filter(s => !names.has(s.name)), ...scalars] }),
  }
  return { ...take, ...beside }
}
