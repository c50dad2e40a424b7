import { Accessor, Document, WebIO, type Node } from '@gltf-transform/core'
import { ChiraxisError, quatAt, setQuat } from '../math'
import { plainMaterial, vertexNormals, type ImageFile, type Material, type Mesh } from '../mesh'
import type { Take } from '../motion'
import { inverseBindMatrices, type Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import { writeMaterials } from './gltf-materials'

export interface GltfContent {
  readonly name: string
  readonly mesh?: Mesh
  /** What the parts of the body refer to by number. */
  readonly materials?: readonly Material[]
  readonly images?: readonly ImageFile[]
  readonly skeleton?: Skeleton
  readonly skin?: Skin
  readonly takes?: readonly Take[]
}

/**
 * Writes a GLB: the body with its parts, the skeleton as a node tree (role and bone tip in `extras`),
 * skin with as many influence sets as needed, and one animation per take. The same content gives the
 * same bytes.
 */
export async function writeGlb(content: GltfContent): Promise<Uint8Array<ArrayBuffer>> {
  const { mesh, skeleton, skin } = content
  const document = new Document()
  document.getRoot().getAsset().generator = 'Chiraxis'
  const buffer = document.createBuffer()
  const scene = document.createScene(content.name)
  document.getRoot().setDefaultScene(scene)
  const joints = skeleton ? writeSkeleton(document, skeleton) : []
  if (skeleton)
    joints.forEach((node, j) => {
      if (skeleton.parents[j] < 0) scene.addChild(node)
    })
  if (mesh) {
    const body = writeMesh(document, buffer, mesh, skin, content)
    if (skin && skeleton) {
      const gltfSkin = document.createSkin(content.name)
      joints.forEach(j => gltfSkin.addJoint(j))
      const root = joints.find((_, j) => skeleton.parents[j] < 0)
      if (root && skeleton.parents.filter(p => p < 0).length === 1) gltfSkin.setSkeleton(root)
      gltfSkin.setInverseBindMatrices(
        document
          .createAccessor('inverse bind matrices')
          .setType('MAT4')
          .setArray(inverseBindMatrices(skeleton))
          .setBuffer(buffer),
      )
      body.setSkin(gltfSkin)
    }
    scene.addChild(body)
  }
  if (skeleton) for (const take of content.takes ?? []) writeTake(document, buffer, skeleton, joints, take)
  try {
    return (await new WebIO().writeBinary(document)) as Uint8Array<ArrayBuffer>
  } catch (error) {
    throw new ChiraxisError('bad-input', 'The GLB could not be written.', { reason: String(error) })
  }
}

function writeSkeleton(document: Document, skeleton: Skeleton): Node[] {
  const joints = skeleton.names.map((name, j) => {
    const node = document.createNode(name)
    node.setTranslation([
      skeleton.restTranslations[3 * j],
      skeleton.restTranslations[3 * j + 1],
      skeleton.restTranslations[3 * j + 2],
    ])
    node.setRotation(quatAt(skeleton.restRotations, j))
    const extras: Record<string, unknown> = {}
    if (skeleton.roles[j]) extras.role = skeleton.roles[j]
    const tip = skeleton.tips?.subarray(3 * j, 3 * j + 3)
    if (tip?.some(v => v !== 0)) extras.tip = Array.from(tip)
    node.setExtras(extras)
    return node
  })
  skeleton.parents.forEach((p, j) => {
    if (p >= 0) joints[p].addChild(joints[j])
  })
  return joints
}

function writeMesh(
  document: Document,
  buffer: ReturnType<Document['createBuffer']>,
  mesh: Mesh,
  skin: Skin | undefined,
  content: GltfContent,
): Node {
  const { name } = content
  const vertices = mesh.positions.length / 3
  const accessor = (
    label: string,
    type: 'VEC2' | 'VEC3' | 'VEC4' | 'SCALAR',
    array: Float32Array | Uint16Array | Uint8Array | Uint32Array,
  ): Accessor =>
    document
      .createAccessor(label)
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer)
  const attributes = new Map<string, Accessor>()
  attributes.set('POSITION', accessor('positions', 'VEC3', mesh.positions))
  attributes.set('NORMAL', accessor('normals', 'VEC3', unitNormals(mesh)))
  if (mesh.colors) {
    const colors = new Uint16Array(4 * vertices)
    for (let v = 0; v < vertices; v++) {
      for (let k = 0; k < 3; k++)
        colors[4 * v + k] = Math.round(65535 * Math.min(1, Math.max(0, mesh.colors[3 * v + k])))
      colors[4 * v + 3] = 65535
    }
    attributes.set('COLOR_0', accessor('colours', 'VEC4', colors).setNormalized(true))
  }
  if (mesh.uvs) attributes.set('TEXCOORD_0', accessor('texture coordinates', 'VEC2', mesh.uvs))
  const targets = (mesh.morphs ?? []).map(m =>
    document.createPrimitiveTarget(m.name).setAttribute('POSITION', accessor(`morph ${m.name}`, 'VEC3', m.offsets)),
  )
  if (skin) {
    const sets = Math.ceil(skin.influences / 4)
    for (let s = 0; s < sets; s++) {
      const joints = new Uint16Array(4 * vertices)
      const weights = new Float32Array(4 * vertices)
      for (let v = 0; v < vertices; v++)
        for (let k = 0; k < 4; k++) {
          const i = 4 * s + k
          if (i >= skin.influences) continue
          const w = skin.weights[v * skin.influences + i]
          weights[4 * v + k] = w
          joints[4 * v + k] = w > 0 ? skin.joints[v * skin.influences + i] : 0
        }
      const small = joints.every(j => j < 256)
      attributes.set(`JOINTS_${s}`, accessor(`joints ${s}`, 'VEC4', small ? Uint8Array.from(joints) : joints))
      attributes.set(`WEIGHTS_${s}`, accessor(`weights ${s}`, 'VEC4', weights))
    }
  }
  const gltfMesh = document.createMesh(name)
  const given = writeMaterials(document, content.materials ?? [], content.images ?? [])
  const used = new Set<number>()
  const plain = new Map<string, ReturnType<Document['createMaterial']>>()
  for (const part of mesh.parts) {
    if (part.count === 0) continue
    const key = part.color.join()
    const own = part.material === undefined ? undefined : given[part.material]
    const material = own ?? plain.get(key) ?? writeMaterials(document, [plainMaterial(part.name, part.color)], [])[0]
    if (own) used.add(part.material!)
    else plain.set(key, material)
    const slice = mesh.indices.slice(part.start, part.start + part.count)
    const primitive = document.createPrimitive().setMaterial(material)
    primitive.setIndices(
      accessor(`faces of ${part.name}`, 'SCALAR', vertices < 65535 ? Uint16Array.from(slice) : slice),
    )
    for (const [semantic, a] of attributes) primitive.setAttribute(semantic, a)
    targets.forEach(t => primitive.addTarget(t))
    primitive.setName(part.name)
    gltfMesh.addPrimitive(primitive)
  }
  gltfMesh.setExtras({
    parts: mesh.parts.filter(p => p.count > 0).map(p => p.name),
    ...(targets.length > 0 && { targetNames: mesh.morphs!.map(m => m.name) }),
  })
  if (targets.length > 0) gltfMesh.setWeights(targets.map(() => 0))
  return document.createNode(name).setMesh(gltfMesh)
}

function unitNormals(mesh: Mesh): Float32Array {
  const normals = (mesh.normals ?? vertexNormals(mesh.positions, mesh.indices)).slice()
  for (let i = 0; i < normals.length; i += 3) {
    const l = Math.hypot(normals[i], normals[i + 1], normals[i + 2])
    if (l > 1e-8 && Number.isFinite(l)) for (let k = 0; k < 3; k++) normals[i + k] /= l
    else normals.set([0, 1, 0], i)
  }
  return normals
}

function writeTake(
  document: Document,
  buffer: ReturnType<Document['createBuffer']>,
  skeleton: Skeleton,
  nodes: readonly Node[],
  take: Take,
): void {
  const n = skeleton.names.length
  const animation = document.createAnimation(take.name)
  const times = Float32Array.from({ length: take.frames }, (_, f) => f / take.fps)
  const input = document.createAccessor(`times of ${take.name}`).setType('SCALAR').setArray(times).setBuffer(buffer)
  for (let j = 0; j < n; j++) {
    const rotations = new Float32Array(4 * take.frames)
    for (let f = 0; f < take.frames; f++) {
      const q = quatAt(take.rotations, f * n + j)
      // neighbouring keys on the same half of the sphere, so that readers interpolate the short way
      const d =
        f > 0
          ? q[0] * rotations[4 * f - 4] +
            q[1] * rotations[4 * f - 3] +
            q[2] * rotations[4 * f - 2] +
            q[3] * rotations[4 * f - 1]
          : 1
      const l = Math.hypot(...q) * (d < 0 ? -1 : 1) || 1
      setQuat(rotations, f, [q[0] / l, q[1] / l, q[2] / l, q[3] / l])
    }
    addChannel('rotation', 'VEC4', rotations)
    const rest = skeleton.restTranslations
    const translations = new Float32Array(3 * take.frames)
    let moves = false
    for (let f = 0; f < take.frames; f++)
      for (let k = 0; k < 3; k++) {
        const v = take.translations[3 * (f * n + j) + k]
        translations[3 * f + k] = v
        if (Math.abs(v - rest[3 * j + k]) > 1e-7) moves = true
      }
    if (moves) addChannel('translation', 'VEC3', translations)

    function addChannel(
      path: 'rotation' | 'translation',
      type: 'VEC3' | 'VEC4',
      values: Float32Array<ArrayBuffer>,
    ): void {
      const output = document
        .createAccessor(`${path} of ${skeleton.names[j]} in ${take.name}`)
        .setType(type)
        .setArray(values)
        .setBuffer(buffer)
      const sampler = document.createAnimationSampler().setInput(input).setOutput(output).setInterpolation('LINEAR')
      animation
        .addSampler(sampler)
        .addChannel(document.createAnimationChannel().setTargetNode(nodes[j]).setTargetPath(path).setSampler(sampler))
    }
  }
}
