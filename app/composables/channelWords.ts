import { readChannel } from '@chiraxis/core/layers'
import { roleLabel } from '@chiraxis/core/body'

/** A channel of a layer in words: `Left hand`, `Left upper arm turns`. */
export function channelWords(name: string): string {
  const channel = readChannel(name)
  if (!channel) return name
  const label = channel.joint ? roleLabel(channel.joint) : ''
  if (channel.kind === 'weight') return 'weight of the layer'
  if (channel.kind === 'turn') return `turn of ${label.toLowerCase()}`
  return `place of ${label.toLowerCase()}`
}
