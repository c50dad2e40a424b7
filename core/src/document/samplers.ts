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
