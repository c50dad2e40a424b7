import type { JSONDocument } from '@gltf-transform/core'
import { KHRMaterialsPBRSpecularGlossiness } from '@gltf-transform/extensions'
import { packGlb, type GltfDocument, type GltfJson } from '../../src/document'
import { addClip, ball, bindTo, io, png, rich, richRigged, type Rich } from './rich'
import { cleanDoll } from '../figure'

/** A file of the table in docs/formats.md. */
export interface Variant {
  readonly name: string
  readonly file: string
  readonly bytes: Uint8Array
  readonly beside?: ReadonlyMap<string, Uint8Array>
  /** Whether it comes with a skeleton and a skin. */
  readonly rigged: boolean
  /** The validator finds faults in the source already. */
  readonly faulty?: boolean
}

type Made = Rich
const pack = (made: Pick<Made, 'document'>): Promise<Uint8Array> => io().writeBinary(made.document)

/** The description and the data of a GLB, to be changed by hand where the SDK would not write such a file. */
export async function raw(made: Pick<Made, 'document'>): Promise<{ json: GltfJson; data: Uint8Array }> {
  const { json, resources } = (await io().writeJSON(made.document, { basename: 'x' })) as JSONDocument
  const uri = json.buffers![0].uri!
  const data = new Uint8Array(resources[uri])
  delete json.buffers![0].uri
  for (const image of json.images ?? []) {
    if (!image.uri) continue
    const bytes = resources[image.uri]
    image.uri = `data:${image.mimeType};base64,${Buffer.from(bytes).toString('base64')}`
  }
  return { json: json as unknown as GltfJson, data }
}
const packed = ({ json, data }: { json: GltfJson; data: Uint8Array }): Uint8Array =>
  packGlb({ json, buffers: [data] } satisfies GltfDocument)

/** Appends data to the only buffer. @returns the number of its view */
function append(raw: { json: GltfJson; data: Uint8Array }, bytes: Uint8Array, more: object = {}): number {
  const at = (raw.data.length + 3) & ~3
  const data = new Uint8Array(at + bytes.length)
  data.set(raw.data)
  data.set(bytes, at)
  raw.data = data
  raw.json.buffers![0].byteLength = data.length
  return raw.json.bufferViews!.push({ buffer: 0, byteOffset: at, byteLength: bytes.length, ...more }) - 1
}

const bytesOf = (a: ArrayBufferView): Uint8Array => new Uint8Array(a.buffer, a.byteOffset, a.byteLength)

/** Twenty and more files that hold what real ones do. */
export const VARIANTS: readonly { name: string; make: () => Promise<Omit<Variant, 'name'>> }[] = [
  {
    name: 'several meshes, every texture set, custom attributes, morph shapes, a camera, a light',
    make: async () => ({ file: 'a.glb', bytes: await pack(rich()), rigged: false }),
  },
  {
    name: 'a figure with two skins, eyes hanging on the head, clips',
    make: async () => ({ file: 'a.glb', bytes: await pack(await richRigged()), rigged: true }),
  },
  {
    name: 'a group that turns and shrinks: Z up, centimetres',
    make: async () => {
      const made = rich()
      made.nodes.Group.setRotation([-Math.SQRT1_2, 0, 0, Math.SQRT1_2]).setScale([0.01, 0.01, 0.01])
      for (const n of [made.body, made.nodes.EyeL, made.nodes.EyeR, made.nodes.Hat]) {
        // the same body, told lying down and a hundred times as large
        const inner = made.document
          .createNode(`${n.getName()} place`)
          .setRotation([Math.SQRT1_2, 0, 0, Math.SQRT1_2])
          .setScale([100, 100, 100])
        made.nodes.Group.removeChild(n).addChild(inner)
        inner.addChild(n)
      }
      return { file: 'a.glb', bytes: await pack(made), rigged: false }
    },
  },
  {
    name: 'a body in metres lying on its back, needing to be set upright',
    make: async () => {
      const made = rich()
      made.nodes.Group.setRotation([-Math.SQRT1_2, 0, 0, Math.SQRT1_2])
      return { file: 'a.glb', bytes: await pack(made), rigged: false }
    },
  },
  {
    name: 'a figure under an armature a hundredth as large',
    make: async () => {
      const made = await richRigged()
      const armature = made.joints[0].getParentNode()!
      armature.setScale([0.01, 0.01, 0.01])
      for (const j of made.joints) j.setTranslation(j.getTranslation().map(v => 100 * v) as [number, number, number])
      for (const eye of [made.nodes.EyeL, made.nodes.EyeR])
        eye.setTranslation(eye.getTranslation().map(v => 100 * v) as [number, number, number]).setScale([100, 100, 100])
      // bound where the joints stand, scale and all
      for (const skin of made.document.getRoot().listSkins()) {
        const matrices = skin.getInverseBindMatrices()!.getArray()!
        for (let i = 0; i < matrices.length; i++) if (i % 16 !== 15) matrices[i] *= 100
      }
      return { file: 'a.glb', bytes: await pack(made), rigged: true }
    },
  },
  {
    name: 'the body in a scene that is not the default one',
    make: async () => {
      const made = rich()
      const empty = made.document.createScene('notes').addChild(made.document.createNode('nothing'))
      made.document.getRoot().setDefaultScene(empty)
      return { file: 'a.glb', bytes: await pack(made), rigged: false }
    },
  },
  {
    name: 'no default scene at all',
    make: async () => {
      const r = await raw(rich())
      delete r.json.scene
      return { file: 'a.glb', bytes: packed(r), rigged: false }
    },
  },
  {
    name: 'no scenes at all',
    make: async () => {
      const r = await raw(rich())
      delete r.json.scene
      delete r.json.scenes
      return { file: 'a.glb', bytes: packed(r), rigged: false }
    },
  },
  {
    name: 'strips and fans beside lists, lines and points beside triangles',
    make: async () => {
      const made = rich()
      const { document, accessor } = made
      const p = made.nodes.Hat.getMesh()!.listPrimitives()[0]
      const strip = document.createPrimitive().setMode(5).setMaterial(made.materials.eyes)
      strip.setAttribute(
        'POSITION',
        accessor('VEC3', new Float32Array([0.1, 1.5, 0.2, 0.2, 1.5, 0.2, 0.1, 1.6, 0.2, 0.2, 1.6, 0.2, 0.1, 1.7, 0.2])),
      )
      const fan = document.createPrimitive().setMode(6).setMaterial(made.materials.eyes)
      fan.setAttribute(
        'POSITION',
        accessor('VEC3', new Float32Array([0, 1.2, 0.2, 0.1, 1.2, 0.2, 0.07, 1.27, 0.2, 0, 1.3, 0.2])),
      )
      document.createNode('Badge').setMesh(document.createMesh('Badge').addPrimitive(strip).addPrimitive(fan))
      made.nodes.Group.addChild(document.getRoot().listNodes().at(-1)!)
      const lines = document.createPrimitive().setMode(1).setMaterial(made.materials.eyes)
      lines.setAttribute('POSITION', accessor('VEC3', new Float32Array([0, 1.8, 0, 0, 2, 0])))
      document.createNode('Thread').setMesh(document.createMesh('Thread').addPrimitive(lines))
      made.nodes.Group.addChild(document.getRoot().listNodes().at(-1)!)
      void p
      return { file: 'a.glb', bytes: await pack(made), rigged: false }
    },
  },
  {
    name: 'triangles without an index list',
    make: async () => {
      const made = rich()
      const { accessor } = made
      for (const p of made.nodes.Hat.getMesh()!.listPrimitives()) {
        const index = p.getIndices()!.getArray()!
        const at = p.getAttribute('POSITION')!.getArray()!
        const uv = p.getAttribute('TEXCOORD_0')!.getArray()!
        const spread = (a: ArrayLike<number>, n: number): Float32Array =>
          Float32Array.from({ length: n * index.length }, (_, i) => a[n * index[Math.floor(i / n)] + (i % n)])
        p.setIndices(null)
          .setAttribute('POSITION', accessor('VEC3', spread(at, 3)))
          .setAttribute('TEXCOORD_0', accessor('VEC2', spread(uv, 2)))
      }
      return { file: 'a.glb', bytes: await pack(made), rigged: false }
    },
  },
  {
    name: 'whole-number positions, normals and coordinates (KHR_mesh_quantization, required)',
    make: async () => {
      const r = await raw(rich())
      r.json.extensionsUsed = [...(r.json.extensionsUsed ?? []), 'KHR_mesh_quantization']
      r.json.extensionsRequired = ['KHR_mesh_quantization']
      const hat = r.json.meshes!.find(m => m.name === 'HatMesh')!
      const { positions } = ball([0, 0, 0], 1)
      const whole = new Int16Array((positions.length / 3) * 4)
      for (let v = 0; v < positions.length / 3; v++)
        for (let k = 0; k < 3; k++) whole[4 * v + k] = Math.round(32767 * positions[3 * v + k])
      const view = append(r, bytesOf(whole), { byteStride: 8, target: 34962 })
      const at =
        r.json.accessors!.push({
          bufferView: view,
          componentType: 5122,
          normalized: true,
          count: positions.length / 3,
          type: 'VEC3',
          min: [-32767, -32767, -32767],
          max: [32767, 32767, 32767],
        }) - 1
      hat.primitives[0].attributes.POSITION = at
      const node = r.json.nodes!.find(n => n.name === 'Hat')!
      node.translation = [0, 1.74, 0.01]
      node.scale = [0.1, 0.1, 0.1]
      const a = r.json.accessors![at]
      const low = [Infinity, Infinity, Infinity],
        high = [-Infinity, -Infinity, -Infinity]
      for (let i = 0; i < whole.length; i++)
        if (i % 4 < 3) {
          low[i % 4] = Math.min(low[i % 4], whole[i])
          high[i % 4] = Math.max(high[i % 4], whole[i])
        }
      a.min = low
      a.max = high
      return { file: 'a.glb', bytes: packed(r), rigged: false }
    },
  },
  {
    name: 'sparse positions and an accessor of zeros',
    make: async () => {
      const r = await raw(rich())
      const hat = r.json.meshes!.find(m => m.name === 'HatMesh')!
      const a = r.json.accessors![hat.primitives[0].attributes.POSITION]
      const indices = append(r, bytesOf(new Uint16Array([3, 9])))
      const values = append(r, bytesOf(new Float32Array([0.01, 1.9, 0, -0.01, 1.92, 0])))
      a.sparse = { count: 2, indices: { bufferView: indices, componentType: 5123 }, values: { bufferView: values } }
      a.max = [Math.max(a.max![0], 0.01), 1.92, a.max![2]]
      hat.primitives[0].attributes._HEAT =
        r.json.accessors!.push({ componentType: 5126, count: a.count, type: 'SCALAR' }) - 1
      return { file: 'a.glb', bytes: packed(r), rigged: false }
    },
  },
  {
    name: 'a .gltf with data and pictures beside it',
    make: async () => {
      const { json, resources } = await io().writeJSON(rich().document, { basename: 'meadow' })
      const beside = new Map(Object.entries(resources).map(([k, v]) => [k, new Uint8Array(v)]))
      return { file: 'a.gltf', bytes: new TextEncoder().encode(`\uFEFF${JSON.stringify(json)}`), beside, rigged: false }
    },
  },
  {
    name: 'a .gltf that carries everything inside',
    make: async () => {
      const r = await raw(rich())
      r.json.buffers![0] = {
        byteLength: r.data.length,
        uri: `data:application/octet-stream;base64,${Buffer.from(r.data).toString('base64')}`,
      }
      return { file: 'a.gltf', bytes: new TextEncoder().encode(JSON.stringify(r.json)), rigged: false }
    },
  },
  {
    name: 'pictures as WebP, required',
    make: async () => {
      const r = await raw(rich())
      r.json.extensionsUsed = [...(r.json.extensionsUsed ?? []), 'EXT_texture_webp']
      r.json.extensionsRequired = ['EXT_texture_webp']
      const source = r.json.images!.push({ name: 'leaf', mimeType: 'image/webp', bufferView: append(r, WEBP) }) - 1
      const t = r.json.textures![0]
      delete t.source
      t.extensions = { EXT_texture_webp: { source } }
      return { file: 'a.glb', bytes: packed(r), rigged: false }
    },
  },
  {
    name: 'pictures as KTX2, required',
    make: async () => {
      const r = await raw(rich())
      r.json.extensionsUsed = [...(r.json.extensionsUsed ?? []), 'KHR_texture_basisu']
      r.json.extensionsRequired = ['KHR_texture_basisu']
      const source = r.json.images!.push({ name: 'bark', mimeType: 'image/ktx2', bufferView: append(r, KTX2) }) - 1
      r.json.textures![0] = { ...r.json.textures![0], extensions: { KHR_texture_basisu: { source } } }
      delete r.json.textures![0].source
      return { file: 'a.glb', bytes: packed(r), rigged: false }
    },
  },
  {
    name: 'extensions nobody knows, with numbers in them',
    make: async () => {
      const r = await raw(rich())
      r.json.extensionsUsed = [...(r.json.extensionsUsed ?? []), 'MEADOW_weather', 'MEADOW_cloth']
      r.json.extensions = { ...r.json.extensions, MEADOW_weather: { wind: [1, 0, 2], accessor: 0, node: 1 } }
      r.json.nodes!.find(n => n.name === 'Hat')!.extensions = { MEADOW_cloth: { stiffness: 0.4, bufferView: 0 } }
      return { file: 'a.glb', bytes: packed(r), rigged: false }
    },
  },
  {
    name: 'roles told by VRM 1.0',
    make: async () => {
      const r = await raw(await richRigged())
      const { skeleton } = await cleanDoll()
      const humanBones: Record<string, { node: number }> = {}
      skeleton.roles.forEach((role, j) => {
        if (role && !/End$/.test(role))
          humanBones[role] = { node: r.json.nodes!.findIndex(n => n.name === skeleton.names[j]) }
      })
      r.json.extensionsUsed = [...(r.json.extensionsUsed ?? []), 'VRMC_vrm']
      r.json.extensions = {
        ...r.json.extensions,
        VRMC_vrm: {
          specVersion: '1.0',
          meta: { name: 'Doll', authors: ['nobody'], licenseUrl: 'https://example.org/' },
          humanoid: { humanBones },
        },
      }
      return { file: 'a.glb', bytes: packed(r), rigged: true }
    },
  },
  {
    name: 'a mirrored twin of a mesh, and one mesh on three nodes',
    make: async () => {
      const made = rich()
      const { document } = made
      const shoe = ball([0.12, 0.05, 0.1], 0.06)
      const mesh = document.createMesh('Shoe').addPrimitive(
        document
          .createPrimitive()
          .setMaterial(made.materials.eyes)
          .setIndices(made.accessor('SCALAR', shoe.indices))
          .setAttribute('POSITION', made.accessor('VEC3', shoe.positions))
          .setAttribute('NORMAL', made.accessor('VEC3', ballNormals(shoe.positions, [0.12, 0.05, 0.1]))),
      )
      made.nodes.Group.addChild(document.createNode('Shoe.L').setMesh(mesh))
      made.nodes.Group.addChild(document.createNode('Shoe.R').setMesh(mesh).setScale([-1, 1, 1]))
      return { file: 'a.glb', bytes: await pack(made), rigged: false }
    },
  },
  {
    name: 'gloss in place of metal, one name for two pieces',
    make: async () => {
      const made = rich()
      const gloss = made.document.createExtension(KHRMaterialsPBRSpecularGlossiness).createPBRSpecularGlossiness()
      gloss.setDiffuseFactor([0.2, 0.4, 0.1, 1]).setGlossinessFactor(0.3)
      made.materials.eyes.setExtension('KHR_materials_pbrSpecularGlossiness', gloss)
      made.nodes.EyeL.setName('Eye')
      made.nodes.EyeR.setName('Eye')
      return { file: 'a.glb', bytes: await pack(made), rigged: false }
    },
  },
  {
    name: 'nodes placed by matrices',
    make: async () => {
      const r = await raw(rich())
      for (const n of r.json.nodes!) {
        if (!n.translation) continue
        const [x, y, z] = n.translation
        delete n.translation
        n.matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1]
      }
      return { file: 'a.glb', bytes: packed(r), rigged: false }
    },
  },
  {
    name: 'eight joints a vertex',
    make: async () => {
      const made = rich()
      const rig = await richRigged()
      const { skeleton, skin } = await cleanDoll()
      void made
      const eight = {
        influences: 8,
        joints: new Uint16Array(2 * skin.joints.length),
        weights: new Float32Array(2 * skin.weights.length),
      }
      const n = skin.weights.length / skin.influences
      for (let v = 0; v < n; v++)
        for (let k = 0; k < skin.influences; k++) {
          // half of every weight goes to a joint of its own in the second set
          const w = skin.weights[v * skin.influences + k]
          const j = skin.joints[v * skin.influences + k]
          eight.joints[v * 8 + k] = j
          eight.weights[v * 8 + k] = w / 2
          const p = Math.max(0, skeleton.parents[j])
          eight.joints[v * 8 + 4 + k] = p === j ? 1 : p
          eight.weights[v * 8 + 4 + k] = w / 2
        }
      bindTo(rig, rig.body, skeleton, merged(eight), rig.joints, 2)
      return { file: 'a.glb', bytes: await pack(rig), rigged: true, faulty: true }
    },
  },
  {
    name: 'weights in single bytes, a camera that moves',
    make: async () => {
      const made = await richRigged()
      for (const p of made.body.getMesh()!.listPrimitives()) {
        const w = p.getAttribute('WEIGHTS_0')!.getArray()!
        const bytes = new Uint8Array(w.length)
        for (let v = 0; v < w.length / 4; v++) {
          let left = 255
          for (let k = 3; k > 0; k--) left -= bytes[4 * v + k] = Math.round(255 * w[4 * v + k])
          bytes[4 * v] = left
        }
        p.setAttribute('WEIGHTS_0', made.accessor('VEC4', bytes, true))
        p.setAttribute(
          'JOINTS_0',
          made.accessor(
            'VEC4',
            Uint8Array.from(p.getAttribute('JOINTS_0')!.getArray()! as Uint16Array, (j, i) => (bytes[i] > 0 ? j : 0)),
          ),
        )
      }
      addClip(made, 'look', made.nodes.Shot, 'LINEAR')
      return { file: 'a.glb', bytes: await pack(made), rigged: true }
    },
  },
]

function merged(skin: { influences: number; joints: Uint16Array; weights: Float32Array }): typeof skin {
  const { influences: k, joints, weights } = skin
  for (let v = 0; v < weights.length / k; v++)
    for (let a = 0; a < k; a++)
      for (let b = 0; b < a; b++)
        if (weights[v * k + a] > 0 && weights[v * k + b] > 0 && joints[v * k + a] === joints[v * k + b]) {
          weights[v * k + b] += weights[v * k + a]
          weights[v * k + a] = 0
          joints[v * k + a] = 0
        }
  return skin
}

function ballNormals(positions: Float32Array, centre: readonly number[]): Float32Array {
  const out = positions.slice()
  for (let i = 0; i < out.length; i += 3) {
    const d = [0, 1, 2].map(k => positions[i + k] - centre[k])
    const l = Math.hypot(...d) || 1
    for (let k = 0; k < 3; k++) out[i + k] = d[k] / l
  }
  return out
}

/** A WebP of one point. */
const WEBP = Uint8Array.from(Buffer.from('UklGRiIAAABXRUJQVlA4IBYAAAAwAQCdASoBAAEADsD+JaQAA3AAAAAA', 'base64'))
/** The head of a KTX2: enough to know it by. */
const KTX2 = Uint8Array.from([
  0xab,
  0x4b,
  0x54,
  0x58,
  0x20,
  0x32,
  0x30,
  0xbb,
  0x0d,
  0x0a,
  0x1a,
  0x0a,
  ...new Array<number>(96).fill(0),
])
void png
