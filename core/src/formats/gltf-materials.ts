import type { Document, Material as GltfMaterial, Texture } from '@gltf-transform/core'
import { imageOf, viewBytes, type GltfDocument, type TextureInfo } from '../document'
import { imageKind, type ImageFile, type MapKind, type Material } from '../mesh'

/**
 * How materials of a glTF are shown, and the images that can be, each once. Everything else of them stays in the document.
 * @param missing images that did not come along
 */
export function readMaterials(
  document: GltfDocument,
  missing: ReadonlyMap<number, string>,
): { materials: Material[]; images: ImageFile[]; dropped: string[] } {
  const { json } = document
  const images: ImageFile[] = []
  const dropped: string[] = []
  const place = new Map<number, number>()
  json.images?.forEach((image, i) => {
    const uri = missing.get(i)
    if (uri !== undefined) {
      dropped.push(`The texture ${uri} lies beside the file and was not brought in with it.`)
      return
    }
    const bytes = viewBytes(document, image.bufferView)
    const name = image.name || `texture ${i + 1}`
    const mime = bytes && imageKind(bytes)
    if (bytes && mime) {
      place.set(i, images.length)
      images.push({ name, mime, bytes: bytes.slice() })
    } else if (bytes && isCarried(bytes))
      dropped.push(`The texture ${name} is of a kind that is not shown here (${image.mimeType ?? 'KTX2'}); it is carried along as it is.`) // prettier-ignore
    else dropped.push(`The texture ${name} is missing, broken, or of a kind that cannot be read; it is not shown.`)
  })
  const shown = (info: TextureInfo | undefined): number | undefined => {
    const image = info && imageOf(json.textures?.[info.index])
    return image === undefined ? undefined : place.get(image)
  }
  const materials = (json.materials ?? []).map((m, i): Material => {
    const pbr = m.pbrMetallicRoughness ?? {}
    const glossy = m.extensions?.KHR_materials_pbrSpecularGlossiness as
      { diffuseFactor?: number[]; diffuseTexture?: TextureInfo } | undefined
    const maps: Partial<Record<MapKind, number>> = {}
    const slots: [MapKind, TextureInfo | undefined][] = [
      ['color', pbr.baseColorTexture ?? glossy?.diffuseTexture],
      ['normal', m.normalTexture],
      ['occlusion', m.occlusionTexture],
      ['emission', m.emissiveTexture],
      ['roughness', pbr.metallicRoughnessTexture],
    ]
    for (const [kind, info] of slots) {
      const at = shown(info)
      if (at !== undefined) maps[kind] = at
    }
    const [r = 1, g = 1, b = 1, a = 1] = pbr.baseColorFactor ?? glossy?.diffuseFactor ?? []
    const blend = m.alphaMode === 'MASK' ? 'mask' : m.alphaMode === 'BLEND' ? 'blend' : 'opaque'
    return {
      name: m.name || `material ${i + 1}`,
      color: [r, g, b],
      alpha: a,
      metallic: pbr.metallicFactor ?? 1,
      roughness: pbr.roughnessFactor ?? 1,
      blend,
      doubleSided: m.doubleSided === true,
      maps,
    }
  })
  return { materials, images, dropped }
}

/** Images that cannot be shown but are known for what they are: KTX2 and AVIF. */
const isCarried = (bytes: Uint8Array): boolean =>
  [0xab, 0x4b, 0x54, 0x58].every((b, i) => bytes[i] === b) ||
  String.fromCharCode(...bytes.subarray(4, 12)).startsWith('ftypavi')

/** Materials of a document to be written, one for each in the list. */
export function writeMaterials(
  document: Document,
  materials: readonly Material[],
  images: readonly ImageFile[],
): GltfMaterial[] {
  const textures = images.map(i =>
    document
      .createTexture(i.name)
      .setImage(i.bytes as Uint8Array<ArrayBuffer>)
      .setMimeType(i.mime),
  )
  return materials.map(m => {
    const out = document
      .createMaterial(m.name)
      .setBaseColorFactor([...m.color, m.alpha])
      .setMetallicFactor(m.metallic)
      .setRoughnessFactor(m.roughness)
      .setAlphaMode(m.blend.toUpperCase() as 'OPAQUE' | 'MASK' | 'BLEND')
      .setDoubleSided(m.doubleSided)
    const of = (kind: MapKind): Texture | null => (m.maps[kind] === undefined ? null : (textures[m.maps[kind]] ?? null))
    out
      .setBaseColorTexture(of('color'))
      .setNormalTexture(of('normal'))
      .setOcclusionTexture(of('occlusion'))
      .setEmissiveTexture(of('emission'))
      .setMetallicRoughnessTexture(of('roughness'))
    if (m.maps.emission !== undefined) out.setEmissiveFactor([1, 1, 1])
    return out
  })
}
