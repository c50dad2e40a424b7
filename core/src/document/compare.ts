import { floatValues, viewBytes } from './accessors'
import type { SourceFigure } from './figure'
import {
  imageOf,
  type GltfDocument,
  type GltfJson,
  type GltfMesh,
  type GltfNode,
  type GltfPrimitive,
  type TextureInfo,
} from './gltf'
import { parentsOf } from './place'

/** What of a primitive may differ because the body was moved, bound or cleaned; everything else must be as it was. */
const OWN = /^(POSITION|NORMAL|TANGENT|(JOINTS|WEIGHTS)_\d+)$/

/**
 * Compares a written document with the one it was written into: everything nobody asked to change must be the same. Nodes are
 * found by the names on their way, so nothing is taken on trust from the writer.
 * @returns what differs, a sentence each
 */
export function compareDocuments(
  source: SourceFigure,
  written: GltfDocument,
  normalMaps: readonly string[],
  shapes: readonly string[] = [],
): string[] {
  const before = source.document
  const out: string[] = []
  const differ = (what: string): void => {
    if (out.length < 20) out.push(what)
  }
  const { generator: _, ...asset } = before.json.asset
  const { generator: __, ...now } = written.json.asset
  if (!equal(asset, now)) differ('what the file tells of its origin (asset)')
  if (!equal(before.json.extras, written.json.extras)) differ('the extras of the file')
  if (!equal(withoutNumbers(before.json.extensions), withoutNumbers(written.json.extensions))) differ('the extensions of the file') // prettier-ignore
  if (!equal(before.json.cameras, written.json.cameras)) differ('the cameras')
  for (const e of before.json.extensionsUsed ?? [])
    if (!written.json.extensionsUsed?.includes(e)) differ(`the extension ${e}`)
  before.json.images?.forEach((image, i) => {
    const a = bytesOfImage(before, i)
    const b = bytesOfImage(written, i)
    const other = written.json.images?.[i]
    if (image.name !== other?.name || image.uri !== other?.uri || !sameBytes(a, b))
      differ(`the image ${image.name ?? i + 1}`)
  })
  before.json.materials?.forEach((m, i) => {
    if (normalMaps.includes(m.name || `material ${i + 1}`)) return
    if (!equal(resolved(before.json, m), resolved(written.json, written.json.materials?.[i]))) differ(`the material ${m.name ?? i + 1}`) // prettier-ignore
  })
  before.json.scenes?.forEach((s, i) => {
    const other = written.json.scenes?.[i]
    if (s.name !== other?.name || !equal(s.extras, other?.extras)) differ(`the scene ${s.name ?? i + 1}`)
  })
  compareNodes(source, written, shapes, differ)
  compareAnimations(source, written, differ)
  return out
}

/** Every node that is no joint, with its mesh, by the names of those it hangs under. */
function compareNodes(
  source: SourceFigure,
  written: GltfDocument,
  shapes: readonly string[],
  differ: (what: string) => void,
): void {
  const before = source.document
  const joints = new Set(source.way.joints)
  const leaves = partsLeft(source)
  const nodes = written.json.nodes ?? []
  const paths = pathsOf(written.json, new Set())
  const rest = new Map<string, number[]>()
  paths.forEach((path, n) => rest.set(path, [...(rest.get(path) ?? []), n]))
  const own = pathsOf(before.json, new Set(source.joints.length > 0 ? joints : []))
  const kept = new Set(source.joints.filter(r => r >= 0).map(r => source.way.joints[r]))
  before.json.nodes?.forEach((node, n) => {
    if (joints.has(n) && source.joints.length > 0 && !kept.has(n)) return
    const left = leaves.get(n)
    const called = node.name ?? `node ${n + 1}`
    let twin: GltfNode | undefined
    if (joints.has(n)) {
      // joints may hang and be called otherwise; what they carry must still be there
      const found = nodes.filter(o => equal(o.extensions, node.extensions) && o.camera === node.camera && carries(o.extras, node.extras)) // prettier-ignore
      twin = found.find(o => o.name === node.name) ?? found[0]
    } else {
      const list = rest.get(own[n])
      const at = list?.shift()
      twin = at === undefined ? nodes.find(o => o.name === node.name && equal(o.extras, node.extras)) : nodes[at]
    }
    if (!twin) {
      if (left && left.length === 0) return
      return differ(`the node ${called}`)
    }
    if (!joints.has(n) && !equal(node.extras, twin.extras)) differ(`the extras of ${called}`)
    if (!equal(node.extensions, twin.extensions)) differ(`the extensions of ${called}`)
    if (node.camera !== twin.camera) differ(`the camera of ${called}`)
    if (node.mesh === undefined || left?.length === 0) return
    const mesh = before.json.meshes![node.mesh]
    const other = twin.mesh === undefined ? undefined : written.json.meshes?.[twin.mesh]
    if (!other) return differ(`the mesh of ${called}`)
    const added = (other.primitives[0]?.targets?.length ?? 0) - (mesh.primitives[0]?.targets?.length ?? 0)
    const plain = added > 0 ? withoutShapes(other, mesh, added, shapes) : other
    if (
      mesh.name !== plain.name ||
      !equal(mesh.extras, plain.extras) ||
      !equal(mesh.weights, plain.weights) ||
      !equal(mesh.extensions, other.extensions)
    )
      // prettier-ignore
      differ(`what the mesh of ${called} tells of itself`)
    const stays = mesh.primitives.map((_, i) => i).filter(i => !left || left.includes(i))
    const lines = stays.filter(i => (mesh.primitives[i].mode ?? 4) < 4)
    const faces = stays.filter(i => !lines.includes(i))
    const rows = other.primitives.length === stays.length ? stays : faces
    if (other.primitives.length !== rows.length) return differ(`the number of surfaces of ${called}`)
    rows.forEach((i, at) => comparePrimitive(before, mesh.primitives[i], written, plain.primitives[at], called, differ))
  })
}

/** A mesh without the shapes that were to be added behind its own; as it is where what was added is something else. */
function withoutShapes(mesh: GltfMesh, before: GltfMesh, added: number, shapes: readonly string[]): GltfMesh {
  const first = before.primitives[0]?.targets?.length ?? 0
  const { targetNames, drivers = {}, ...extras } = mesh.extras as { targetNames?: string[]; drivers?: object }
  const had = (before.extras as { drivers?: object } | undefined)?.drivers
  const left = Object.fromEntries(Object.entries(drivers).filter(([n]) => !shapes.includes(n)))
  const names = targetNames?.slice(first) ?? []
  const asked = names.length === added && names.every(n => shapes.includes(n))
  if (!asked) return mesh
  const named = (before.extras as { targetNames?: string[] } | undefined)?.targetNames
  const weights = mesh.weights?.slice(0, first) ?? []
  const own = Array.isArray(named)
    ? { ...extras, ...(had && { drivers: left }), targetNames: targetNames!.slice(0, named.length) }
    : extras
  return {
    ...mesh,
    extras: before.extras === undefined && Object.keys(own).length === 0 ? undefined : own,
    // where nothing was told of them, shapes rest
    weights: before.weights || weights.some(w => w !== 0) ? weights : undefined,
    primitives: mesh.primitives.map(p => {
      const { targets, ...rest } = p
      return first > 0 ? { ...rest, targets: targets?.slice(0, first) } : rest
    }),
  }
}

/** Which primitives of each node's mesh are still wanted; nodes not told here keep all. */
function partsLeft({ way, parts }: SourceFigure): Map<number, number[]> {
  const wanted = new Set(parts.map(p => p.from))
  const out = new Map<number, number[]>()
  for (const { node, primitives } of way.runs) {
    const list = out.get(node) ?? []
    for (const { index, part } of primitives) if (wanted.has(part)) list.push(index)
    out.set(node, list)
  }
  for (const list of out.values()) list.sort((a, b) => a - b)
  return out
}

function comparePrimitive(
  before: GltfDocument,
  a: GltfPrimitive,
  written: GltfDocument,
  b: GltfPrimitive,
  called: string,
  differ: (what: string) => void,
): void {
  for (const [semantic, index] of Object.entries(a.attributes)) {
    if (OWN.test(semantic)) continue
    const other = b.attributes[semantic]
    if (other === undefined || !sameValues(floatValues(before, index), floatValues(written, other)))
      differ(`${semantic} of ${called}`)
  }
  if (a.material !== b.material) differ(`the material of ${called}`)
  if ((a.targets?.length ?? 0) !== (b.targets?.length ?? 0)) differ(`the morph shapes of ${called}`)
  a.targets?.forEach((t, i) => {
    for (const semantic of Object.keys(t)) {
      const other = b.targets?.[i]?.[semantic]
      if (other === undefined) differ(`${semantic} of morph shape ${i + 1} of ${called}`)
      else if (!OWN.test(semantic) && !sameValues(floatValues(before, t[semantic]), floatValues(written, other)))
        differ(`${semantic} of morph shape ${i + 1} of ${called}`)
    }
  })
  if (!equal(a.extras, b.extras) || !equal(a.extensions, b.extensions))
    differ(`what a surface of ${called} tells of itself`)
}

/** Motion of what is no joint, and of morph shapes. */
function compareAnimations(source: SourceFigure, written: GltfDocument, differ: (what: string) => void): void {
  const before = source.document
  const joints = new Set(source.way.joints)
  const dropped = new Set(source.way.takes.filter((_, i) => !source.takeFrom.includes(i)))
  const count = (d: GltfDocument, animation: number): number =>
    d.json.animations![animation].channels.filter(c => c.target.path === 'weights').length
  const names = new Map<string, number>()
  written.json.animations?.forEach((_, i) => {
    const name = written.json.animations![i].name ?? ''
    names.set(name, (names.get(name) ?? 0) + count(written, i))
  })
  before.json.animations?.forEach((a, i) => {
    if (dropped.has(i)) return
    const shapes = count(before, i)
    if (
      shapes > 0 &&
      (names.get(a.name ?? '') ?? 0) < shapes &&
      a.channels.some(c => c.target.node === undefined || !joints.has(c.target.node))
    )
      // prettier-ignore
      differ(`the motion of morph shapes in ${a.name ?? `animation ${i + 1}`}`)
  })
}

/** The names from the top down to every node, those between left out. */
function pathsOf(json: GltfJson, without: ReadonlySet<number>): string[] {
  const parents = parentsOf(json)
  return (json.nodes ?? []).map((_, n) => {
    const way: string[] = []
    for (let p = n; p >= 0; p = parents[p]) if (p === n || !without.has(p)) way.push(json.nodes![p].name ?? '')
    return way.reverse().join('\u0000')
  })
}

const carries = (all: unknown, some: unknown): boolean =>
  some === undefined || typeof some !== 'object' || some === null
    ? true
    : Object.entries(some).every(
        ([k, v]) => k === 'role' || k === 'tip' || equal((all as Record<string, unknown> | undefined)?.[k], v),
      )

const bytesOfImage = (document: GltfDocument, i: number): Uint8Array | undefined =>
  viewBytes(document, document.json.images?.[i]?.bufferView)

const sameBytes = (a: Uint8Array | undefined, b: Uint8Array | undefined): boolean =>
  a === undefined || b === undefined ? a === b : a.length === b.length && a.every((v, i) => v === b[i])

function sameValues(a: Float32Array, b: Float32Array): boolean {
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i] && !(Number.isNaN(a[i]) && Number.isNaN(b[i]))) return false
  return true
}

/** A material with its textures told by image and sampler and not by number. */
function resolved(json: GltfJson, material: unknown): unknown {
  const walk = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(walk)
    if (typeof value !== 'object' || value === null) return value
    const out: Record<string, unknown> = {}
    for (const [key, part] of Object.entries(value)) out[key] = walk(part)
    const { index } = value as Partial<TextureInfo>
    const texture = typeof index === 'number' ? json.textures?.[index] : undefined
    if (texture) {
      out.index = {
        image: imageOf(texture),
        sampler: texture.sampler === undefined ? null : json.samplers?.[texture.sampler],
      }
    }
    return out
  }
  return walk(material)
}

/** Extensions of the file without the numbers of nodes in them, which may change. */
const withoutNumbers = (extensions: unknown): unknown =>
  extensions === undefined
    ? undefined
    : JSON.parse(JSON.stringify(extensions, (key, value: unknown) => (key === 'node' ? 0 : value)))

function equal(a: unknown, b: unknown): boolean {
  if (a === b) return true
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false
  if (Array.isArray(a) !== Array.isArray(b)) return false
  const x = a as Record<string, unknown>
  const y = b as Record<string, unknown>
  const keys = new Set([...Object.keys(x), ...Object.keys(y)])
  for (const key of keys) if (!equal(x[key], y[key])) return false
  return true
}
