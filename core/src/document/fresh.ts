import { plainMaterial, type ImageFile, type MapKind, type Material, type Mesh } from '../mesh'
import { Draft } from './draft'
import type { SourceFigure } from './figure'
import type { GltfMaterial, TextureInfo } from './gltf'
import { unitNormals } from './normals'
import { PLAIN } from './place'

/**
 * A document for a figure that came in none: one mesh whose primitives share all vertices, materials and images.
 * @param mesh in the figure's space; left out for a skeleton alone
 */
export function freshDocument(
  name: string,
  mesh: Mesh | undefined,
  materials: readonly Material[],
  images: readonly ImageFile[],
): SourceFigure {
  const draft = new Draft({ json: { asset: { version: '2.0' }, scene: 0, scenes: [{ name }] }, buffers: [] })
  const { json } = draft
  const base = { matrix: PLAIN, joints: [], takes: [], takeFrom: [] }
  if (!mesh) return { ...base, document: draft.done(), way: { scene: 0, runs: [], joints: [], takes: [] }, parts: [] }
  const vertices = mesh.positions.length / 3
  const attribute = { use: 'attribute' } as const
  const attributes: Record<string, number> = {
    POSITION: draft.accessor(mesh.positions, 'VEC3', { ...attribute, bounds: true }),
    NORMAL: draft.accessor(unitNormals(mesh), 'VEC3', attribute),
  }
  if (mesh.colors) {
    const colors = new Uint16Array(4 * vertices)
    for (let v = 0; v < vertices; v++) {
      for (let k = 0; k < 3; k++)
        colors[4 * v + k] = Math.round(65535 * Math.min(1, Math.max(0, mesh.colors[3 * v + k])))
      colors[4 * v + 3] = 65535
    }
    attributes.COLOR_0 = draft.accessor(colors, 'VEC4', { ...attribute, normalized: true })
  }
  if (mesh.uvs) attributes.TEXCOORD_0 = draft.accessor(mesh.uvs, 'VEC2', attribute)
  const targets = mesh.morphs?.map(m => ({
    POSITION: draft.accessor(m.offsets, 'VEC3', { ...attribute, bounds: true }),
  }))
  const textures = images.map(image => {
    const at = (json.images ??= []).push({
      name: image.name,
      mimeType: image.mime,
      bufferView: draft.view(image.bytes),
    })
    const webp = image.mime === 'image/webp'
    if (webp) json.extensionsUsed = json.extensionsRequired = ['EXT_texture_webp']
    const source = at - 1
    return (json.textures ??= []).push(webp ? { extensions: { EXT_texture_webp: { source } } } : { source }) - 1
  })
  const placed = new Map<string, number>()
  const materialAt = (part: Mesh['parts'][number]): number => {
    const own = part.material === undefined ? undefined : materials[part.material]
    const key = own ? `m${part.material}` : part.color.join()
    const known = placed.get(key)
    if (known !== undefined) return known
    const made = (json.materials ??= []).push(materialOf(own ?? plainMaterial(part.name, part.color), textures)) - 1
    placed.set(key, made)
    return made
  }
  const parts = mesh.parts.flatMap((p, part) => (p.count > 0 ? [{ ...p, part }] : []))
  const primitives = parts.map(part => {
    const slice = mesh.indices.slice(part.start, part.start + part.count)
    const indices = draft.accessor(vertices < 65535 ? Uint16Array.from(slice) : slice, 'SCALAR', { use: 'index' })
    return { attributes: { ...attributes }, indices, material: materialAt(part), ...(targets?.length && { targets }) }
  })
  const morphs = mesh.morphs?.map(m => m.name) ?? []
  draft.mesh({
    name,
    primitives,
    extras: { parts: parts.map(p => p.name), ...(morphs.length > 0 && { targetNames: morphs }) },
    ...(morphs.length > 0 && { weights: morphs.map(() => 0) }),
  })
  json.nodes = [{ name, mesh: 0 }]
  json.scenes![0].nodes = [0]
  const run = {
    node: 0,
    mesh: 0,
    start: 0,
    count: vertices,
    world: PLAIN,
    skin: -1,
    primitives: parts.map(({ part }, index) => ({ index, part })),
  }
  return {
    ...base,
    document: draft.done(),
    way: { scene: 0, runs: [run], joints: [], takes: [] },
    mesh,
    parts: mesh.parts.map((_, from) => ({ from, mirrored: false })),
  }
}

function materialOf(m: Material, textures: readonly number[]): GltfMaterial {
  const map = (kind: MapKind): TextureInfo | undefined =>
    m.maps[kind] === undefined || textures[m.maps[kind]] === undefined ? undefined : { index: textures[m.maps[kind]] }
  const color = map('color')
  const roughness = map('roughness')
  const normal = map('normal')
  const occlusion = map('occlusion')
  const emission = map('emission')
  const beside = BESIDE.flatMap(kind => {
    const info = map(kind)
    return info ? [[kind, info.index] as const] : []
  })
  return {
    name: m.name,
    pbrMetallicRoughness: {
      baseColorFactor: [...m.color, m.alpha],
      metallicFactor: m.metallic,
      roughnessFactor: m.roughness,
      ...(color && { baseColorTexture: color }),
      ...(roughness && { metallicRoughnessTexture: roughness }),
    },
    ...(normal && { normalTexture: normal }),
    ...(occlusion && { occlusionTexture: occlusion }),
    ...(emission && { emissiveTexture: emission }),
    ...((emission || m.emission) && { emissiveFactor: [...(m.emission ?? [1, 1, 1])] }),
    ...(m.blend !== 'opaque' && { alphaMode: m.blend.toUpperCase() }),
    ...(m.doubleSided && { doubleSided: true }),
    ...(beside.length > 0 && { extras: { maps: Object.fromEntries(beside) } }),
  }
}

/** Images glTF has no place for: told in the extras, by the number of their texture. */
const BESIDE = ['alpha', 'bump', 'specular', 'gloss', 'displacement', 'light', 'reflection', 'rough', 'metal'] as const
