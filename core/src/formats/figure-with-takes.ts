import { sourceAsRead } from '../document'
import type { Take } from '../motion'
import type { GltfContent } from './gltf-write'
import type { Received } from './received'

/**
 * A figure as it was received with takes carried onto it. Takes it came with go along behind them; one of the same name gives
 * its place to the new one.
 * @param alone only the new takes are wanted
 * @returns what is to be written, and the names of the takes that gave way
 */
export function figureWithTakes(
  name: string,
  received: Received,
  takes: readonly Take[],
  { alone = false } = {},
): { content: GltfContent; replaced: string[] } {
  const { mesh, skeleton, skin, materials, images } = received
  const source = sourceAsRead(received)
  const names = new Set(takes.map(t => t.name))
  const kept = alone ? [] : received.takes.flatMap((take, i) => (names.has(take.name) ? [] : [{ take, i }]))
  const replaced = alone ? [] : received.takes.map(t => t.name).filter(n => names.has(n))
  const takeFrom = [...takes.map(() => -1), ...kept.map(k => k.i)]
  return {
    content: {
      name,
      mesh,
      skeleton,
      skin,
      materials,
      images,
      takes: [...takes, ...kept.map(k => k.take)],
      ...(source && { source: { ...source, takeFrom } }),
    },
    replaced,
  }
}
