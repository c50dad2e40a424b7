import { isStill, keptPlaces, keptTurns, type Thinning } from '../motion'
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
  /** The number of the accessor with the moments of these frames; of all where none are told. */
  readonly of: (frames?: Int32Array) => number
}

/** The moments of frames at an even rate. */
export function frameTimes(draft: Draft, frames: number, fps: number): KeyTimes {
  const known = new Map<string, number>()
  return {
    frames,
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
 * Adds linear keys that move a node. What stays the same through the take is told at its ends alone.
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
  const kept =
    times.frames > 2 && isStill(values, size)
      ? Int32Array.of(0, times.frames - 1)
      : thinning && (type === 'VEC4' ? keptTurns(values, thinning.degrees) : keptPlaces(values, thinning.metres))
  // keys of their own times cost those times as well
  const fewer = kept !== undefined && kept.length * (4 * size + 4) + OWN_TIMES < times.frames * 4 * size
  const chosen = kept && (fewer || kept.length === 2) && kept.length < times.frames ? kept : undefined
  const sampler =
    samplers.push({
      input: times.of(chosen),
      output: draft.accessor(chosen ? rows(values, chosen, size) : values, type),
      interpolation: 'LINEAR',
    }) - 1
  channels.push({ sampler, target })
}

function rows(values: Float32Array, chosen: Int32Array, size: number): Float32Array {
  const out = new Float32Array(size * chosen.length)
  chosen.forEach((f, i) => out.set(values.subarray(size * f, size * (f + 1)), size * i))
  return out
}
