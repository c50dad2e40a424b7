import { slerpAt } from '../math'
import type { Take, TakeEvent } from '../motion'
import type { Walking } from './walkabout'

/** Longest run that is recorded, seconds. */
export const LONGEST_RUN = 600

/** Keeps what a led figure does, at the moments it was drawn, and makes a take at even steps of it, footsteps with what they step on among its moments. */
export function createRecorder() {
  let times: number[] = []
  let poses: { rotations: Float32Array; translations: Float32Array }[] = []
  let events: TakeEvent[] = []
  return {
    seconds: (): number => (times.length > 0 ? times[times.length - 1] - times[0] : 0),
    /** @param at seconds since some beginning, never going back */
    add(
      at: number,
      { rotations, translations, footfalls }: Pick<Walking, 'rotations' | 'translations' | 'footfalls'>,
    ): void {
      const last = times[times.length - 1]
      if (last !== undefined && (at <= last || at - times[0] > LONGEST_RUN)) return
      times.push(at)
      poses.push({ rotations: rotations.slice(), translations: translations.slice() })
      for (const f of footfalls)
        events.push({ time: at - times[0], name: 'footstep', data: { foot: f.leg, surface: f.surface } })
    },
    /** @returns undefined where hardly anything was recorded */
    take(name: string, fps = 60): Take | undefined {
      if (times.length < 3) return undefined
      const start = times[0]
      const R = poses[0].rotations.length,
        T = poses[0].translations.length
      const frames = Math.floor((times[times.length - 1] - start) * fps) + 1
      const rotations = new Float32Array(R * frames)
      const translations = new Float32Array(T * frames)
      let i = 0
      for (let f = 0; f < frames; f++) {
        const at = start + f / fps
        while (i + 2 < times.length && times[i + 1] < at) i++
        const t = Math.min(1, Math.max(0, (at - times[i]) / (times[i + 1] - times[i])))
        const [a, b] = [poses[i], poses[i + 1]]
        for (let q = 0; q < R; q += 4) slerpAt(rotations, R * f + q, a.rotations, q, b.rotations, q, t)
        for (let k = 0; k < T; k++)
          translations[T * f + k] = a.translations[k] + t * (b.translations[k] - a.translations[k])
      }
      return { name, fps, frames, rotations, translations, events: events.filter(e => e.time <= (frames - 1) / fps) }
    },
    clear(): void {
      times = []
      poses = []
      events = []
    },
  }
}
export type Recorder = ReturnType<typeof createRecorder>
