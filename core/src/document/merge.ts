import type { GltfDocument, GltfJson, GltfNode } from './gltf'

type Json = Record<string, unknown>
/** Scaled, turned, then shifted. */
export interface Placing {
  readonly scale: number
  readonly turn: readonly number[]
  readonly at: readonly number[]
}

/**
 * One document with what another holds to be seen added to a scene of it: nodes with meshes below them, their materials, images
 * and samplers. Skeletons, animations, cameras and extensions of the whole file stay out.
 * @param scene of the first one
 * @param from scene of the other
 * @param place where it is put, left out where it stays where it lies
 */
export function mergeDocuments(
  a: GltfDocument,
  scene: number,
  b: GltfDocument,
  from: number,
  place?: Placing,
): GltfDocument {
  const json = structuredClone(a.json)
  const other = structuredClone(b.json)
  const offset = (key: keyof GltfJson): number => (json[key] as unknown[] | undefined)?.length ?? 0
  const at = {
    nodes: offset('nodes'),
    meshes: offset('meshes'),
    materials: offset('materials'),
    textures: offset('textures'),
    images: offset('images'),
    samplers: offset('samplers'),
    accessors: offset('accessors'),
    bufferViews: offset('bufferViews'),
    buffers: offset('buffers'),
  }
  const shown = seen(other, from)
  const nodes = (other.nodes ?? []).map((n, i): GltfNode => {
    // what is not seen leaves only its number: a joint of the other file is none of this one
    if (!shown.has(i)) return {}
    const { mesh, children, camera: _, skin: __, ...rest } = n
    const kept = children?.filter(c => shown.has(c)).map(c => c + at.nodes)
    return {
      ...rest,
      ...(mesh !== undefined && { mesh: mesh + at.meshes }),
      ...(kept && kept.length > 0 && { children: kept }),
    }
  })
  // numbers of nodes stay in a row: what is not shown is left out of the scene and goes when the figure is written
  json.nodes = [...(json.nodes ?? []), ...nodes]
  const roots = (other.scenes?.[from]?.nodes ?? (other.nodes ?? []).map((_, i) => i)).filter(n => shown.has(n))
  const scenes = (json.scenes ??= [{}])
  const shownRoots = roots.map(n => n + at.nodes)
  if (place) {
    json.nodes.push({
      translation: [...place.at],
      rotation: [...place.turn],
      scale: [place.scale, place.scale, place.scale],
      ...(shownRoots.length > 0 && { children: shownRoots }),
    })
    ;(scenes[scene].nodes ??= []).push(json.nodes.length - 1)
  } else (scenes[scene].nodes ??= []).push(...shownRoots)
  const moved = (record: Record<string, number>): Record<string, number> =>
    Object.fromEntries(Object.entries(record).map(([k, i]) => [k, i + at.accessors]))
  const join = <T>(key: string, list: readonly T[] | undefined, change: (item: T) => T): void => {
    if (list)
      (json as unknown as Json)[key] = [
        ...(((json as unknown as Json)[key] as T[] | undefined) ?? []),
        ...list.map(change),
      ]
  }
  join('meshes', other.meshes, m => ({
    ...m,
    primitives: m.primitives.map(({ attributes, ...p }) => ({
      ...p,
      // a piece is bound with the body, not as it was bound in its file
      attributes: moved(Object.fromEntries(Object.entries(attributes).filter(([k]) => !/^(JOINTS|WEIGHTS)_/.test(k)))),
      ...(p.indices !== undefined && { indices: p.indices + at.accessors }),
      ...(p.material !== undefined && { material: p.material + at.materials }),
      ...(p.targets && { targets: p.targets.map(moved) }),
    })),
  }))
  join('materials', other.materials, m => withTextures(m, at.textures))
  join('textures', other.textures, t => ({
    ...t,
    ...(t.source !== undefined && { source: t.source + at.images }),
    ...(t.sampler !== undefined && { sampler: t.sampler + at.samplers }),
    ...(t.extensions && { extensions: withSources(t.extensions, at.images) }),
  }))
  join('images', other.images, i => ({
    ...i,
    ...(i.bufferView !== undefined && { bufferView: i.bufferView + at.bufferViews }),
  }))
  join('samplers', other.samplers, s => s)
  join('accessors', other.accessors, x => ({
    ...x,
    ...(x.bufferView !== undefined && { bufferView: x.bufferView + at.bufferViews }),
    ...(x.sparse && {
      sparse: {
        ...x.sparse,
        indices: { ...x.sparse.indices, bufferView: x.sparse.indices.bufferView + at.bufferViews },
        values: { ...x.sparse.values, bufferView: x.sparse.values.bufferView + at.bufferViews },
      },
    }),
  }))
  join('bufferViews', other.bufferViews, v => ({ ...v, buffer: v.buffer + at.buffers }))
  join('buffers', other.buffers, x => x)
  for (const list of ['extensionsUsed', 'extensionsRequired'] as const) {
    const all = [...new Set([...(json[list] ?? []), ...(other[list] ?? []).filter(e => LOOKS.test(e))])]
    if (all.length > 0) json[list] = all
  }
  return { json, buffers: [...a.buffers, ...b.buffers] }
}

/** Extensions of what is seen, which go along. */
const LOOKS = /^(KHR_materials_|KHR_texture_|EXT_texture_|KHR_mesh_quantization$)/

/** Nodes of a scene that carry a mesh, or something below them does. */
function seen(json: GltfJson, scene: number): ReadonlySet<number> {
  const out = new Set<number>()
  const nodes = json.nodes ?? []
  const open = (json.scenes?.[scene]?.nodes ?? nodes.map((_, i) => i)).map(n => [n])
  while (open.length > 0) {
    const way = open.pop()!
    const { mesh, children } = nodes[way[way.length - 1]] ?? {}
    if (mesh !== undefined) way.forEach(n => out.add(n))
    for (const c of children ?? []) open.push([...way, c])
  }
  return out
}

/** Numbers of textures anywhere in a material, those in its extensions too. */
function withTextures<T>(value: T, by: number): T {
  if (Array.isArray(value)) return value.map(v => withTextures(v, by)) as T
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(
    Object.entries(value).map(([key, part]) =>
      /texture$/i.test(key) && typeof (part as { index?: unknown })?.index === 'number'
        ? [key, { ...(part as object), index: (part as { index: number }).index + by }]
        : [key, key === 'extras' ? part : withTextures(part, by)],
    ),
  ) as T
}

const withSources = (extensions: Record<string, unknown>, by: number): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(extensions).map(([name, e]) =>
      typeof (e as { source?: unknown })?.source === 'number'
        ? [name, { ...(e as object), source: (e as { source: number }).source + by }]
        : [name, e],
    ),
  )
