import {
  COMPONENT_BYTES,
  pad,
  TYPE_SIZE,
  Draft,
  floatValues,
  rawValues,
  sweep,
  type GltfAccessor,
  type GltfDocument,
  type GltfJson,
  type GltfPrimitive,
} from '../document'
import { maxOf } from '../math'
import { byteWeights, signed, unsigned, within } from './whole-numbers'

export const QUANTIZATION = 'KHR_mesh_quantization'

/** Extensions whose data can be followed here. */
const FOLLOWED =
  /^(KHR_materials_|KHR_texture_|EXT_texture_(webp|avif)$|KHR_lights_punctual$|KHR_mesh_quantization$|KHR_node_|KHR_xmp|VRMC_)/

/**
 * A document with the numbers of its vertices and turns in whole numbers: places of bound meshes in 16 bits of the box they fill
 * (told by their bind matrices, so that no node moves), normals and tangents in 8, coordinates of images in 16, weights in 8,
 * turns of takes in 16. What is no mesh of a skin keeps its places as they are.
 *
 * After KHR_mesh_quantization (Khronos Group 2019).
 */
export function quantized(source: GltfDocument): {
  readonly document: GltfDocument
  readonly notes: readonly string[]
} {
  const unknown = source.json.extensionsUsed?.find(e => !FOLLOWED.test(e))
  if (unknown)
    return { document: source, notes: [`The file uses ${unknown}, whose data cannot be followed here; its numbers stay as they are.`] } // prettier-ignore
  const draft = new Draft(source)
  const { json } = draft
  const asked = placesInBoxes(draft, source)
  const known = new Map<string, number>()
  /** Each accessor of a kind is written once. */
  const once = (key: string, write: () => number): number => {
    const there = known.get(key)
    if (there !== undefined) return there
    const made = write()
    known.set(key, made)
    return made
  }
  for (const mesh of json.meshes ?? []) for (const p of mesh.primitives) pack(p)
  turnsInWholeNumbers(draft, source, once)
  if (asked || known.size > 0) {
    const add = (list: string[] | undefined): string[] => [...new Set([...(list ?? []), QUANTIZATION])]
    json.extensionsUsed = add(json.extensionsUsed)
    json.extensionsRequired = add(json.extensionsRequired)
  }
  return {
    document: sweep(draft.done(), { nodes: new Set(), skins: new Set(), meshes: new Set() }),
    notes: [],
  }

  function pack(p: GltfPrimitive): void {
    const sets = Object.keys(p.attributes).filter(s => /^WEIGHTS_\d+$/.test(s))
    const weights = sets.map(s => p.attributes[s])
    // all sets of a vertex sum to one together
    const plain = weights.every(at => {
      const a = source.json.accessors![at]
      return a.componentType === BYTE || a.sparse !== undefined
    })
    for (const [semantic, at] of Object.entries(p.attributes)) {
      const a = source.json.accessors![at]
      // places in boxes are new already
      if (!a || a.sparse) continue
      if (plain || !sets.includes(semantic)) p.attributes[semantic] = vertexNumbers(semantic, at, a)
    }
    if (plain) return
    const key = `w${weights.join()}`
    if (!known.has(`${key}/0`))
      byteWeights(weights.map(at => floatValues(source, at, 4))).forEach((values, k) =>
        once(`${key}/${k}`, () => draft.accessor(values, 'VEC4', { use: 'attribute', normalized: true })),
      )
    sets.forEach((s, k) => {
      p.attributes[s] = known.get(`${key}/${k}`)!
    })
  }

  /** Numbers of vertices in fewer bytes, where they have a form of fewer. */
  function vertexNumbers(semantic: string, at: number, a: GltfAccessor): number {
    const attribute = { use: 'attribute', normalized: true } as const
    const float = a.componentType === FLOAT
    const { count } = a
    if (float && (semantic === 'NORMAL' || semantic === 'TANGENT'))
      return once(`d${at}`, () =>
        draft.accessor(signed(floatValues(source, at), new Int8Array(TYPE_SIZE[a.type] * count)), a.type, attribute),
      )
    if (float && /^(TEXCOORD|COLOR)_\d+$/.test(semantic)) {
      const values = floatValues(source, at)
      if (within(values, 0, 1)) return once(`u${at}`, () => draft.accessor(unsigned(values), a.type, attribute))
    }
    if (a.componentType === SHORT && /^JOINTS_\d+$/.test(semantic)) {
      const values = rawValues(source, at)
      if (values.every(v => v < 256))
        return once(`j${at}`, () => draft.accessor(Uint8Array.from(values), 'VEC4', { use: 'attribute' }))
    }
    // what lies woven among numbers that go lies by itself
    const { byteStride = 0 } = source.json.bufferViews?.[a.bufferView ?? -1] ?? {}
    if (byteStride <= pad(COMPONENT_BYTES[a.componentType] * TYPE_SIZE[a.type])) return at
    return once(`a${at}`, () =>
      draft.accessor(rawValues(source, at), a.type, {
        use: 'attribute',
        ...(a.normalized && { normalized: true }),
        bounds: a.min !== undefined,
      }),
    )
  }
}

const BYTE = 5121
const SHORT = 5123
const FLOAT = 5126

/** Places of bound meshes as shares of the box they fill; bind matrices carry them back. @returns whether there are any */
function placesInBoxes(draft: Draft, source: GltfDocument): boolean {
  const { json } = draft
  let any = false
  for (const { meshes, skins } of boxesOf(json)) {
    const low = [Infinity, Infinity, Infinity]
    const high = [-Infinity, -Infinity, -Infinity]
    let farthest = 0
    const places = new Map<number, Float32Array>()
    const shifts = new Map<number, Float32Array>()
    for (const m of meshes)
      for (const p of json.meshes![m].primitives) {
        places.set(p.attributes.POSITION, floatValues(source, p.attributes.POSITION))
        for (const t of p.targets ?? [])
          if (t.POSITION !== undefined) shifts.set(t.POSITION, floatValues(source, t.POSITION))
      }
    for (const values of places.values())
      for (let i = 0; i < values.length; i++) {
        const k = i % 3
        if (values[i] < low[k]) low[k] = values[i]
        if (values[i] > high[k]) high[k] = values[i]
      }
    for (const values of shifts.values()) for (const v of values) farthest = Math.max(farthest, Math.abs(v))
    const middle = low.map((l, k) => (l + high[k]) / 2)
    const reach = maxOf(low.map((l, k) => (high[k] - l) / 2))
    const half = Math.max(farthest, reach)
    // shapes that go far beyond the body would take the fineness from it
    if (!(half > 0) || !Number.isFinite(half) || half > 1.2 * reach) continue
    any = true
    const written = new Map<number, number>()
    for (const [at, values] of places) {
      const shares = Float32Array.from(values, (v, i) => (v - middle[i % 3]) / half)
      written.set(
        at,
        draft.accessor(signed(shares, new Int16Array(values.length)), 'VEC3', { use: 'attribute', normalized: true, bounds: true }), // prettier-ignore
      )
    }
    for (const [at, values] of shifts) {
      const shares = Float32Array.from(values, v => v / half)
      const moved: number[] = []
      for (let v = 0; v < values.length / 3; v++)
        if (values[3 * v] || values[3 * v + 1] || values[3 * v + 2]) moved.push(v)
      // few that move are told alone
      written.set(
        at,
        moved.length * 16 < (values.length / 3) * 8
          ? draft.sparse(shares, 'VEC3', moved)
          : draft.accessor(signed(shares, new Int16Array(values.length)), 'VEC3', { use: 'attribute', normalized: true, bounds: true }), // prettier-ignore
      )
    }
    for (const m of meshes)
      for (const p of json.meshes![m].primitives) {
        p.attributes.POSITION = written.get(p.attributes.POSITION)!
        for (const t of p.targets ?? []) if (t.POSITION !== undefined) t.POSITION = written.get(t.POSITION)!
      }
    for (const s of skins) {
      const skin = json.skins![s]
      const told = floatValues(source, skin.inverseBindMatrices!)
      const out = new Float32Array(told.length)
      for (let j = 0; j < told.length; j += 16) {
        for (let r = 0; r < 4; r++) {
          for (let c = 0; c < 3; c++) out[j + 4 * c + r] = told[j + 4 * c + r] * half
          out[j + 12 + r] =
            told[j + r] * middle[0] + told[j + 4 + r] * middle[1] + told[j + 8 + r] * middle[2] + told[j + 12 + r]
        }
      }
      skin.inverseBindMatrices = draft.accessor(out, 'MAT4')
    }
  }
  return any
}

/** Meshes and skins that share a box: those that hang together by who wears what, or share their places. */
function boxesOf(json: GltfJson): { readonly meshes: readonly number[]; readonly skins: readonly number[] }[] {
  const meshes = json.meshes?.length ?? 0
  const skins = json.skins?.length ?? 0
  const group = Int32Array.from({ length: meshes + skins }, (_, i) => i)
  const root = (i: number): number => (group[i] === i ? i : (group[i] = root(group[i])))
  const join = (a: number, b: number): void => {
    group[root(a)] = root(b)
  }
  // one without a skin, without matrices, or not told plainly keeps all that hang together with it as they are
  const barred = new Set<number>()
  for (const { mesh, skin } of json.nodes ?? []) {
    if (mesh === undefined) continue
    if (skin === undefined || json.skins![skin].inverseBindMatrices === undefined) barred.add(mesh)
    else join(mesh, meshes + skin)
  }
  const owner = new Map<number, number>()
  const shared = (accessor: number, mesh: number): void => {
    const known = owner.get(accessor)
    if (known === undefined) owner.set(accessor, mesh)
    else join(known, mesh)
  }
  json.meshes?.forEach((m, i) => {
    for (const p of m.primitives) {
      const at = p.attributes.POSITION
      const a = at === undefined ? undefined : json.accessors![at]
      if (!a || a.componentType !== FLOAT || a.sparse || a.bufferView === undefined) barred.add(i)
      else shared(at, i)
      for (const t of p.targets ?? [])
        if (t.POSITION !== undefined) {
          if (json.accessors![t.POSITION].componentType !== FLOAT) barred.add(i)
          shared(t.POSITION, i)
        }
    }
  })
  const worn = new Set((json.nodes ?? []).flatMap(n => (n.mesh === undefined ? [] : [n.mesh])))
  const bars = new Set([...barred].map(root))
  const out = new Map<number, { meshes: number[]; skins: number[] }>()
  for (let i = 0; i < meshes + skins; i++) {
    const r = root(i)
    if (bars.has(r)) continue
    const own = out.get(r) ?? { meshes: [], skins: [] }
    if (i >= meshes) own.skins.push(i - meshes)
    else if (worn.has(i)) own.meshes.push(i)
    out.set(r, own)
  }
  return [...out.values()].filter(b => b.meshes.length > 0 && b.skins.length > 0)
}

/** Turns of takes in 16 bits; those of curved keys, whose slopes know no bounds, stay. */
function turnsInWholeNumbers(
  draft: Draft,
  source: GltfDocument,
  once: (key: string, write: () => number) => number,
): void {
  for (const animation of draft.json.animations ?? []) {
    const turning = new Set(animation.channels.filter(c => c.target.path === 'rotation').map(c => c.sampler))
    const others = new Set(animation.channels.filter(c => c.target.path !== 'rotation').map(c => c.sampler))
    animation.samplers = animation.samplers.map((s, i) => {
      const a = draft.json.accessors![s.output]
      const plain = a.componentType === FLOAT && a.type === 'VEC4' && s.interpolation !== 'CUBICSPLINE'
      if (!turning.has(i) || others.has(i) || !plain) return s
      const output = once(`q${s.output}`, () =>
        draft.accessor(signed(floatValues(source, s.output), new Int16Array(4 * a.count)), 'VEC4', {
          normalized: true,
        }),
      )
      return { ...s, output }
    })
  }
}
