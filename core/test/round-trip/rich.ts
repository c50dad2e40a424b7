import { Document, Logger, WebIO, type Accessor, type Material, type Node, type Texture } from '@gltf-transform/core'
import {
  ALL_EXTENSIONS,
  KHRLightsPunctual,
  KHRMaterialsSheen,
  KHRMaterialsUnlit,
  KHRMaterialsClearcoat,
  KHRTextureTransform,
  Light,
} from '@gltf-transform/extensions'
import { encode } from 'fast-png'
import { inverseBindMatrices, worldPose, type Skeleton } from '../../src/skeleton'
import { quatAt, seededRandom } from '../../src/math'
import type { Mesh } from '../../src/mesh'
import type { Skin } from '../../src/skin'
import { cleanDoll, doll } from '../figure'

/** The glTF SDK with everything it knows: it writes the files of these tests and reads what the program wrote. */
export const io = (): WebIO =>
  new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT)).registerExtensions(ALL_EXTENSIONS)

export function png(seed: number, size = 8): Uint8Array<ArrayBuffer> {
  const next = seededRandom(seed)
  const data = Uint8Array.from({ length: size * size * 4 }, () => Math.floor(256 * next()))
  return new Uint8Array(encode({ width: size, height: size, data, channels: 4, depth: 8 }))
}

/** A ball about a place. */
export function ball(
  centre: readonly number[],
  radius: number,
  rows = 6,
): { positions: Float32Array; indices: Uint16Array } {
  const positions: number[] = []
  const indices: number[] = []
  for (let i = 0; i <= rows; i++)
    for (let j = 0; j <= 2 * rows; j++) {
      const a = (Math.PI * i) / rows
      const b = (Math.PI * j) / rows
      positions.push(
        centre[0] + radius * Math.sin(a) * Math.cos(b),
        centre[1] + radius * Math.cos(a),
        centre[2] + radius * Math.sin(a) * Math.sin(b),
      )
      if (i < rows && j < 2 * rows) {
        const k = i * (2 * rows + 1) + j
        indices.push(k, k + 1, k + 2 * rows + 1, k + 1, k + 2 * rows + 2, k + 2 * rows + 1)
      }
    }
  return { positions: Float32Array.from(positions), indices: Uint16Array.from(indices) }
}

export interface Rich {
  document: Document
  accessor(
    type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT4',
    array: Float32Array | Uint8Array | Uint16Array | Int16Array | Uint32Array,
    normalized?: boolean,
  ): Accessor
  body: Node
  nodes: Record<string, Node>
  materials: Record<string, Material>
}

/** A body of two surfaces with everything a material, a mesh and a node can tell, eyes that share a mesh, a hat, a camera, a light. */
export function rich(): Rich {
  const document = new Document()
  const root = document.getRoot()
  const buffer = document.createBuffer('data')
  const accessor: Rich['accessor'] = (type, array, normalized = false) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setNormalized(normalized)
      .setBuffer(buffer)
  const texture = (name: string, seed: number): Texture =>
    document.createTexture(name).setImage(png(seed)).setMimeType('image/png')
  const next = seededRandom(5)
  const random = (n: number): Float32Array<ArrayBuffer> => Float32Array.from({ length: n }, () => next())

  const skinMaterial = document
    .createMaterial('skin')
    .setBaseColorFactor([0.8, 0.6, 0.5, 0.9])
    .setBaseColorTexture(texture('skin colour', 1))
    .setNormalTexture(texture('skin normals', 2))
    .setNormalScale(0.7)
    .setOcclusionTexture(texture('skin shade', 3))
    .setOcclusionStrength(0.4)
    .setEmissiveTexture(texture('skin glow', 4))
    .setEmissiveFactor([0.1, 0.2, 0.3])
    .setMetallicFactor(0.2)
    .setRoughnessFactor(0.6)
    .setAlphaMode('MASK')
    .setAlphaCutoff(0.31)
    .setDoubleSided(true)
    .setExtras({ shader: 'flesh', layers: [1, 2] })
  skinMaterial.getBaseColorTextureInfo()!.setWrapS(33071).setWrapT(33648).setMinFilter(9985).setMagFilter(9728)
  skinMaterial.getOcclusionTextureInfo()!.setTexCoord(1)
  const transform = document
    .createExtension(KHRTextureTransform)
    .createTransform()
    .setOffset([0.25, 0.5])
    .setScale([2, 3])
    .setRotation(0.3)
  skinMaterial.getNormalTextureInfo()!.setExtension('KHR_texture_transform', transform)
  const cloth = document.createMaterial('cloth').setBaseColorTexture(texture('cloth colour', 6)).setAlphaMode('BLEND')
  cloth.setExtension(
    'KHR_materials_sheen',
    document
      .createExtension(KHRMaterialsSheen)
      .createSheen()
      .setSheenColorFactor([0.2, 0.1, 0.5])
      .setSheenRoughnessFactor(0.4),
  )
  cloth.setExtension(
    'KHR_materials_clearcoat',
    document.createExtension(KHRMaterialsClearcoat).createClearcoat().setClearcoatFactor(0.7),
  )
  const eyeMaterial = document.createMaterial('eyes')
  eyeMaterial.setExtension('KHR_materials_unlit', document.createExtension(KHRMaterialsUnlit).createUnlit())

  const scene = document.createScene('stage').setExtras({ day: 3 })
  root.setDefaultScene(scene)
  root.setExtras({ project: 'meadow' })
  root.getAsset().copyright = 'The makers of the meadow'
  const group = document.createNode('Group').setExtras({ layer: 'cast' })
  scene.addChild(group)

  const shape = doll()
  const n = shape.positions.length / 3
  const half = Math.floor(shape.indices.length / 6) * 3
  const attributes = {
    POSITION: accessor('VEC3', shape.positions),
    NORMAL: accessor('VEC3', unit(random(3 * n))),
    TANGENT: accessor('VEC4', tangents(n, next)),
    TEXCOORD_0: accessor('VEC2', random(2 * n)),
    TEXCOORD_1: accessor('VEC2', random(2 * n)),
    COLOR_0: accessor(
      'VEC4',
      Uint8Array.from({ length: 4 * n }, () => Math.floor(256 * next())),
      true,
    ),
    _WRINKLE: accessor('SCALAR', random(n)),
    _GROUPS: accessor(
      'VEC4',
      Uint8Array.from({ length: 4 * n }, () => Math.floor(256 * next())),
    ),
  }
  const mesh = document
    .createMesh('BodyMesh')
    .setExtras({ targetNames: ['smile', 'blink'], tag: 'hero' })
    .setWeights([0.25, 0])
  for (const [material, from, to] of [
    [skinMaterial, 0, half],
    [cloth, half, shape.indices.length],
  ] as const) {
    const p = document.createPrimitive().setMaterial(material).setExtras({ lod: from })
    p.setIndices(accessor('SCALAR', Uint16Array.from(shape.indices.slice(from, to))))
    for (const [semantic, a] of Object.entries(attributes)) p.setAttribute(semantic, a)
    mesh.addPrimitive(p)
  }
  const shapes = ['smile', 'blink'].map(name =>
    document
      .createPrimitiveTarget(name)
      .setAttribute(
        'POSITION',
        accessor(
          'VEC3',
          random(3 * n).map(v => (v - 0.5) * 0.02),
        ),
      )
      .setAttribute(
        'NORMAL',
        accessor(
          'VEC3',
          random(3 * n).map(v => (v - 0.5) * 0.1),
        ),
      ),
  )
  for (const p of mesh.listPrimitives()) for (const t of shapes) p.addTarget(t)
  const body = document.createNode('Body').setMesh(mesh).setExtras({ part: 'body' })
  group.addChild(body)

  const eye = ball([0, 0, 0], 0.02)
  const eyeMesh = document
    .createMesh('Eye')
    .addPrimitive(
      document
        .createPrimitive()
        .setMaterial(eyeMaterial)
        .setIndices(accessor('SCALAR', eye.indices))
        .setAttribute('POSITION', accessor('VEC3', eye.positions)),
    )
  const eyeL = document.createNode('Eye.L').setMesh(eyeMesh).setTranslation([0.035, 1.66, 0.09])
  const eyeR = document.createNode('Eye.R').setMesh(eyeMesh).setTranslation([-0.035, 1.66, 0.09])
  const hatShape = ball([0, 1.74, 0.01], 0.1)
  const hatMesh = document.createMesh('HatMesh').addPrimitive(
    document
      .createPrimitive()
      .setMaterial(cloth)
      .setIndices(accessor('SCALAR', hatShape.indices))
      .setAttribute('POSITION', accessor('VEC3', hatShape.positions))
      .setAttribute('TEXCOORD_0', accessor('VEC2', random((2 * hatShape.positions.length) / 3))),
  )
  const hat = document.createNode('Hat').setMesh(hatMesh)
  group.addChild(eyeL).addChild(eyeR).addChild(hat)

  const camera = document
    .createNode('Shot')
    .setCamera(document.createCamera('lens').setType('perspective').setYFov(0.7))
    .setTranslation([0, 1.4, 4])
  const light = document.createNode('Lamp').setTranslation([1, 3, 1])
  light.setExtension(
    'KHR_lights_punctual',
    document.createExtension(KHRLightsPunctual).createLight('lamp').setType(Light.Type.POINT).setIntensity(40),
  )
  scene.addChild(camera).addChild(light)
  return {
    document,
    accessor,
    body,
    nodes: { Group: group, EyeL: eyeL, EyeR: eyeR, Hat: hat, Shot: camera, Lamp: light },
    materials: { skin: skinMaterial, cloth, eyes: eyeMaterial },
  }
}

function unit(values: Float32Array<ArrayBuffer>): Float32Array<ArrayBuffer> {
  for (let i = 0; i < values.length; i += 3) {
    const l = Math.hypot(values[i], values[i + 1], values[i + 2]) || 1
    for (let k = 0; k < 3; k++) values[i + k] /= l
  }
  return values
}

function tangents(n: number, next: () => number): Float32Array<ArrayBuffer> {
  const out = new Float32Array(4 * n)
  for (let v = 0; v < n; v++) {
    const t = [next() - 0.5, next() - 0.5, next() - 0.5]
    const l = Math.hypot(...t)
    for (let k = 0; k < 3; k++) out[4 * v + k] = t[k] / l
    out[4 * v + 3] = next() < 0.5 ? -1 : 1
  }
  return out
}

/** The rich body bound to the doll's skeleton, eyes hanging on the head, a second skin for the hat, two clips. */
export async function richRigged(): Promise<Rich & { joints: Node[]; skeleton: Skeleton }> {
  const made = rich()
  const { document, accessor, body, nodes } = made
  const { skeleton, skin } = await cleanDoll()
  const joints = skeleton.names.map((name, j) => {
    const node = document.createNode(name).setExtras({ bone: j })
    node.setTranslation([...skeleton.restTranslations.subarray(3 * j, 3 * j + 3)] as [number, number, number])
    node.setRotation(quatAt(skeleton.restRotations, j))
    return node
  })
  const armature = document.createNode('Armature')
  nodes.Group.addChild(armature)
  skeleton.parents.forEach((p, j) => (p < 0 ? armature : joints[p]).addChild(joints[j]))
  bindTo(made, body, skeleton, skin, joints)
  // the eyes ride on the head without a skin, the hat is bound by a skin of its own
  const head = skeleton.roles.indexOf('head')
  const place = worldPose(skeleton).positions
  for (const eye of [nodes.EyeL, nodes.EyeR]) {
    const t = eye.getTranslation()
    joints[head].addChild(eye)
    // the doll's joints are turned: the place is told in the joint's own space
    const back = invert(joints[head].getWorldMatrix())
    eye.setTranslation(point(back, t))
  }
  void place
  const hatSkin = document.createSkin('hat skin').addJoint(joints[head]).setSkeleton(joints[head])
  hatSkin.setInverseBindMatrices(accessor('MAT4', inverseBindMatrices(skeleton).slice(16 * head, 16 * head + 16)))
  const p = nodes.Hat.getMesh()!.listPrimitives()[0]
  const count = p.getAttribute('POSITION')!.getCount()
  p.setAttribute('JOINTS_0', accessor('VEC4', new Uint8Array(4 * count)))
  p.setAttribute(
    'WEIGHTS_0',
    accessor(
      'VEC4',
      Uint8Array.from({ length: 4 * count }, (_, i) => (i % 4 === 0 ? 255 : 0)),
      true,
    ),
  )
  nodes.Hat.setSkin(hatSkin)
  addClip(made, 'nod', joints[head], 'CUBICSPLINE')
  addClip(made, 'wave', joints[skeleton.roles.indexOf('leftUpperArm')], 'STEP')
  return { ...made, joints, skeleton }
}

export function bindTo(
  { document, accessor }: Rich,
  node: Node,
  skeleton: Skeleton,
  skin: Skin,
  joints: readonly Node[],
  sets = 1,
): void {
  const gltfSkin = document.createSkin('body skin').setExtras({ rig: 'doll' })
  joints.forEach(j => gltfSkin.addJoint(j))
  gltfSkin.setInverseBindMatrices(accessor('MAT4', inverseBindMatrices(skeleton)))
  const n = skin.weights.length / skin.influences
  for (let s = 0; s < sets; s++) {
    const j4 = new Uint16Array(4 * n)
    const w4 = new Float32Array(4 * n)
    for (let v = 0; v < n; v++)
      for (let k = 0; k < 4 && 4 * s + k < skin.influences; k++) {
        j4[4 * v + k] = skin.joints[v * skin.influences + 4 * s + k]
        w4[4 * v + k] = skin.weights[v * skin.influences + 4 * s + k]
      }
    for (let i = 0; i < j4.length; i++) if (w4[i] === 0) j4[i] = 0
    for (const p of node.getMesh()!.listPrimitives())
      p.setAttribute(`JOINTS_${s}`, accessor('VEC4', j4)).setAttribute(`WEIGHTS_${s}`, accessor('VEC4', w4))
  }
  node.setSkin(gltfSkin)
}

export function addClip(
  { document, accessor, body }: Rich,
  name: string,
  node: Node,
  mode: 'LINEAR' | 'STEP' | 'CUBICSPLINE',
): void {
  const clip = document.createAnimation(name).setExtras({ loop: true })
  const times = accessor('SCALAR', new Float32Array([0, 0.5, 1]))
  const rest = node.getRotation()
  const turned = [
    rest[3] * 0.2 + rest[0] * 0.98,
    rest[1] * 0.98 + rest[2] * 0.2,
    rest[2] * 0.98 - rest[1] * 0.2,
    rest[3] * 0.98 - rest[0] * 0.2,
  ]
  const zero = [0, 0, 0, 0]
  const keys = [rest, turned, rest].flatMap(q => (mode === 'CUBICSPLINE' ? [...zero, ...q, ...zero] : [...q]))
  const sampler = document
    .createAnimationSampler()
    .setInput(times)
    .setInterpolation(mode)
    .setOutput(accessor('VEC4', Float32Array.from(keys)))
  clip
    .addSampler(sampler)
    .addChannel(document.createAnimationChannel().setTargetNode(node).setTargetPath('rotation').setSampler(sampler))
  const weights = document
    .createAnimationSampler()
    .setInput(times)
    .setOutput(accessor('SCALAR', new Float32Array([0, 0, 1, 0, 0, 1])))
  clip
    .addSampler(weights)
    .addChannel(document.createAnimationChannel().setTargetNode(body).setTargetPath('weights').setSampler(weights))
}

export const point = (m: ArrayLike<number>, p: readonly number[]): [number, number, number] => [
  m[0] * p[0] + m[4] * p[1] + m[8] * p[2] + m[12],
  m[1] * p[0] + m[5] * p[1] + m[9] * p[2] + m[13],
  m[2] * p[0] + m[6] * p[1] + m[10] * p[2] + m[14],
]
/** Of a turn and a shift. */
function invert(m: ArrayLike<number>): number[] {
  const r = [m[0], m[4], m[8], 0, m[1], m[5], m[9], 0, m[2], m[6], m[10], 0]
  const t = [0, 1, 2].map(k => -(r[k] * m[12] + r[4 + k] * m[13] + r[8 + k] * m[14]))
  return [...r, ...t, 1]
}

/** The body alone as the program's own mesh, for comparing. */
export const bodyMesh = (): Mesh => doll()
