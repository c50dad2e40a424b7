import { Logger, WebIO, type Animation, type Document, type Node, type Skin as GltfSkin } from '@gltf-transform/core'
import { ChiraxisError, decompose, rotate, type Vec3 } from '../math'
import { checkMesh } from '../mesh'
import { movingTakes } from '../motion'
import { skeletonFromWorld, type Skeleton, type WorldJoint } from '../skeleton'
import { readBind, type BindSkin } from './bind-pose'
import { jointFrameBudget, READ_LIMITS } from './check-received'
import { checkGltf, isGlb } from './gltf-check'
import { readMaterials } from './gltf-materials'
import { readMeshes } from './gltf-mesh'
import { gatherResources } from './gltf-resources'
import { nodesAbove, planTake, sampleTake } from './gltf-take'
import type { BesideFiles, Received } from './received'

/**
 * Reads a GLB or glTF through the glTF SDK: every mesh of the scene as one body with parts, vertex colours,
 * texture coordinates, morphs, materials and their images, one skeleton with its bind pose and with roles
 * where they are told, skin, and takes at even steps. What is not kept is named in `dropped`.
 * @param beside buffers and images that lie beside a .gltf
 * @throws ChiraxisError for every damaged, oversized or unsupported file
 */
export async function readGltf(bytes: Uint8Array, beside?: BesideFiles): Promise<Received> {
  const json = checkGltf(bytes)
  const { resources, missing } = gatherResources(json, beside)
  let document: Document
  try {
    // extensions it does not know are none of its business: roles are read from the description itself
    const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT))
    document = isGlb(bytes) ? await io.readBinary(bytes) : await io.readJSON({ json: json as never, resources })
  } catch (error) {
    throw new ChiraxisError(
      'bad-syntax',
      'The glTF file could not be read: some of its data is missing or damaged. Bring in the files beside a .gltf together with it, or use a .glb, which holds everything.',
      { reason: String(error) },
    )
  }
  const root = document.getRoot()
  const scene = root.getDefaultScene() ?? root.listScenes()[0]
  const nodes: Node[] = []
  const visit = (node: Node): void => {
    nodes.push(node)
    node.listChildren().forEach(visit)
  }
  if (scene) scene.listChildren().forEach(visit)
  else
    root
      .listNodes()
      .filter(n => !n.getParentNode())
      .forEach(visit)

  const jointNodes = jointsOf(nodes, root.listSkins(), root.listAnimations())
  const told = humanoidRoles(json as { extensions?: unknown }, root.listNodes())
  const skeleton = jointNodes.length > 0 ? readSkeleton(jointNodes, told) : undefined
  const index = new Map(jointNodes.map((n, i) => [n, i]))
  const skins = new Map(root.listSkins().map(s => [s, bindSkin(s, index)]))
  const bound = readBind(
    [...skins.values()],
    jointNodes.map(n => n.getWorldMatrix()),
    skeleton ? [...skeleton.parents] : [],
  )
  const { materials, images, index: materialIndex, dropped } = readMaterials(document, missing)
  const { mesh, skin } = readMeshes(document, nodes, jointNodes, bound, skins, materialIndex)
  if (!mesh && !skeleton)
    throw new ChiraxisError(
      'no-triangles',
      'The file holds neither triangles nor a skeleton, so there is nothing to work on.',
    )
  if (mesh) checkMesh(mesh)
  const parents = skeleton ? [...skeleton.parents] : []
  // all are counted before the first is worked out
  const ways = nodesAbove(jointNodes, nodes)
  const plans = skeleton ? root.listAnimations().flatMap((a, i) => planTake(a, i) ?? []) : []
  const budget = jointFrameBudget(bytes.length)
  for (const { name, frames } of plans) budget(name, Math.max(jointNodes.length, ways.length), frames)
  const all = plans.map(plan => sampleTake(plan, jointNodes, parents, ways))
  const { takes, told: left } = movingTakes(all)
  dropped.push(...bound.dropped, ...left)
  if (root.listAnimations().some(a => a.listChannels().some(c => c.getTargetPath() === 'weights')))
    dropped.push('Motion of morph shapes is not kept; the shapes themselves are.')
  if (root.listCameras().length > 0) dropped.push('Cameras are not kept.')
  return {
    format: isGlb(bytes) ? 'glb' : 'gltf',
    mesh,
    materials,
    images,
    skeleton: skeleton && bound.bind ? { ...skeleton, bind: bound.bind } : skeleton,
    skin,
    takes,
    dropped,
  }
}

function bindSkin(skin: GltfSkin, index: ReadonlyMap<Node, number>): BindSkin {
  const accessor = skin.getInverseBindMatrices()
  const joints = skin.listJoints()
  const element: number[] = []
  return {
    name: skin.getName(),
    joints: joints.map(n => index.get(n)!),
    ...(accessor &&
      accessor.getCount() >= joints.length && {
        inverse: joints.map((_, i) => Float64Array.from(accessor.getElement(i, element))),
      }),
  }
}

function jointsOf(nodes: readonly Node[], skins: readonly GltfSkin[], animations: readonly Animation[]): Node[] {
  const wanted = new Set<Node>(skins.flatMap(s => s.listJoints()))
  if (wanted.size === 0) {
    // a recording without a body: the tree under whatever moves
    const moved = animations
      .flatMap(a => a.listChannels().map(c => c.getTargetNode()))
      .filter((n): n is Node => n !== null && !n.getMesh())
    for (const node of moved) {
      wanted.add(node)
      node.traverse(n => {
        if (!n.getMesh()) wanted.add(n)
      })
    }
  }
  if (wanted.size > READ_LIMITS.joints)
    throw new ChiraxisError(
      'too-large',
      `The skeleton has ${wanted.size} joints; at most ${READ_LIMITS.joints} can be read.`,
    )
  return nodes.filter(n => wanted.has(n))
}

const parentJoint = (node: Node, index: ReadonlyMap<Node, number>): number => {
  for (let p = node.getParentNode(); p; p = p.getParentNode()) {
    const i = index.get(p)
    if (i !== undefined) return i
  }
  return -1
}

/** Roles that a VRM 1.0 figure or a VRM Animation tells of its nodes (VRMC_vrm, VRMC_vrm_animation). */
function humanoidRoles(json: { readonly extensions?: unknown }, nodes: readonly Node[]): ReadonlyMap<Node, string> {
  const roles = new Map<Node, string>()
  const extensions = json.extensions as
    Record<string, { humanoid?: { humanBones?: Record<string, { node?: unknown } | null> } } | undefined> | undefined
  for (const name of ['VRMC_vrm', 'VRMC_vrm_animation']) {
    const bones = extensions?.[name]?.humanoid?.humanBones
    if (typeof bones !== 'object' || bones === null) continue
    for (const [role, bone] of Object.entries(bones)) {
      const node = typeof bone?.node === 'number' ? nodes[bone.node] : undefined
      if (node && /^[a-z][A-Za-z]{2,30}$/.test(role)) roles.set(node, role)
    }
  }
  return roles
}

function readSkeleton(joints: readonly Node[], told: ReadonlyMap<Node, string>): Skeleton {
  const index = new Map(joints.map((n, i) => [n, i]))
  const world = joints.map((node, j): WorldJoint => {
    const { translation, rotation } = decompose(node.getWorldMatrix())
    if (![...translation, ...rotation].every(Number.isFinite))
      throw new ChiraxisError(
        'not-finite',
        `The joint ${node.getName() || j} has a place that is not a number; the file is damaged.`,
      )
    const extras = node.getExtras() as { role?: unknown; tip?: unknown }
    const tip =
      Array.isArray(extras.tip) && extras.tip.length === 3 && extras.tip.every(Number.isFinite)
        ? (extras.tip as Vec3)
        : undefined
    return {
      name: node.getName() || `joint ${j + 1}`,
      parent: parentJoint(node, index),
      position: translation,
      rotation,
      role: told.get(node) ?? (typeof extras.role === 'string' ? extras.role : undefined),
      tip: tip && (rotate(rotation, tip).map((v, k) => v + translation[k]) as Vec3),
    }
  })
  return skeletonFromWorld(world)
}
