import { z } from 'zod'
import type { Vec3 } from '../math'
import { partnerOf, sideOf } from '../body'
import { mirroredName } from '../skeleton'

/** Most layers on one take, and most keys in one layer. */
export const MOST_LAYERS = 50
export const MOST_KEYS = 5000

/** How a key goes on to the next one. */
export const EASES = ['smooth', 'linear', 'stepped'] as const
export type Ease = (typeof EASES)[number]

/**
 * What a channel of a layer does, told so that it fits other proportions, joint axes and bodies:
 * - `turn`: a joint is turned, as a rotation vector in the axes of the body as bound, radians;
 * - `reach`: the end of a limb is moved and the limb follows, in shares of the limb's length, hands in the axes of the trunk
 *   as it is turned, feet in those of the ground;
 * - `move`: the hips are moved over feet that stay, the whole figure with them, in lengths of a leg, in the axes of the ground;
 * - `weight`: how strongly the layer counts, 0..1.
 */
export const CHANNEL_KINDS = ['turn', 'reach', 'move', 'weight'] as const
export type ChannelKind = (typeof CHANNEL_KINDS)[number]

export const layerKeySchema = z.object({
  /** Seconds of the recording. */
  at: z.number().min(0),
  /** Kind and joint, see {@link channelName}. */
  channel: z.string().min(1).max(220),
  /** Three numbers, one for a weight. */
  value: z.array(z.number().min(-100).max(100)).min(1).max(3),
  ease: z.enum(EASES).optional(),
})
export type LayerKey = Readonly<z.infer<typeof layerKeySchema>>

/** Changes by hand over a take that stays as it is below. */
export const layerSchema = z.object({
  id: z.string().min(1).max(100),
  name: z.string().min(1).max(200),
  /** `add` goes on top of what the take does, `replace` takes its place. */
  mode: z.enum(['add', 'replace']),
  weight: z.number().min(0).max(1),
  muted: z.boolean().optional(),
  keys: z.array(layerKeySchema).max(MOST_KEYS),
})
export type Layer = Readonly<z.infer<typeof layerSchema>>

export const channelName = (kind: ChannelKind, joint = ''): string => (joint ? `${kind} ${joint}` : kind)

export function readChannel(name: string): { readonly kind: ChannelKind; readonly joint: string } | undefined {
  const at = name.indexOf(' ')
  const kind = at < 0 ? name : name.slice(0, at)
  const known = CHANNEL_KINDS.find(k => k === kind)
  return known && { kind: known, joint: at < 0 ? '' : name.slice(at + 1) }
}

/** A key as a mirror across the midline shows it: the other side's joint, what it does the other way round. */
export function mirroredKey(key: LayerKey): LayerKey {
  const channel = readChannel(key.channel)
  if (!channel || channel.kind === 'weight') return key
  const { kind, joint } = channel
  const other = sideOf(joint) === 'middle' ? mirroredName(joint) : partnerOf(joint)
  const [x, y, z] = key.value as unknown as Vec3
  // a turn is mirrored as a turn, a shift as a shift
  const value = kind === 'turn' ? [x, -y, -z] : [-x, y, z]
  return { ...key, channel: channelName(kind, other), value: value.map(v => v + 0) }
}

/** A layer with one key set: at the moment of another of its channel, in that one's place. */
export function withKey(layer: Layer, key: LayerKey): Layer {
  const others = layer.keys.filter(k => k.channel !== key.channel || !sameMoment(k.at, key.at))
  return { ...layer, keys: [...others, key].sort((a, b) => a.at - b.at) }
}

/** A layer without the keys of some channels at a moment. */
export const withoutKeys = (layer: Layer, at: number, channels: readonly string[]): Layer => ({
  ...layer,
  keys: layer.keys.filter(k => !sameMoment(k.at, at) || !channels.includes(k.channel)),
})

/** Moments nearer than half a millisecond are one. */
export const sameMoment = (a: number, b: number): boolean => Math.abs(a - b) < 5e-4
