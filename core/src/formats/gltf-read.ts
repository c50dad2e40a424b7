import type { Animation, Document, Node, Scene, Skin as GltfSkin } from '@gltf-transform/core'
import type { GltfJson } from '../document'
import { ChiraxisError, decompose, rotate, type Vec3 } from '../math'
import { checkMesh } from '../mesh'
import { movingTakes } from '../motion'
import { skeletonFromWorld, type Skeleton, type WorldJoint } from '../skeleton'
import { readBind, type BindSkin } from './bind-pose'
import { jointFrameBudget, READ_LIMITS } from './check-received'
import { isGlb } from './gltf-check'
import { readMaterials } from './gltf-materials'
import { readMeshes } from './gltf-mesh'
import { openGltf, readBySdk, type GltfDecoders } from './gltf-open'
import { nodesAbove, planTake, sampleTake } from './gltf-take'
import type { BesideFiles, Received } from './received'

/**
 * Reads a GLB or glTF through the glTF SDK: every mesh of the scene as one body with parts, vertex colours,
 * texture coordinates, morphs, materials and their images, one skeleton with its bind pose and with roles
 * where they are told, skin, and takes at even steps. What is not kept is named in `dropped`.
 * @param beside buffers and images that lie beside a .gltf
 * @param still whether takes that hold still count where others move
 * @throws ChiraxisError for every damaged, oversized or unsupported file
 */
export async function readGltf(
  bytes: Uint8Array,
  beside?: BesideFiles,
  decoders?: Partial<GltfDecoders>,
  { still = false } = {},
): Promise<Received> {
  const { document: source, missing, dropped: told } = await openGltf(bytes, beside, decoders)
  const { json } = source
  let document: Document
  try {
    document = await readBySdk(source)
  } catch (error) {
    throw new ChiraxisError(
      'bad-syntax',
      'The glTF file could not be read: parts of it name others that are not there, or hold what they should not; the file is damaged.',
      { reason: String(error) },
    )
  }
  const root = document.getRoot()
  const scene = sceneOf(document)
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

  // skins left over from other work may name joints that hang nowhere
  const worn = new Set(nodes.flatMap(n => n.getSkin() ?? []))
  const allSkins = worn.size > 0 ? [...worn] : root.listSkins()
  const jointNodes = jointsOf(nodes, allSkins, root.listAnimations())
  const roles = humanoidRoles(json, root.listNodes())
  const skeleton = jointNodes.length > 0 ? readSkeleton(jointNodes, roles) : undefined
  const index = new Map(jointNodes.map((n, i) => [n, i]))
  const skins = new Map(allSkins.map(s => [s, bindSkin(s, index)]))
  const bound = readBind(
    [...skins.values()],
    jointNodes.map(n => n.getWorldMatrix()),
    skeleton ? [...skeleton.parents] : [],
  )
  const { materials, images, dropped } = readMaterials(source, missing)
  dropped.unshift(...told)
  const materialIndex = new Map(root.listMaterials().map((m, i) => [m, i]))
  const { mesh, skin, runs } = readMeshes(document, nodes, jointNodes, bound, skins, materialIndex)
  if (!mesh && !skeleton) throw nothingThere(json)
  if (mesh) checkMesh(mesh)
  const parents = skeleton ? [...skeleton.parents] : []
  // all are counted before the first is worked out
  const ways = nodesAbove(jointNodes, nodes)
  const plans = skeleton
    ? root.listAnimations().flatMap((a, animation) => {
        const plan = planTake(a, animation)
        return plan ? [{ plan, animation }] : []
      })
    : []
  const budget = jointFrameBudget(bytes.length)
  for (const { plan } of plans) budget(plan.name, Math.max(jointNodes.length, ways.length), plan.frames)
  const all = plans.map(({ plan }) => sampleTake(plan, jointNodes, parents, ways))
  const { takes, told: left } = still ? { takes: all, told: [] } : movingTakes(all)
  dropped.push(...bound.dropped, ...left)
  const numbers = new Map(root.listNodes().map((n, i) => [n, i]))
  return {
    document: source,
    way: {
      scene: Math.max(0, root.listScenes().indexOf(scene!)),
      runs,
      joints: jointNodes.map(n => numbers.get(n)!),
      takes: takes.map(t => plans[all.indexOf(t)].animation),
    },
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

/** The scene a person means: the first one that is told to be, if there is something in it, else the first that holds anything. */
function sceneOf(document: Document): Scene | null {
  const root = document.getRoot()
  const told = root.getDefaultScene() ?? root.listScenes()[0] ?? null
  const holds = (scene: Scene): boolean => {
    let found = false
    scene.traverse(n => (found ||= n.getMesh() !== null || n.getSkin() !== null))
    return found
  }
  if (!told || holds(told)) return told
  return root.listScenes().find(holds) ?? told
}

/** Why there is nothing to work on. */
function nothingThere(json: GltfJson): ChiraxisError {
  const modes = new Set((json.meshes ?? []).flatMap(m => m.primitives.map(p => p.mode ?? 4)))
  if (modes.size > 0 && [...modes].every(m => m < 4))
    return new ChiraxisError(
      'no-triangles',
      `The file holds ${modes.has(0) ? (modes.size > 1 ? 'points and lines' : 'points') : 'lines'} but no triangles, so there is no body to rig.`,
    )
  return new ChiraxisError('no-triangles', 'The file holds neither triangles nor a skeleton, so there is nothing to work on.') // prettier-ignore
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
  // a skeleton alone, neither worn nor moved: a tree of nodes that carry nothing
  const bare = nodes.every(n => !n.getMesh() && !n.getCamera())
  if (wanted.size === 0 && bare && nodes.some(n => n.getParentNode()?.getParentNode()))
    for (const n of nodes) wanted.add(n)
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
