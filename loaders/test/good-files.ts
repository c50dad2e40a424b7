import { looseWeights, readWeights, writeWeights } from '@chiraxis/core/paint'
import { readFile, writeBvh, writeGlb, writePly, writeStl, writeVrmAnimation } from '@chiraxis/core/formats'
import { plainMaterial } from '@chiraxis/core/mesh'
import {
  emptyRecipe,
  hashBytes,
  parseOwnPlan,
  planOfRecipe,
  readProject,
  writeProject,
  type Recipe,
} from '@chiraxis/core/recipe'
import { EMPTY_NOTE, parsePerformerNote, writePerformerNote } from '@chiraxis/core/retarget'
import { jsonOf } from '@chiraxis/core/math'
import { cleanDoll } from '../../core/test/figure'
import { box } from '../../core/test/shapes'
import { wildTake } from '../../core/test/skeletons'
import { OUTER_READERS } from '../src'
import { binaryFbx, sheetRecords } from './fbx-binary'
import { COLLADA, FBX_TEXT } from './samples'

/** A good file of some kind, and how it is read. */
export interface GoodFile {
  readonly name: string
  readonly bytes: Uint8Array
  readonly read: (bytes: Uint8Array) => Promise<unknown>
}

const encode = (s: string): Uint8Array => new TextEncoder().encode(s)
const decode = (b: Uint8Array): string => new TextDecoder().decode(b)

/** The same content as a glTF with its data inside the text. */
function gltfOf(glb: Uint8Array): Uint8Array {
  const view = new DataView(glb.buffer, glb.byteOffset)
  const length = view.getUint32(12, true)
  const json = JSON.parse(decode(glb.subarray(20, 20 + length))) as { buffers: { uri?: string }[] }
  const data = glb.subarray(28 + length)
  json.buffers[0]!.uri = `data:application/octet-stream;base64,${Buffer.from(data).toString('base64')}`
  return encode(JSON.stringify(json))
}

/** One small file of every kind the program reads, each with everything its format can hold here. */
export async function goodFiles(): Promise<GoodFile[]> {
  const file = (name: string, bytes: Uint8Array): GoodFile => ({
    name,
    bytes,
    read: b => readFile(b, name, { readers: OUTER_READERS, beside: new Map([['box.mtl', MTL]]) }),
  })
  const { skeleton, takes } = await cleanDoll()
  const { positions, indices, parts } = box([-0.2, 0, -0.1], [0.2, 1.8, 0.1])
  const n = positions.length / 3
  const every = <T>(size: number, of: (i: number) => number): Float32Array & T =>
    Float32Array.from({ length: size * n }, (_, i) => of(i)) as Float32Array & T
  const mesh = {
    positions,
    indices,
    parts,
    colors: every(3, i => (i % 5) / 5),
    uvs: every(2, i => (i % 3) / 3),
    morphs: [{ name: 'wide', offsets: every(3, i => 0.01 * (i % 4)) }],
  }
  const skin = {
    influences: 4,
    joints: Uint16Array.from({ length: 4 * n }, (_, i) => i % 3),
    weights: every(4, i => (i % 4 === 0 ? 1 : 0)),
  }
  const glb = await writeGlb({
    name: 'doll',
    mesh,
    skeleton,
    skin,
    takes: [takes[0] ?? wildTake(skeleton, 1)],
    materials: [plainMaterial('cloth')],
  })
  const body = { name: 'doll.glb', hash: hashBytes(glb), size: glb.length }
  const recipe: Recipe = { ...emptyRecipe('doll'), body }
  const plain = { positions, indices, parts }
  const ascii =
    'ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nproperty float nx\nproperty float ny\nproperty float nz\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nproperty float s\nproperty float t\nelement face 4\nproperty list uchar int vertex_indices\nend_header\n' +
    '0 0 0 0 0 1 255 0 0 0 0\n1 0 0 0 0 1 0 255 0 1 0\n0 1 0 0 0 1 0 0 255 0 1\n0 0 1 0 0 1 9 9 9 0.5 0.5\n3 0 1 2\n3 0 1 3\n3 1 2 3\n3 0 2 3\n'
  const fresh = emptyRecipe('plan')
  const drawn: Recipe = {
    ...fresh,
    bones: {
      ...fresh.bones,
      edits: [
        {
          kind: 'chain',
          parent: 'hips',
          name: 'tail',
          points: [
            [0, 0, 0],
            [0, -0.1, -0.2],
          ],
          joints: 4,
          mirror: false,
        },
        { kind: 'rename', names: { hips: 'pelvis' } },
        { kind: 'turn', joint: 'head', by: [0, 0.5, 0, 0.9], mirror: true },
      ],
    },
  }
  return [
    file('doll.glb', glb),
    file('doll.gltf', gltfOf(glb)),
    file('take.vrma', await writeVrmAnimation(skeleton, wildTake(skeleton, 2))),
    file('take.bvh', writeBvh(skeleton, wildTake(skeleton, 4, 6))),
    file('box.obj', OBJ),
    { ...file('box.mtl', MTL), read: b => readFile(OBJ, 'box.obj', { beside: new Map([['box.mtl', b]]) }) },
    file('box.ply', writePly({ ...plain, colors: mesh.colors })),
    file('text.ply', encode(ascii)),
    file('box.stl', writeStl(plain)),
    file(
      'text.stl',
      encode('solid s\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nfacet normal 0 0 1\nouter loop\nvertex 0 0 1\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid s\n'), // prettier-ignore
    ),
    file('sheet.fbx', encode(FBX_TEXT)),
    file('sheet.binary.fbx', binaryFbx(sheetRecords())),
    file('strip.dae', encode(COLLADA)),
    { name: 'doll.chiraxis', bytes: await writeProject(recipe, async () => glb), read: b => readProject(b) },
    {
      name: 'weights.json',
      bytes: writeWeights(looseWeights(plain, skeleton, skin, 1.8)),
      read: async b => readWeights(b, 'weights.json'),
    },
    {
      name: 'plan.json',
      bytes: encode(JSON.stringify(planOfRecipe(drawn, 'plan'))),
      read: async b => parseOwnPlan(jsonOf(b, 'plan.json')),
    },
    {
      name: 'map.json',
      bytes: writePerformerNote('North', { ...EMPTY_NOTE, map: { hips: 'Hip' }, restTurns: { hips: [0, 12, 0] } }),
      read: async b => parsePerformerNote(jsonOf(b, 'map.json')),
    },
  ]
}

const MTL = encode('newmtl cloth\nKd 0.5 0.2 0.1\nd 0.8\nmap_Kd cloth.png\nnewmtl skin\nKd 1 1 1\n')
const OBJ = encode(
  'mtllib box.mtl\no box\nusemtl cloth\nv 0 0 0 1 0 0\nv 1 0 0 0 1 0\nv 0 1 0 0 0 1\nv 0 0 1 1 1 1\nvt 0 0\nvt 1 0\nvt 0 1\nvn 0 0 1\nf 1/1/1 2/2/1 3/3/1\nf 1/2/1 2/1/1 4/3/1\ng other\nusemtl skin\nf 2/1 3/2 4/3\nf -4 -2 -1\n',
)
