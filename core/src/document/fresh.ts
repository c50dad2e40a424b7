import { offsetsIn } from './write-shapes'
import { plainMaterial, type ImageFile, type MapKind, type Material, type Mesh } from '../mesh'
import { Draft } from './draft'
import type { SourceFigure } from './figure'
import type { GltfMaterial, SourceRun, TextureInfo } from './gltf'
import { unitNormals } from './normals'
import { PLAIN } from './place'

/**
 * A document for a figure that came in none: a mesh for every piece of its own, materials and images.
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
  const normals = unitNormals(mesh)
  const colors = mesh.colors && colorsOf(mesh.colors)
  const morphs = mesh.morphs?.map(m => m.name) ?? []
  const groups = groupsOf(mesh)
  const runs = groups.map(({ parts, start, end }): SourceRun => {
    const own = groups.length === 1 ? name : nameOf(parts.map(p => p.name))
    const attribute = { use: 'attribute' } as const
    const slice = <T extends Float32Array | Uint16Array>(values: T, size: number): T =>
      values.slice(size * start, size * end) as T
    const attributes: Record<string, number> = {
      POSITION: draft.accessor(slice(mesh.positions, 3), 'VEC3', { ...attribute, bounds: true }),
      NORMAL: draft.accessor(slice(normals, 3), 'VEC3', attribute),
    }
    if (colors) attributes.COLOR_0 = draft.accessor(slice(colors, 4), 'VEC4', { ...attribute, normalized: true })
    if (mesh.uvs) attributes.TEXCOORD_0 = draft.accessor(slice(mesh.uvs, 2), 'VEC2', attribute)
    const targets = mesh.morphs?.map(m => ({
      POSITION: offsetsIn(draft, slice(m.offsets, 3)),
    }))
    const primitives = parts.map(part => {
      const corners = mesh.indices.slice(part.start, part.start + part.count).map(v => v - start)
      const indices = draft.accessor(end - start < 65535 ? Uint16Array.from(corners) : corners, 'SCALAR', {
        use: 'index',
      })
      return { attributes: { ...attributes }, indices, material: materialAt(part), ...(targets?.length && { targets }) }
    })
    const at = draft.mesh({
      name: own,
      primitives,
      extras: { parts: parts.map(p => p.name), ...(morphs.length > 0 && { targetNames: morphs }) },
      ...(morphs.length > 0 && { weights: morphs.map(() => 0) }),
    })
    const node = (json.nodes ??= []).push({ name: own, mesh: at }) - 1
    return {
      node,
      mesh: at,
      start,
      count: end - start,
      world: PLAIN,
      skin: -1,
      primitives: parts.map(({ part }, index) => ({ index, part })),
    }
  })
  json.scenes![0].nodes = runs.map(r => r.node)
  return {
    ...base,
    document: draft.done(),
    way: { scene: 0, runs, joints: [], takes: [] },
    mesh,
    parts: mesh.parts.map((_, from) => ({ from, mirrored: false })),
  }

  function colorsOf(own: Float32Array): Uint16Array {
    const out = new Uint16Array(4 * vertices).fill(65535)
    for (let v = 0; v < vertices; v++)
      for (let c = 0; c < 3; c++) out[4 * v + c] = Math.round(65535 * Math.min(1, Math.max(0, own[3 * v + c])))
    return out
  }
}

interface Group {
  readonly parts: readonly (Mesh['parts'][number] & { readonly part: number })[]
  /** Vertices from here up to there are its own. */
  readonly start: number
  readonly end: number
}

/** Parts that share no vertices are meshes of their own, in the order of their vertices; those that share some are one. */
function groupsOf({ parts, indices, positions }: Mesh): Group[] {
  const ranges = parts
    .flatMap((p, part) => {
      if (p.count === 0) return []
      let low = Infinity
      let high = 0
      for (let i = p.start; i < p.start + p.count; i++) {
        low = Math.min(low, indices[i])
        high = Math.max(high, indices[i])
      }
      return [{ parts: [{ ...p, part }], low, high }]
    })
    .sort((a, b) => a.low - b.low)
  const merged: typeof ranges = []
  for (const r of ranges) {
    const last = merged[merged.length - 1]
    if (last && r.low <= last.high) {
      last.parts.push(...r.parts)
      last.high = Math.max(last.high, r.high)
    } else merged.push(r)
  }
  return merged.map((g, i) => ({
    parts: g.parts.sort((a, b) => a.part - b.part),
    // vertices nobody uses stay with what they came after
    start: i === 0 ? 0 : g.low,
    end: merged[i + 1]?.low ?? positions.length / 3,
  }))
}

/** What several parts of one mesh have in common in their names, else the first one's. */
function nameOf(names: readonly string[]): string {
  const [first] = names
  let shared = first.length
  for (const n of names) while (!n.startsWith(first.slice(0, shared))) shared--
  const stem = first.slice(0, shared).replace(/[\s,._-]+$/, '')
  return stem.length >= 3 ? stem : first
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
