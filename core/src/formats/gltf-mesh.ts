import type { Document, Material as GltfMaterial, Node, Primitive, Skin as GltfSkin } from '@gltf-transform/core'
import {
  ChiraxisError,
  decompose,
  invertAffine,
  multiplyMat4,
  compose,
  quatAt,
  vec3At,
  type Mat4,
  type Vec3,
  maxOf,
} from '../math'
import type { SourceRun } from '../document'
import { joinMeshes, partsApart, PLAIN_COLOR, transformMesh, type Mesh, type Morph } from '../mesh'
import type { Skin } from '../skin'
import type { BindReading, BindSkin } from './bind-pose'
import { floats } from './gltf-floats'

interface Piece {
  /** Where it came from in the document, and how it was put in place. */
  readonly from: { readonly node: number; readonly mesh: number; readonly skin: number; readonly primitives: number[] }
  world?: Mat4
  mesh: Mesh
  joints?: Uint16Array
  weights?: Float32Array
  influences: number
  rigidOn: number
}

/** Weight sets that are read: sixteen influences a vertex are more than any program writes on purpose. */
const MOST_SETS = 4

/**
 * Every mesh of the scene as one body: parts in file order, each where it belongs bound, skin of all sets,
 * morphs by name. A mesh that hangs on a joint without a skin of its own moves rigidly with that joint.
 */
export function readMeshes(
  document: Document,
  nodes: readonly Node[],
  jointNodes: readonly Node[],
  bound: BindReading,
  skins: ReadonlyMap<GltfSkin, BindSkin>,
  materials: ReadonlyMap<GltfMaterial, number>,
): { mesh?: Mesh; skin?: Skin; runs: SourceRun[] } {
  const index = new Map(jointNodes.map((n, i) => [n, i]))
  const root = document.getRoot()
  const numberOf = <T>(list: readonly T[]): Map<T | null, number> => new Map(list.map((item, i) => [item, i]))
  const places = {
    node: numberOf(root.listNodes()),
    mesh: numberOf(root.listMeshes()),
    skin: numberOf(root.listSkins()),
  }
  const pieces: Piece[] = []
  const accessors = new Map<object | null, number>(
    document
      .getRoot()
      .listAccessors()
      .map((a, i) => [a, i]),
  )
  for (const node of nodes) {
    const mesh = node.getMesh()
    if (!mesh) continue
    const told = mesh.getExtras() as { parts?: unknown; targetNames?: unknown }
    // primitives that share all vertices stay one piece with several parts
    const sharing = new Map<string, Piece>()
    mesh.listPrimitives().forEach((primitive, i) => {
      const own = Array.isArray(told.parts) && typeof told.parts[i] === 'string' ? told.parts[i] : undefined
      const name = own ?? (node.getName() || mesh.getName() || 'body')
      const key = vertexKey(accessors, primitive)
      const shared = sharing.get(key)
      const from = {
        node: places.node.get(node)!,
        mesh: places.mesh.get(mesh)!,
        skin: places.skin.get(node.getSkin()) ?? -1,
        primitives: [],
      }
      const read = readPrimitive(primitive, node, name, index, bound, skins, materials, told.targetNames, shared, from)
      if (!read) return
      read.from.primitives.push(i)
      if (shared) return
      sharing.set(key, read)
      pieces.push(read)
    })
  }
  if (pieces.length === 0) return { runs: [] }
  let first = 0
  let part = 0
  const runs = pieces.map(({ from, world, mesh }): SourceRun => {
    const start = first
    first += mesh.positions.length / 3
    const primitives = from.primitives.map(index => ({ index, part: part++ }))
    const { node, skin } = from
    return { node, mesh: from.mesh, skin, start, count: mesh.positions.length / 3, primitives, ...(world && { world }) }
  })
  const influences = maxOf(pieces.map(p => p.influences))
  const hasSkin = pieces.some(p => p.influences > 0 || p.rigidOn >= 0) && jointNodes.length > 0 && influences > 0
  const joined = joinMeshes(pieces.map(p => p.mesh))
  const listed = root.listMaterials()
  const mesh = {
    ...joined,
    parts: partsApart(
      joined.parts,
      pieces.flatMap(p => p.mesh.parts.map(part => hintsOf(part, p))),
    ),
  }
  const vertices = mesh.positions.length / 3
  function hintsOf(part: Mesh['parts'][number], { from }: Piece): { material?: string; above?: string } {
    const material = part.material === undefined ? '' : listed[part.material].getName()
    const above = root.listNodes()[from.node].getParentNode()?.getName()
    return { ...(material && { material }), ...(above && { above }) }
  }
  let skin: Skin | undefined
  if (hasSkin) {
    const joints = new Uint16Array(influences * vertices)
    const weights = new Float32Array(influences * vertices)
    let v = 0
    for (const p of pieces) {
      const n = p.mesh.positions.length / 3
      for (let i = 0; i < n; i++) {
        const to = (v + i) * influences
        if (p.joints && p.weights)
          for (let k = 0; k < p.influences; k++) {
            joints[to + k] = p.joints[i * p.influences + k]
            weights[to + k] = p.weights[i * p.influences + k]
          }
        else {
          joints[to] = Math.max(0, p.rigidOn)
          weights[to] = 1
        }
      }
      v += n
    }
    skin = { influences, joints, weights }
  }
  return { mesh, skin, runs }
}

/** Primitives with the same attributes share their vertices. */
function vertexKey(place: ReadonlyMap<object | null, number>, primitive: Primitive): string {
  return (
    primitive
      .listSemantics()
      .map(s => `${s}:${place.get(primitive.getAttribute(s))}`)
      .join() +
    primitive
      .listTargets()
      .map(t => place.get(t.getAttribute('POSITION')))
      .join()
  )
}

function readPrimitive(
  primitive: Primitive,
  node: Node,
  name: string,
  index: ReadonlyMap<Node, number>,
  bound: BindReading,
  skins: ReadonlyMap<GltfSkin, BindSkin>,
  materials: ReadonlyMap<GltfMaterial, number>,
  targetNames: unknown,
  shared: Piece | undefined,
  from: Piece['from'],
): Piece | undefined {
  const position = primitive.getAttribute('POSITION')
  if (!position || position.getElementSize() !== 3) return undefined
  const count = position.getCount()
  const indices = trianglesOf(primitive.getMode(), primitive.getIndices()?.getArray() ?? undefined, count)
  if (!indices) return undefined
  for (let i = 0; i < indices.length; i++) {
    if (indices[i] >= count)
      throw new ChiraxisError(
        'index-range',
        `Triangle ${Math.floor(i / 3)} of ${name} names vertex ${indices[i]}, but there are only ${count}; the file is damaged.`,
      )
  }
  const material = primitive.getMaterial()
  const base = material?.getBaseColorFactor() ?? PLAIN_COLOR
  const meshName = node.getMesh()!.getName()
  const part = {
    name,
    // a name told by this program for the surface itself is the only one
    ...(meshName && meshName !== name && name === node.getName() && { aka: [name, meshName] }),
    color: [base[0], base[1], base[2]] as Vec3,
    ...(material && { material: materials.get(material) }),
  }
  if (shared) {
    const joined = new Uint32Array(shared.mesh.indices.length + indices.length)
    joined.set(shared.mesh.indices)
    joined.set(flipLike(indices, node), shared.mesh.indices.length)
    shared.mesh = {
      ...shared.mesh,
      indices: joined,
      parts: [...shared.mesh.parts, { ...part, start: shared.mesh.indices.length, count: indices.length }],
    }
    return shared
  }
  const optional = (semantic: string, size: number): Float32Array | undefined => {
    const a = primitive.getAttribute(semantic)
    return a && a.getCount() === count ? floats(a, size) : undefined
  }
  const morphs = primitive.listTargets().flatMap((target, i): Morph[] => {
    const a = target.getAttribute('POSITION')
    const told = Array.isArray(targetNames) && typeof targetNames[i] === 'string' ? targetNames[i] : ''
    return a && a.getCount() === count ? [{ name: told || `morph ${i + 1}`, offsets: floats(a, 3) }] : []
  })
  let mesh: Mesh = {
    positions: floats(position, 3),
    indices,
    normals: optional('NORMAL', 3),
    colors: optional('COLOR_0', 3),
    uvs: optional('TEXCOORD_0', 2),
    parts: [{ ...part, start: 0, count: indices.length }],
    ...(morphs.length > 0 && { morphs }),
  }
  const skinOf = node.getSkin()
  const read = skinOf && readWeights(primitive, skinOf, count, name, index)
  if (skinOf && read) {
    const place = bound.place.get(skins.get(skinOf)!)
    if (place) return { from, world: place, mesh: isIdentity(place) ? mesh : transformMesh(mesh, place), ...read, rigidOn: -1 } // prettier-ignore
    const still = mesh
    mesh = toDisplayed(mesh, skinOf, primitive, read.influences / 4)
    return { from, ...(mesh === still && { world: IDENTITY }), mesh, ...read, rigidOn: -1 }
  }
  const m = node.getWorldMatrix() as Mat4
  const rigidOn = carrierOf(node, index)
  const world = rigidOn >= 0 && bound.bind ? multiplyMat4(restToBind(rigidOn, jointOf(node, index), bound), m) : m
  if (!isIdentity(world)) mesh = transformMesh(mesh, world)
  return { from, world, mesh, influences: 0, rigidOn }
}

/** Faces of later primitives are turned round where their node mirrors, as the first one's were. */
function flipLike(indices: Uint32Array, node: Node): Uint32Array {
  if (node.getSkin()) return indices
  const { scale } = decompose(node.getWorldMatrix() as Mat4)
  if (scale[0] * scale[1] * scale[2] >= 0) return indices
  const out = indices.slice()
  for (let f = 0; f < out.length; f += 3) [out[f + 1], out[f + 2]] = [out[f + 2], out[f + 1]]
  return out
}

const IDENTITY: Mat4 = Float64Array.from({ length: 16 }, (_, i) => (i % 5 === 0 ? 1 : 0))

/** Corners of triangles by mode: a list, a strip (every other one turned round), a fan; undefined for points and lines. */
function trianglesOf(mode: number, source: ArrayLike<number> | undefined, count: number): Uint32Array | undefined {
  const n = source?.length ?? count
  const at = (i: number): number => (source ? source[i] : i)
  if (mode === 4) return Uint32Array.from({ length: n - (n % 3) }, (_, i) => at(i))
  if ((mode !== 5 && mode !== 6) || n < 3) return undefined
  const out = new Uint32Array(3 * (n - 2))
  for (let i = 0; i < n - 2; i++) {
    const [a, b, c] = mode === 6 ? [0, i + 1, i + 2] : i % 2 ? [i + 1, i, i + 2] : [i, i + 1, i + 2]
    out[3 * i] = at(a)
    out[3 * i + 1] = at(b)
    out[3 * i + 2] = at(c)
  }
  return out
}

const isIdentity = (m: Mat4): boolean => Array.from(m).every((v, i) => Math.abs(v - (i % 5 === 0 ? 1 : 0)) < 1e-7)

function jointOf(node: Node, index: ReadonlyMap<Node, number>): Node {
  for (let p: Node | null = node; p; p = p.getParentNode()) if (index.has(p)) return p
  return node
}

const carrierOf = (node: Node, index: ReadonlyMap<Node, number>): number => index.get(jointOf(node, index)) ?? -1

/** From where a joint stands at rest to where it stood when bound. */
function restToBind(j: number, node: Node, bound: BindReading): Mat4 {
  const { translation, rotation } = decompose(node.getWorldMatrix() as Mat4)
  const rest = invertAffine(compose(translation, rotation))!
  return multiplyMat4(compose(vec3At(bound.bind!.positions, j), quatAt(bound.bind!.rotations, j)), rest)
}

function readWeights(
  primitive: Primitive,
  skin: GltfSkin,
  count: number,
  name: string,
  index: ReadonlyMap<Node, number>,
): { joints: Uint16Array; weights: Float32Array; influences: number } | undefined {
  const sets = Array.from({ length: MOST_SETS }, (_, s) => ({
    j: primitive.getAttribute(`JOINTS_${s}`),
    w: primitive.getAttribute(`WEIGHTS_${s}`),
  })).filter(s => s.j && s.w && s.j.getCount() === count && s.w.getCount() === count)
  if (sets.length === 0) return undefined
  const influences = 4 * sets.length
  const joints = new Uint16Array(influences * count)
  const weights = new Float32Array(influences * count)
  const list = skin.listJoints()
  const remap = list.map(n => index.get(n) ?? 0)
  sets.forEach(({ j, w }, s) => {
    const js = floats(j!, 4)
    const ws = floats(w!, 4)
    for (let v = 0; v < count; v++)
      for (let k = 0; k < 4; k++) {
        const joint = js[4 * v + k]
        const weight = ws[4 * v + k]
        if (Number.isNaN(weight))
          throw new ChiraxisError(
            'not-finite',
            `Vertex ${v} of ${name} has a weight that is not a number; the file is damaged.`,
          )
        if (weight > 0 && joint >= list.length)
          throw new ChiraxisError(
            'index-range',
            `Vertex ${v} of ${name} is bound to joint ${joint}, which does not exist.`,
          )
        joints[v * influences + 4 * s + k] = weight > 0 ? remap[joint] : 0
        weights[v * influences + 4 * s + k] = Math.max(0, weight)
      }
  })
  return { joints, weights, influences }
}

/** A skinned mesh as it stands on its joints at rest, where no bind pose of turns and shifts explains it. */
function toDisplayed(mesh: Mesh, skin: GltfSkin, primitive: Primitive, sets: number): Mesh {
  const inverse = skin.getInverseBindMatrices()
  const element: number[] = []
  const matrices = skin.listJoints().map((joint, i) => {
    if (!inverse || i >= inverse.getCount()) return Float64Array.from(joint.getWorldMatrix())
    inverse.getElement(i, element)
    return multiplyMat4(joint.getWorldMatrix(), element)
  })
  if (matrices.every(isIdentity)) return mesh
  const out = new Float32Array(mesh.positions.length)
  for (let s = 0; s < sets; s++) {
    const js = floats(primitive.getAttribute(`JOINTS_${s}`)!, 4)
    const ws = floats(primitive.getAttribute(`WEIGHTS_${s}`)!, 4)
    for (let v = 0; v < out.length / 3; v++) {
      const [x, y, z] = vec3At(mesh.positions, v)
      for (let k = 0; k < 4; k++) {
        const w = ws[4 * v + k]
        const m = matrices[js[4 * v + k]]
        if (w <= 0 || !m) continue
        for (let r = 0; r < 3; r++) out[3 * v + r] += w * (m[r] * x + m[4 + r] * y + m[8 + r] * z + m[12 + r])
      }
    }
  }
  return { ...mesh, positions: out, normals: undefined, morphs: undefined }
}
