import { slerpAt } from '../math'

/** Travel and turn of a root track, apart from any joint. */
export interface RootTrack {
  /** 3·N, metres in the skeleton's own space */
  readonly translations: Float32Array
  /** 4·N */
  readonly rotations: Float32Array
}

/** One number over time. */
export interface ScalarTrack {
  readonly name: string
  /** How strongly a face shows an expression, 0..1, or a curve of the user's own. */
  readonly kind: 'expression' | 'curve'
  /** N */
  readonly values: Float32Array
}

/** A named moment. */
export interface TakeEvent {
  /** Seconds from the take's beginning. */
  readonly time: number
  readonly name: string
  readonly data?: Readonly<Record<string, string | number | boolean>>
}

/** What goes along with the joints of a take. */
export interface Beside {
  readonly root?: RootTrack
  readonly scalars?: readonly ScalarTrack[]
  readonly events?: readonly TakeEvent[]
}

interface Timed extends Beside {
  readonly fps: number
  readonly frames: number
}

/**
 * What goes along with a take, on another clock: the one place where trimming, pace and other rates are done to it.
 * Between frames turns go on the shorter way and numbers straight; both ends are held. Events outside of the result are
 * left out.
 * @param source seconds of the take at a moment of the result, and back
 */
export function retime(
  take: Timed,
  frames: number,
  fps: number,
  source: { readonly of: (result: number) => number; readonly to: (taken: number) => number } = SAME,
): Beside {
  const { root, scalars, events } = take
  const places = Float64Array.from({ length: root || scalars ? frames : 0 }, (_, f) => {
    const at = source.of(f / fps) * take.fps
    // a hair's breadth beside a frame is that frame
    const whole = Math.round(at)
    return Math.min(take.frames - 1, Math.max(0, Math.abs(at - whole) < 1e-6 ? whole : at))
  })
  const numbers = (values: Float32Array, width: number): Float32Array => {
    const out = new Float32Array(width * frames)
    for (let f = 0; f < frames; f++) {
      const a = Math.floor(places[f])
      const b = Math.min(take.frames - 1, a + 1)
      const t = places[f] - a
      for (let k = 0; k < width; k++) {
        const from = values[width * a + k]
        out[width * f + k] = from + (values[width * b + k] - from) * t
      }
    }
    return out
  }
  const turns = (values: Float32Array): Float32Array => {
    const out = new Float32Array(4 * frames)
    for (let f = 0; f < frames; f++) {
      const a = Math.floor(places[f])
      slerpAt(out, 4 * f, values, 4 * a, values, 4 * Math.min(take.frames - 1, a + 1), places[f] - a)
    }
    return out
  }
  const long = Math.max(0, frames - 1) / fps
  return {
    ...(root && { root: { translations: numbers(root.translations, 3), rotations: turns(root.rotations) } }),
    ...(scalars && { scalars: scalars.map(s => ({ ...s, values: numbers(s.values, 1) })) }),
    ...(events && {
      events: events
        .map(e => ({ ...e, time: source.to(e.time) }))
        .filter(e => e.time > -1e-9 && e.time < long + 1e-9)
        .map(e => ({ ...e, time: Math.min(long, Math.max(0, e.time)) })),
    }),
  }
}
const SAME = { of: (t: number): number => t, to: (t: number): number => t }

/** Only what goes along, for a take whose joints are made anew. */
export const besideOf = ({ root, scalars, events }: Beside): Beside => ({
  ...(root && { root }),
  ...(scalars && { scalars }),
  ...(events && { events }),
})
