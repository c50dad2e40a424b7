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

/** The moments of frames at an even rate. @returns the number of their accessor */
export const frameTimes = (draft: Draft, frames: number, fps: number): number =>
  draft.accessor(
    Float32Array.from({ length: frames }, (_, f) => f / fps),
    'SCALAR',
    { bounds: true },
  )

/** Adds linear keys that move a node. @param input their moments, see {@link frameTimes} */
export function addTrack(
  draft: Draft,
  { samplers, channels }: Pick<GltfAnimation, 'samplers' | 'channels'>,
  input: number,
  target: { readonly node: number; readonly path: string },
  values: Float32Array,
  type: 'VEC3' | 'VEC4',
): void {
  const sampler = samplers.push({ input, output: draft.accessor(values, type), interpolation: 'LINEAR' }) - 1
  channels.push({ sampler, target })
}
