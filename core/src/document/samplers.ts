import { isStill, keptOnCurves, keptPlaces, keptTurns, slopesOf, type Thinning } from '../motion'
import type { Draft } from './draft'
import type { GltfAnimation } from './gltf'

type Keyed = Pick<GltfAnimation, 'channels' | 'samplers'>

/** Channels with the samplers they use and no others. */
export function withUsedSamplers({ channels, samplers }: Keyed): Keyed {
  const used = [...new Set(channels.map(c => c.sampler))]
  return {
    channels: channels.map(c => ({ ...c, sampler: used.indexOf(c.sampler) })),
    samplers: used.map(s => samplers[s]),
  }
}

/** The moments of keys of one animation: those of all frames, and of any choice of them, each told once. */
export interface KeyTimes {
  readonly frames: number
  readonly fps: number
  /** The number of the accessor with the moments of these frames; of all where none are told. */
  readonly of: (frames?: Int32Array) => number
}

/** The moments of frames at an even rate. */
export function frameTimes(draft: Draft, frames: number, fps: number): KeyTimes {
  const known = new Map<string, number>()
  return {
    frames,
    fps,
    of: chosen => {
      const key = chosen ? chosen.join() : ''
      const there = known.get(key)
      if (there !== undefined) return there
      const all = chosen ?? Int32Array.from({ length: frames }, (_, f) => f)
      const made = draft.accessor(
        Float32Array.from(all, f => f / fps),
        'SCALAR',
        { bounds: true },
      )
      known.set(key, made)
      return made
    },
  }
}

/** Bytes it takes to tell of one more list of times. */
const OWN_TIMES = 180

/**
 * Adds keys that move a node. What stays the same through the take is told at its ends alone.
 * @param values of every frame
 * @param thinning how far the rest may stray when keys are left out; every key is kept where it is left out
 */
export function addTrack(
  draft: Draft,
  { samplers, channels }: Pick<GltfAnimation, 'samplers' | 'channels'>,
  times: KeyTimes,
  target: { readonly node: number; readonly path: string },
  values: Float32Array,
  type: 'VEC3' | 'VEC4',
  thinning?: Thinning,
): void {
  const size = type === 'VEC4' ? 4 : 3
  const still = times.frames > 2 && isStill(values, size)
  const { kept, slopes } = still
    ? { kept: Int32Array.of(0, times.frames - 1) }
    : thinning
      ? fewest(values, size, thinning)
      : { kept: undefined }
  const chosen = kept && (still || bytesOf(kept.length, size, slopes) < times.frames * 4 * size) ? kept : undefined
  const curved = chosen && slopes
  const sampler =
    samplers.push({
      input: times.of(chosen && chosen.length < times.frames ? chosen : undefined),
      output: draft.accessor(
        curved ? withSlopes(values, chosen, size, slopes, times.fps) : chosen ? rows(values, chosen, size) : values,
        type,
      ),
      interpolation: curved ? 'CUBICSPLINE' : 'LINEAR',
    }) - 1
  channels.push({ sampler, target })
}

/** Bytes of keys at times of their own; curved ones tell two slopes each. */
const bytesOf = (keys: number, size: number, slopes: Float32Array | undefined): number =>
  keys * ((slopes ? 12 : 4) * size + 4) + OWN_TIMES

/** The keys that take the fewest bytes: straight ones, or curved ones with their slopes a frame. */
function fewest(
  values: Float32Array,
  size: 3 | 4,
  thinning: Thinning,
): { readonly kept: Int32Array; readonly slopes?: Float32Array } {
  const straight = { kept: size === 4 ? keptTurns(values, thinning.degrees) : keptPlaces(values, thinning.metres) }
  // curves of two keys cost as much as straight ones of five
  if (!thinning.curved || straight.kept.length < 6) return straight
  const slopes = slopesOf(values, size)
  const kept = keptOnCurves(values, slopes, size, thinning)
  return bytesOf(kept.length, size, slopes) < bytesOf(straight.kept.length, size, undefined)
    ? { kept, slopes }
    : straight
}

function rows(values: Float32Array, chosen: Int32Array, size: number): Float32Array {
  const out = new Float32Array(size * chosen.length)
  chosen.forEach((f, i) => out.set(values.subarray(size * f, size * (f + 1)), size * i))
  return out
}

/** Slope in, value, slope out of every key, as the format lays them; slopes a second. */
function withSlopes(
  values: Float32Array,
  chosen: Int32Array,
  size: number,
  slopes: Float32Array,
  fps: number,
): Float32Array {
  const out = new Float32Array(3 * size * chosen.length)
  chosen.forEach((f, i) => {
    for (let k = 0; k < size; k++) {
      const slope = slopes[size * f + k] * fps
      out[3 * size * i + k] = out[3 * size * i + 2 * size + k] = slope
      out[3 * size * i + size + k] = values[size * f + k]
    }
  })
  return out
}
