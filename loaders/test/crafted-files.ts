import { readWeights } from '@chiraxis/core/paint'
import { looksLikeNormals, readFile } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'
import { readProject } from '@chiraxis/core/recipe'
import { strToU8, zipSync, zlibSync } from 'fflate'
import { OUTER_READERS } from '../src'
import { binaryFbx, sheetRecords } from './fbx-binary'
import { COLLADA, FBX_TEXT } from './samples'

export interface CraftedFile {
  readonly what: string
  readonly make: () => Uint8Array | Promise<Uint8Array>
  readonly name: string
  readonly beside?: () => ReadonlyMap<string, Uint8Array>
  /** Reads it otherwise than as a body or a motion. */
  readonly read?: (bytes: Uint8Array) => Promise<unknown>
}

const encode = (s: string): Uint8Array => new TextEncoder().encode(s)
const json = (value: object): Uint8Array => encode(JSON.stringify({ asset: { version: '2.0' }, ...value }))
const data = (values: Float32Array): string => `data:application/octet-stream;base64,${Buffer.from(values.buffer).toString('base64')}` // prettier-ignore
const many = <T>(n: number, of: (i: number) => T): T[] => Array.from({ length: n }, (_, i) => of(i))

/** A glTF of one triangle, with more of whatever is asked. */
function triangles(nodes: object[], more: object = {}, primitives = 1): Uint8Array {
  return json({
    buffers: [{ byteLength: 36, uri: data(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0)) }],
    bufferViews: [{ buffer: 0, byteLength: 36 }],
    accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] }],
    meshes: [{ primitives: many(primitives, () => ({ attributes: { POSITION: 0 } })) }],
    nodes,
    scenes: [{ nodes: nodes.map((_, i) => i) }],
    scene: 0,
    ...more,
  })
}

/** Joints in a row moved by two keys at the ends of a long time. */
function longTakes(joints: number, seconds: number, animations: number): Uint8Array {
  return json({
    buffers: [{ byteLength: 40, uri: data(Float32Array.of(0, seconds, 0, 0, 0, 1, 0, 0, 0, 1)) }],
    bufferViews: [
      { buffer: 0, byteOffset: 0, byteLength: 8 },
      { buffer: 0, byteOffset: 8, byteLength: 32 },
    ],
    accessors: [
      { bufferView: 0, componentType: 5126, count: 2, type: 'SCALAR', min: [0], max: [seconds] },
      { bufferView: 1, componentType: 5126, count: 2, type: 'VEC4' },
    ],
    nodes: many(joints, i => ({ name: `j${i}` })),
    scenes: [{ nodes: many(joints, i => i) }],
    scene: 0,
    animations: many(animations, a => ({
      samplers: [{ input: 0, output: 1 }],
      channels: many(animations > 1 ? 1 : joints, i => ({
        sampler: 0,
        target: { node: (a + i) % joints, path: 'rotation' },
      })),
    })),
  })
}

const bvh = (joints: number, channels: string, frames: number): string =>
  `HIERARCHY\nROOT a\n{\nOFFSET 0 0 0\n${channels}\n${many(joints, i => `JOINT j${i}\n{\nOFFSET 0 1 0\nCHANNELS 0\n}`).join('\n')}\n}\nMOTION\nFrames: ${frames}\nFrame Time: 0.01\n` // prettier-ignore

const ply = (header: string): Uint8Array => encode(`ply\nformat ascii 1.0\n${header}end_header\n`)
const VERTEX = 'property float x\nproperty float y\nproperty float z\n'
const TRIANGLES = 'v 0 0 0\nv 1 0 0\nv 0 1 0\n'

function png(width: number, height: number, expanded: number): Uint8Array {
  const chunk = (kind: string, body: Uint8Array): Uint8Array => {
    const out = new Uint8Array(12 + body.length)
    new DataView(out.buffer).setUint32(0, body.length)
    out.set(encode(kind), 4)
    out.set(body, 8)
    return out
  }
  const head = new Uint8Array(13)
  new DataView(head.buffer).setUint32(0, width)
  new DataView(head.buffer).setUint32(4, height)
  head.set([8, 2, 0, 0, 0], 8)
  const parts = [
    Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a),
    chunk('IHDR', head),
    chunk('IDAT', zlibSync(new Uint8Array(expanded), { level: 9 })),
    chunk('IEND', new Uint8Array(0)),
  ]
  return Uint8Array.from(Buffer.concat(parts))
}

/** Nodes that each put the next one into place twice: two to the power of `levels` in the end. */
const doubling = (levels: number): string =>
  COLLADA.replace(
    '<library_visual_scenes>',
    `<library_nodes>${many(levels, i => `<node id="d${i}"><instance_node url="#d${i + 1}"/><instance_node url="#d${i + 1}"/></node>`).join('')}<node id="d${levels}"/></library_nodes><library_visual_scenes>`, // prettier-ignore
  ).replace('<node id="body"', '<node id="all"><instance_node url="#d0"/></node><node id="body"')

/** Small files that would hang a reader, fill its memory or slip through. Every one is to be refused. */
export const CRAFTED: readonly CraftedFile[] = [
  {
    what: 'an accessor without data and a count of 50 million',
    name: 'a.gltf',
    make: () =>
      json({
        accessors: [{ componentType: 5126, count: 50_000_000, type: 'VEC3' }],
        meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
        nodes: [{ mesh: 0 }],
        scenes: [{ nodes: [0] }],
      }),
  },
  {
    what: 'one large mesh under 5,000 nodes',
    name: 'b.gltf',
    make: () =>
      triangles(
        many(5000, () => ({ mesh: 0 })),
        { accessors: [{ componentType: 5126, count: 20_000, type: 'VEC3' }] },
      ),
  },
  { what: 'two keys over 6,000 s on 4,000 joints', name: 'c.gltf', make: () => longTakes(4000, 6000, 1) },
  { what: '500 animations of 600 s on 200 joints', name: 'd.gltf', make: () => longTakes(200, 600, 500) },
  { what: '60,000 primitives', name: 'e.gltf', make: () => triangles([{ mesh: 0 }], {}, 60_000) },
  {
    what: 'a joint name of 200,000 letters',
    name: 'f.gltf',
    make: () => triangles([{ mesh: 0, name: 'x'.repeat(200_000) }]),
  },
  {
    what: 'a name that is no text',
    name: 'g.gltf',
    make: () => triangles([{ mesh: 0, name: { toString: 1 } as unknown as string }]),
  },
  {
    what: 'nodes that are no list',
    name: 'h.gltf',
    make: () => triangles([{ mesh: 0 }], { nodes: { length: 1e9 }, scenes: undefined }),
  },
  {
    what: 'places of 1e39',
    name: 'i.obj',
    make: () => encode(`v 1e39 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n`),
  },
  {
    what: 'a BVH of 4,000 joints without channels',
    name: 'j.bvh',
    make: () => encode(bvh(4000, 'CHANNELS 0', 500_000)),
  },
  {
    what: 'a BVH offset beyond what can be stored',
    name: 'k.bvh',
    make: () => encode(bvh(1, 'CHANNELS 0', 1).replace('OFFSET 0 1 0', 'OFFSET 1e39 0 0')),
  },
  {
    what: 'a PLY with 2,500 elements of 5e7 without properties',
    name: 'l.ply',
    make: () => ply(`element vertex 3\n${VERTEX}${many(2500, i => `element e${i} 50000000\n`).join('')}`),
  },
  {
    what: 'a PLY that promises six million vertices',
    name: 'm.ply',
    make: () => ply(`element vertex 6000000\n${VERTEX}element face 8000000\nproperty list uchar int vertex_indices\n`),
  },
  {
    what: 'an OBJ of 60,000 groups of one name that cut the body to pieces',
    name: 'n.obj',
    make: () => encode(TRIANGLES + 'g same\nf 1 2 3\n'.repeat(60_000)),
  },
  {
    what: 'a material library of 60,000 materials',
    name: 'o.obj',
    make: () => encode(`mtllib o.mtl\n${TRIANGLES}f 1 2 3\n`),
    beside: () => new Map([['o.mtl', encode(many(60_000, i => `newmtl m${i}\nmap_Kd t${i}.png\n`).join(''))]]),
  },
  { what: 'a body of one point', name: 'p.obj', make: () => encode('v 1 1 1\nv 1 1 1\nv 1 1 1\nf 1 2 3\n') },
  { what: 'a body of 1e-30', name: 'q.obj', make: () => encode('v 0 0 0\nv 1e-30 0 0\nv 0 1e-30 0\nf 1 2 3\n') },
  { what: 'a body of 1e30', name: 'r.obj', make: () => encode('v 0 0 0\nv 1e30 0 0\nv 0 1e30 0\nf 1 2 3\n') },
  {
    what: 'a text FBX with rotation keys of 1e30',
    name: 's.fbx',
    make: () => encode(`${FBX_TEXT}\nTakes: {\n\tKeyValueFloat: *2 {\n\t\ta: 0,1e30\n\t}\n}\n`),
  },
  {
    what: 'a binary FBX with rotation keys of 1e30',
    name: 't.fbx',
    make: () => binaryFbx(sheetRecords(Float32Array.of(0, 1e30))),
  },
  {
    what: 'a binary FBX whose curve turns a million times',
    name: 'u.fbx',
    make: () => binaryFbx(sheetRecords(Float32Array.from({ length: 4000 }, (_, i) => (i % 2 ? 1e6 : -1e6)))),
  },
  {
    what: 'a COLLADA with a vcount of 1e8',
    name: 'v.dae',
    make: () => encode(COLLADA.replace('<vcount>1 1 1 1 1 1</vcount>', '<vcount>100000000 1 1 1 1 1</vcount>')),
  },
  { what: 'a COLLADA of 2^26 node instances', name: 'w.dae', make: () => encode(doubling(26)) },
  {
    what: 'a COLLADA whose node holds itself',
    name: 'x.dae',
    make: () => encode(doubling(3).replace('<node id="d3"/>', '<node id="d3"><instance_node url="#d1"/></node>')),
  },
  {
    what: 'a COLLADA with a thousand unclosed elements',
    name: 'y.dae',
    make: () => encode(COLLADA.replace('<library_geometries>', `<library_geometries>${'<extra>'.repeat(1000)}`)),
  },
  {
    what: 'a COLLADA with offsets of -1e39',
    name: 'z.dae',
    make: () => encode(COLLADA.replaceAll('0 0 1 10 0 0 0 1', '0 0 1 -1e39 0 0 0 1')),
  },
  {
    what: 'a project archive that grows to 1.9 GB',
    name: 'bomb.chiraxis',
    make: () => {
      const zip = zipSync({ 'recipe.json': strToU8('{}'), [`files/${'a'.repeat(64)}`]: new Uint8Array(2 ** 21) })
      // the told sizes, in the file's own head and in the list at the end
      const view = new DataView(zip.buffer)
      for (let i = 0; i + 4 < zip.length; i++)
        if (view.getUint32(i, true) === 2 ** 21) view.setUint32(i, 1_900_000_000, true)
      return zip
    },
    read: b => readProject(b),
  },
  {
    what: 'a project archive that tells less than it holds',
    name: 'liar.chiraxis',
    make: () => {
      const zip = zipSync({ 'recipe.json': new Uint8Array(2 ** 22).fill(32) })
      const view = new DataView(zip.buffer)
      for (let i = 0; i + 4 < zip.length; i++) if (view.getUint32(i, true) === 2 ** 22) view.setUint32(i, 40, true)
      return zip
    },
    read: b => readProject(b),
  },
  {
    what: 'a picture of one pixel that expands to 400 MB',
    name: 'bomb.png',
    make: () => png(1, 1, 400_000_000),
    read: async bytes => {
      // no refusal of its own: such a picture is not looked into
      if (await looksLikeNormals({ name: 'bomb', mime: 'image/png', bytes })) return bytes
      throw new ChiraxisError('too-large', 'The picture was not looked into.')
    },
  },
  {
    what: 'a weights file with places beyond what can be stored',
    name: 'w.json',
    make: () =>
      encode(
        JSON.stringify({
          format: 'chiraxis-weights',
          version: 1,
          joints: ['a'],
          influences: 1,
          positions: [1e39, 0, 0, 1, 0, 0, 0, 1, 0],
          triangles: [0, 1, 2],
          joint: [0, 0, 0],
          weight: [1, 1, 1],
        }),
      ),
    read: async b => readWeights(b, 'w.json'),
  },
]

/** Reads a crafted file as the program would. */
export async function readCrafted(file: CraftedFile, bytes: Uint8Array): Promise<unknown> {
  return file.read ? file.read(bytes) : readFile(bytes, file.name, { readers: OUTER_READERS, beside: file.beside?.() })
}
