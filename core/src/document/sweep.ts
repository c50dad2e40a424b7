import { pad } from './container'
import type { GltfDocument, GltfJson } from './gltf'

type Marks = Uint8Array

/** Extensions that hold no numbers of accessors or data, or are looked through here; where others are used nothing is renumbered. */
const DATA_KNOWN =
  /^(KHR_materials_|KHR_texture_|EXT_texture_(webp|avif)$|KHR_lights_punctual$|KHR_mesh_quantization$|KHR_node_|EXT_mesh_gpu_instancing$|KHR_xmp|VRMC_)/
/** Those of them that hold numbers of nodes or meshes. */
const NODES_TOLD = /^(VRMC_(?!vrm_animation$)|KHR_xmp)/

/**
 * A document without the data nothing in it points to any more, and without nodes, meshes and skins that were taken out. What
 * is left keeps its order. Where extensions are used that are not known, everything stays.
 * @param gone nodes and skins that are to go
 */
export function sweep(
  { json, buffers }: GltfDocument,
  gone: {
    readonly nodes: ReadonlySet<number>
    readonly skins: ReadonlySet<number>
    readonly meshes: ReadonlySet<number>
  },
): GltfDocument {
  const used = json.extensionsUsed ?? []
  if (!used.every(name => DATA_KNOWN.test(name))) return { json, buffers }
  // numbers of nodes are told where they cannot be followed: those stay, hanging nowhere
  const goneNodes = used.some(name => NODES_TOLD.test(name)) ? new Set<number>() : gone.nodes
  const out: GltfJson = { ...json }
  const nodes = renumber(json.nodes?.length ?? 0, goneNodes)
  const skins = renumber(json.skins?.length ?? 0, gone.skins)
  const meshes = renumber(json.meshes?.length ?? 0, gone.meshes)
  if (goneNodes.size + gone.skins.size + gone.meshes.size > 0) {
    const kept = (list: readonly number[] | undefined): number[] | undefined =>
      list?.map(i => nodes[i]).filter(i => i >= 0)
    const shortened = <T>(list: T[] | undefined, without: ReadonlySet<number>): T[] | undefined => {
      const left = list?.filter((_, i) => !without.has(i))
      return left && left.length > 0 ? left : undefined
    }
    out.nodes = shortened(json.nodes, goneNodes)?.map(n => {
      const node = { ...n }
      if (n.children) {
        node.children = kept(n.children)
        if (node.children!.length === 0) delete node.children
      }
      if (n.skin !== undefined) node.skin = skins[n.skin]
      if (n.mesh !== undefined) node.mesh = meshes[n.mesh]
      return node
    })
    out.meshes = shortened(json.meshes, gone.meshes)
    out.scenes = json.scenes?.map(s => ({ ...s, ...(s.nodes && { nodes: kept(s.nodes) }) })).map(withoutEmpty)
    out.skins = shortened(json.skins, gone.skins)?.map(s => {
      const skin = { ...s, joints: kept(s.joints)! }
      if (s.skeleton !== undefined) {
        if (nodes[s.skeleton] >= 0) skin.skeleton = nodes[s.skeleton]
        else delete skin.skeleton
      }
      return skin
    })
    const animations = json.animations
      ?.map(a => ({
        ...a,
        channels: a.channels
          .filter(c => c.target.node === undefined || nodes[c.target.node] >= 0)
          .map(c => (c.target.node === undefined ? c : { ...c, target: { ...c.target, node: nodes[c.target.node] } })),
      }))
      .filter(a => a.channels.length > 0)
    out.animations = animations && animations.length > 0 ? animations : undefined
    renumberRoles(out, nodes)
    for (const key of ['nodes', 'skins', 'meshes', 'animations'] as const) if (out[key] === undefined) delete out[key]
  }
  return sweepData({ json: out, buffers })
}

const withoutEmpty = <T extends { nodes?: number[] }>(scene: T): T => {
  if (scene.nodes?.length !== 0) return scene
  const { nodes: _, ...rest } = scene
  return rest as T
}

function renumber(count: number, gone: ReadonlySet<number>): Int32Array {
  const to = new Int32Array(count).fill(-1)
  let at = 0
  for (let i = 0; i < count; i++) if (!gone.has(i)) to[i] = at++
  return to
}

/** Node numbers of humanoid roles told by extensions. */
function renumberRoles(json: GltfJson, nodes: Int32Array): void {
  if (!json.extensions) return
  const own = structuredClone(json.extensions)
  json.extensions = own
  const told = own.VRMC_vrm_animation as { humanoid?: { humanBones?: Record<string, { node?: number }> } } | undefined
  for (const [role, bone] of Object.entries(told?.humanoid?.humanBones ?? {})) {
    if (typeof bone?.node !== 'number') continue
    if (nodes[bone.node] >= 0) bone.node = nodes[bone.node]
    else delete told!.humanoid!.humanBones![role]
  }
}

/** Without accessors, data and images' places that nothing points to. */
function sweepData({ json, buffers }: GltfDocument): GltfDocument {
  const accessors: Marks = new Uint8Array(json.accessors?.length ?? 0)
  const use = (i: number | undefined): void => {
    if (i !== undefined && i < accessors.length) accessors[i] = 1
  }
  for (const m of json.meshes ?? [])
    for (const p of m.primitives) {
      Object.values(p.attributes).forEach(use)
      use(p.indices)
      p.targets?.forEach(t => Object.values(t).forEach(use))
    }
  json.skins?.forEach(s => use(s.inverseBindMatrices))
  for (const a of json.animations ?? [])
    for (const s of a.samplers) {
      use(s.input)
      use(s.output)
    }
  for (const n of json.nodes ?? []) {
    const instancing = n.extensions?.EXT_mesh_gpu_instancing as { attributes?: Record<string, number> } | undefined
    Object.values(instancing?.attributes ?? {}).forEach(use)
  }
  const toAccessor = renumber(accessors.length, unmarked(accessors))
  const keptAccessors = (json.accessors ?? []).filter((_, i) => accessors[i])
  const views: Marks = new Uint8Array(json.bufferViews?.length ?? 0)
  for (const a of keptAccessors) {
    if (a.bufferView !== undefined) views[a.bufferView] = 1
    if (a.sparse) views[a.sparse.indices.bufferView] = views[a.sparse.values.bufferView] = 1
  }
  for (const i of json.images ?? []) if (i.bufferView !== undefined) views[i.bufferView] = 1
  const toView = renumber(views.length, unmarked(views))
  const out: GltfJson = { ...json }
  const map = (i: number): number => toAccessor[i]
  const mapAll = (record: Record<string, number>): Record<string, number> =>
    Object.fromEntries(Object.entries(record).map(([k, i]) => [k, map(i)]))
  out.accessors = keptAccessors.map(a => ({
    ...a,
    ...(a.bufferView !== undefined && { bufferView: toView[a.bufferView] }),
    ...(a.sparse && {
      sparse: {
        ...a.sparse,
        indices: { ...a.sparse.indices, bufferView: toView[a.sparse.indices.bufferView] },
        values: { ...a.sparse.values, bufferView: toView[a.sparse.values.bufferView] },
      },
    }),
  }))
  if (json.meshes)
    out.meshes = json.meshes.map(m => ({
      ...m,
      primitives: m.primitives.map(p => ({
        ...p,
        attributes: mapAll(p.attributes),
        ...(p.indices !== undefined && { indices: map(p.indices) }),
        ...(p.targets && { targets: p.targets.map(mapAll) }),
      })),
    }))
  if (json.skins)
    out.skins = json.skins.map(s =>
      s.inverseBindMatrices === undefined ? s : { ...s, inverseBindMatrices: map(s.inverseBindMatrices) },
    )
  if (json.animations)
    out.animations = json.animations.map(a => ({
      ...a,
      samplers: a.samplers.map(s => ({ ...s, input: map(s.input), output: map(s.output) })),
    }))
  if (json.nodes)
    out.nodes = json.nodes.map(n => {
      const instancing = n.extensions?.EXT_mesh_gpu_instancing as { attributes?: Record<string, number> } | undefined
      return instancing?.attributes
        ? {
            ...n,
            extensions: {
              ...n.extensions,
              EXT_mesh_gpu_instancing: { ...instancing, attributes: mapAll(instancing.attributes) },
            },
          }
        : n
    })
  if (json.images)
    out.images = json.images.map(i => (i.bufferView === undefined ? i : { ...i, bufferView: toView[i.bufferView] }))
  // the data that is left, one after another
  const kept = (json.bufferViews ?? []).filter((_, i) => views[i])
  let length = 0
  const places = kept.map(v => {
    const at = length
    length += pad(v.byteLength)
    return at
  })
  const data = new Uint8Array(length)
  out.bufferViews = kept.map((v, i) => {
    const from = v.byteOffset ?? 0
    data.set(buffers[v.buffer].subarray(from, from + v.byteLength), places[i])
    return { ...v, buffer: 0, byteOffset: places[i] }
  })
  if (out.accessors.length === 0) delete out.accessors
  if (out.bufferViews.length === 0) {
    delete out.bufferViews
    delete out.buffers
    return { json: out, buffers: [] }
  }
  // what the buffer was told to hold beside its bytes stays with it
  const { uri: _, byteLength: __, ...told } = json.buffers?.[0] ?? { byteLength: 0 }
  out.buffers = [{ ...told, byteLength: length }]
  return { json: out, buffers: [data] }
}

const unmarked = (marks: Marks): Set<number> => {
  const out = new Set<number>()
  marks.forEach((m, i) => {
    if (!m) out.add(i)
  })
  return out
}
