import type { Document, Material as GltfMaterial, Texture } from '@gltf-transform/core'
import { imageKind, type ImageFile, type MapKind, type Material } from '../mesh'

/** Materials and texture images of a glTF, each image once. Broken ones are left out and told. */
export function readMaterials(
  document: Document,
  missing: ReadonlySet<string>,
): { materials: Material[]; images: ImageFile[]; index: ReadonlyMap<GltfMaterial, number>; dropped: string[] } {
  const images: ImageFile[] = []
  const dropped: string[] = []
  const place = new Map<Texture, number>()
  for (const texture of document.getRoot().listTextures()) {
    const bytes = texture.getImage()
    const name = texture.getName() || texture.getURI().replace(/^.*\//, '').slice(0, 120) || `texture ${place.size + 1}`
    const uri = texture.getURI()
    if (missing.has(uri)) {
      dropped.push(`The texture ${uri} lies beside the file and was not brought in with it.`)
      continue
    }
    const mime = bytes && imageKind(bytes)
    if (!bytes || !mime) {
      dropped.push(`The texture ${name} is missing, broken, or of a kind that cannot be read; it was left out.`)
      continue
    }
    place.set(texture, images.length)
    images.push({ name, mime, bytes: bytes.slice() })
  }
  const index = new Map<GltfMaterial, number>()
  const materials = document
    .getRoot()
    .listMaterials()
    .map((m, i): Material => {
      index.set(m, i)
      const slots: [MapKind, Texture | null][] = [
        ['color', m.getBaseColorTexture()],
        ['normal', m.getNormalTexture()],
        ['occlusion', m.getOcclusionTexture()],
        ['emission', m.getEmissiveTexture()],
        ['roughness', m.getMetallicRoughnessTexture()],
      ]
      const maps: Partial<Record<MapKind, number>> = {}
      for (const [kind, texture] of slots) {
        const at = texture ? place.get(texture) : undefined
        if (at !== undefined) maps[kind] = at
      }
      const [r, g, b, a] = m.getBaseColorFactor()
      return {
        name: m.getName() || `material ${i + 1}`,
        color: [r, g, b],
        alpha: a,
        metallic: m.getMetallicFactor(),
        roughness: m.getRoughnessFactor(),
        blend: m.getAlphaMode().toLowerCase() as Material['blend'],
        doubleSided: m.getDoubleSided(),
        maps,
      }
    })
  return { materials, images, index, dropped }
}

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
