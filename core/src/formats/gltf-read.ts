import { WebIO, type Accessor, type Animation, type Document, type Node, type Primitive, type Skin as GltfSkin } from '@gltf-transform/core'
import { ChiraxisError, decompose, multiplyMat4, rotate, vec3At, type Vec3 } from '../math'
import { checkMesh, transformMesh, vertexNormals, type Mesh, type MeshPart } from '../mesh'
import { skeletonFromWorld, type Skeleton, type WorldJoint } from '../skeleton'
import type { Skin } from '../skin'
import { checkGltf, GLTF_LIMITS, isGlb } from './gltf-check'
import { floats } from './gltf-floats'
import { readTake } from './gltf-take'
import type { Received } from './received'

/**
 * Reads a GLB or a self-contained glTF through the glTF SDK: every mesh of the scene as one body with
 * parts, vertex colours, one skeleton with roles where they are told, skin, and takes at even steps.
 * Texture images, morphs and cameras are not kept and are named in `dropped`.
 * @throws ChiraxisError for every damaged, oversized or unsupported file
 */
export async function readGltf(bytes: Uint8Array): Promise<Received> {
  const json = checkGltf(bytes)
  let document: Document
  try {
    const io = new WebIO()
    document = isGlb(bytes)
      ? await io.readBinary(bytes)
      : await io.readJSON({ json: json as never, resources: {} })
  } catch (error) {
    throw new ChiraxisError('bad-syntax', 'The glTF file could not be read: some of its data is missing or damaged. Files beside a .gltf must be embedded; a .glb holds everything.', { reason: String(error) })
  }
  const root = document.getRoot()
  const scene = root.getDefaultScene() ?? root.listScenes()[0]
  const nodes: Node[] = []
  const visit = (node: Node): void => {
    nodes.push(node)
    node.listChildren().forEach(visit)
  }
  if (scene) scene.listChildren().forEach(visit)
  else root.listNodes().filter(n => !n.getParentNode()).forEach(visit)

  const jointNodes = jointsOf(nodes, root.listSkins(), root.listAnimations())
  const skeleton = jointNodes.length > 0 ? readSkeleton(jointNodes) : undefined
  const { mesh, skin } = readMeshes(nodes, jointNodes)
  if (!mesh && !skeleton) throw new ChiraxisError('no-triangles', 'The file holds neither triangles nor a skeleton, so there is nothing to work on.')
  if (mesh) checkMesh(mesh)
  const parents = skeleton ? [...skeleton.parents] : []
  const takes = skeleton ? root.listAnimations().map((a, i) => readTake(a, jointNodes, parents, nodes, i)).filter(t => t !== undefined) : []
  const dropped: string[] = []
  if (root.listTextures().length > 0) dropped.push('Texture images are not kept yet; plain colours are.')
  if (root.listMeshes().some(m => m.listPrimitives().some(p => p.listTargets().length > 0))) dropped.push('Morph shapes are not kept yet.')
  return { format: isGlb(bytes) ? 'glb' : 'gltf', mesh, skeleton, skin, takes, dropped }
}

function jointsOf(nodes: readonly Node[], skins: readonly GltfSkin[], animations: readonly Animation[]): Node[] {
  const wanted = new Set<Node>(skins.flatMap(s => s.listJoints()))
  if (wanted.size === 0) {
    // a recording without a body: the tree under whatever moves
    const moved = animations.flatMap(a => a.listChannels().map(c => c.getTargetNode())).filter((n): n is Node => n !== null && !n.getMesh())
    for (const node of moved) {
      wanted.add(node)
      node.traverse(n => { if (!n.getMesh()) wanted.add(n) })
    }
  }
  if (wanted.size > GLTF_LIMITS.joints) throw new ChiraxisError('too-large', `The skeleton has ${wanted.size} joints; at most ${GLTF_LIMITS.joints} can be read.`)
  return nodes.filter(n => wanted.has(n))
}

const parentJoint = (node: Node, index: ReadonlyMap<Node, number>): number => {
  for (let p = node.getParentNode(); p; p = p.getParentNode()) {
    const i = index.get(p)
    if (i !== undefined) return i
  }
  return -1
}

function readSkeleton(joints: readonly Node[]): Skeleton {
  const index = new Map(joints.map((n, i) => [n, i]))
  const world = joints.map((node, j): WorldJoint => {
    const { translation, rotation } = decompose(node.getWorldMatrix())
    if (![...translation, ...rotation].every(Number.isFinite)) throw new ChiraxisError('not-finite', `The joint ${node.getName() || j} has a place that is not a number; the file is damaged.`)
    const extras = node.getExtras() as { role?: unknown; tip?: unknown }
    const tip = Array.isArray(extras.tip) && extras.tip.length === 3 && extras.tip.every(Number.isFinite) ? (extras.tip as Vec3) : undefined
    return {
      name: node.getName() || `joint ${j + 1}`, parent: parentJoint(node, index), position: translation, rotation,
      role: typeof extras.role === 'string' ? extras.role : undefined,
      tip: tip && (rotate(rotation, tip).map((v, k) => v + translation[k]) as Vec3),
    }
  })
  return skeletonFromWorld(world)
}

interface Piece { mesh: Mesh; part: string; color: Vec3; joints?: Uint16Array; weights?: Float32Array; influences: number }

function readMeshes(nodes: readonly Node[], jointNodes: readonly Node[]): { mesh?: Mesh; skin?: Skin } {
  const index = new Map(jointNodes.map((n, i) => [n, i]))
  const pieces: Piece[] = []
  for (const node of nodes) {
    const mesh = node.getMesh()
    if (!mesh) continue
    const told = (mesh.getExtras() as { parts?: unknown }).parts
    mesh.listPrimitives().forEach((primitive, i) => {
      const name = Array.isArray(told) && typeof told[i] === 'string' ? told[i] : mesh.getName() || node.getName() || 'body'
      const piece = readPrimitive(primitive, node, name, index)
      if (piece) pieces.push(piece)
    })
  }
  if (pieces.length === 0) return {}
  const vertices = pieces.reduce((n, p) => n + p.mesh.positions.length / 3, 0)
  const corners = pieces.reduce((n, p) => n + p.mesh.indices.length, 0)
  const positions = new Float32Array(3 * vertices)
  const normals = new Float32Array(3 * vertices)
  const colors = pieces.some(p => p.mesh.colors) ? new Float32Array(3 * vertices).fill(1) : undefined
  const indices = new Uint32Array(corners)
  const influences = Math.max(...pieces.map(p => p.influences))
  const skin: Skin | undefined = influences > 0 ? { influences, joints: new Uint16Array(influences * vertices), weights: new Float32Array(influences * vertices) } : undefined
  const parts: MeshPart[] = []
  let v = 0
  let c = 0
  const shared = new Map<Float32Array, number>()
  for (const p of pieces) {
    const n = p.mesh.positions.length / 3
    let base = shared.get(p.mesh.positions)
    if (base === undefined) {
      base = v
      shared.set(p.mesh.positions, base)
      positions.set(p.mesh.positions, 3 * v)
      normals.set(p.mesh.normals ?? vertexNormals(p.mesh.positions, p.mesh.indices), 3 * v)
      if (p.mesh.colors) colors?.set(p.mesh.colors, 3 * v)
      if (skin && p.joints && p.weights) {
        for (let i = 0; i < n; i++) for (let k = 0; k < p.influences; k++) {
          skin.joints[(v + i) * influences + k] = p.joints[i * p.influences + k]
          skin.weights[(v + i) * influences + k] = p.weights[i * p.influences + k]
        }
      } else if (skin) for (let i = 0; i < n; i++) skin.weights[(v + i) * influences] = 1
      v += n
    }
    parts.push({ name: p.part, start: c, count: p.mesh.indices.length, color: p.color })
    for (let i = 0; i < p.mesh.indices.length; i++) indices[c + i] = p.mesh.indices[i] + base
    c += p.mesh.indices.length
  }
  return {
    mesh: {
      positions: positions.slice(0, 3 * v), normals: normals.slice(0, 3 * v), colors: colors?.slice(0, 3 * v), indices, parts,
    },
    skin: skin && { influences, joints: skin.joints.slice(0, influences * v), weights: skin.weights.slice(0, influences * v) },
  }
}

/** One read of each primitive's vertices, so that primitives which share them stay shared. */
const readOnce = new WeakMap<Accessor, Map<Node, Float32Array>>()

function readPrimitive(primitive: Primitive, node: Node, name: string, index: ReadonlyMap<Node, number>): Piece | undefined {
  const position = primitive.getAttribute('POSITION')
  if (!position || primitive.getMode() !== 4) return undefined
  const count = position.getCount()
  const source = primitive.getIndices()?.getArray()
  const indices = source ? Uint32Array.from(source) : Uint32Array.from({ length: count - (count % 3) }, (_, i) => i)
  for (let i = 0; i < indices.length; i++) {
    if (indices[i] >= count) throw new ChiraxisError('index-range', `Triangle ${Math.floor(i / 3)} of ${name} names vertex ${indices[i]}, but there are only ${count}; the file is damaged.`)
  }
  const normal = primitive.getAttribute('NORMAL')
  const color = primitive.getAttribute('COLOR_0')
  const base = primitive.getMaterial()?.getBaseColorFactor() ?? [0.78, 0.74, 0.68, 1]
  let mesh: Mesh = {
    positions: floats(position, 3), indices, parts: [],
    normals: normal && normal.getCount() === count ? floats(normal, 3) : undefined,
    colors: color && color.getCount() === count ? floats(color, 3) : undefined,
  }
  const skinOf = node.getSkin()
  let joints: Uint16Array | undefined
  let weights: Float32Array | undefined
  let influences = 0
  if (skinOf) {
    const sets = [0, 1].map(s => ({ j: primitive.getAttribute(`JOINTS_${s}`), w: primitive.getAttribute(`WEIGHTS_${s}`) })).filter(s => s.j && s.w)
    influences = 4 * sets.length
    if (influences > 0) {
      joints = new Uint16Array(influences * count)
      weights = new Float32Array(influences * count)
      const list = skinOf.listJoints()
      const remap = list.map(n => index.get(n) ?? 0)
      sets.forEach(({ j, w }, s) => {
        const js = floats(j!, 4)
        const ws = floats(w!, 4)
        for (let v = 0; v < count; v++) for (let k = 0; k < 4; k++) {
          const joint = js[4 * v + k]
          if (ws[4 * v + k] > 0 && joint >= list.length) throw new ChiraxisError('index-range', `Vertex ${v} of ${name} is bound to joint ${joint}, which does not exist.`)
          joints![v * influences + 4 * s + k] = ws[4 * v + k] > 0 ? remap[joint] : 0
          weights![v * influences + 4 * s + k] = Math.max(0, ws[4 * v + k])
        }
      })
      mesh = toDisplayed(mesh, skinOf, primitive, sets.length)
    }
  } else {
    const m = node.getWorldMatrix()
    const still = m.every((v, i) => Math.abs(v - (i % 5 === 0 ? 1 : 0)) < 1e-9)
    if (!still) {
      // primitives that share vertices keep sharing them after the transform
      const moved = transformMesh(mesh, m)
      const byNode = readOnce.get(position) ?? new Map<Node, Float32Array>()
      readOnce.set(position, byNode)
      const known = byNode.get(node)
      if (known) mesh = { ...moved, positions: known }
      else {
        byNode.set(node, moved.positions)
        mesh = moved
      }
    }
  }
  return { mesh, part: name, color: [base[0], base[1], base[2]], joints, weights, influences }
}

/** A skinned mesh as it stands on its joints: its own node does not count, its inverse bind matrices do. */
function toDisplayed(mesh: Mesh, skin: GltfSkin, primitive: Primitive, sets: number): Mesh {
  const inverse = skin.getInverseBindMatrices()
  const element: number[] = []
  const matrices = skin.listJoints().map((joint, i) => {
    if (!inverse || i >= inverse.getCount()) return Float64Array.from(joint.getWorldMatrix())
    inverse.getElement(i, element)
    return multiplyMat4(joint.getWorldMatrix(), element)
  })
  const still = matrices.every(m => m.every((v, i) => Math.abs(v - (i % 5 === 0 ? 1 : 0)) < 1e-5))
  if (still) return mesh
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
  return { ...mesh, positions: out, normals: undefined }
}
