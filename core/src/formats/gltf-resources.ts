import type { RawGltf } from './gltf-check'
import { besideFile, type BesideFiles } from './received'

/** Stands in for an image that did not come along; the reader leaves it out by its name. */
const NO_IMAGE = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)

/**
 * The buffers and images a .gltf names beside itself. Images that did not come along are told by name and
 * are marked; a missing buffer is left to the reader to refuse. Nothing is fetched.
 */
export function gatherResources(
  json: RawGltf,
  beside: BesideFiles | undefined,
): { resources: Record<string, Uint8Array<ArrayBuffer>>; missing: Set<string> } {
  const resources: Record<string, Uint8Array<ArrayBuffer>> = {}
  const missing = new Set<string>()
  const outside = (uri: unknown): uri is string => typeof uri === 'string' && !uri.startsWith('data:')
  for (const buffer of json.buffers ?? []) {
    const found = outside(buffer.uri) ? besideFile(beside, buffer.uri) : undefined
    if (found) resources[buffer.uri as string] = found as Uint8Array<ArrayBuffer>
  }
  for (const image of json.images ?? []) {
    if (!outside(image.uri)) continue
    const found = besideFile(beside, image.uri)
    resources[image.uri] = (found ?? NO_IMAGE) as Uint8Array<ArrayBuffer>
    if (!found) missing.add(image.uri)
  }
  return { resources, missing }
}
