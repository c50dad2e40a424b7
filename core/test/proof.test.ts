import { beforeAll, describe, expect, it } from 'vitest'
import { packGlb, sourceAsRead, type GltfJson } from '../src/document'
import {
  figureWithTakes,
  proveBvh,
  proveGlb,
  proveVrmAnimation,
  readFile,
  writeBvh,
  writeGlb,
  writeVrmAnimation,
  type GltfContent,
} from '../src/formats'
import { fromAxisAngle, multiply, quatAt, setQuat } from '../src/math'
import type { Take } from '../src/motion'
import { cleanSkeleton } from './figure'
import { wildTake } from './skeletons'
import { io, richRigged } from './round-trip/rich'

let content: GltfContent
let bytes: Uint8Array
beforeAll(async () => {
  const source = await io().writeBinary((await richRigged()).document)
  const received = await readFile(source, 'a.glb')
  content = figureWithTakes('a', received, [{ ...wildTake(received.skeleton!, 4), name: 'wild' }]).content
  bytes = await writeGlb(content)
})

/** The written file with something changed on its way. */
async function damaged(change: (json: GltfJson, data: Uint8Array) => void): Promise<Uint8Array> {
  const { document } = await readFile(bytes, 'a.glb')
  const json = structuredClone(document!.json)
  const data = document!.buffers[0].slice()
  change(json, data)
  return packGlb({ json, buffers: [data] })
}
/** Adds something to one number of an accessor, wherever it lies. */
function poke(json: GltfJson, data: Uint8Array, accessor: number, element: number, by: number): void {
  const a = json.accessors![accessor]
  const v = json.bufferViews![a.bufferView!]
  const stride = v.byteStride ?? 4 * (a.type === 'VEC3' ? 3 : 2)
  const at = (v.byteOffset ?? 0) + (a.byteOffset ?? 0) + stride * element
  const view = new DataView(data.buffer, data.byteOffset)
  view.setFloat32(at, view.getFloat32(at, true) + by, true)
}
const bodyOf = (json: GltfJson): GltfJson['meshes'] extends (infer M)[] | undefined ? M : never =>
  json.meshes!.find(m => m.name === 'BodyMesh')! as never

describe('the proof', () => {
  it('lets a good file through', async () => {
    expect(await proveGlb(bytes, content)).toMatchObject({ validatorErrors: 0, sameAsSource: true })
  })
  it.each<[string, (json: GltfJson, data: Uint8Array) => void, RegExp]>([
    [
      'a vertex moved by a hair',
      (json, data) => {
        poke(json, data, bodyOf(json).primitives[0].attributes.POSITION, 10, 1e-3)
      },
      /from where it should/,
    ],
    [
      'a texture coordinate changed',
      (json, data) => {
        poke(json, data, bodyOf(json).primitives[0].attributes.TEXCOORD_1, 5, 0.01)
      },
      /TEXCOORD_1 of Body/,
    ],
    [
      'a picture with one other byte',
      (json, data) => {
        const view = json.bufferViews![json.images![2].bufferView!]
        data[(view.byteOffset ?? 0) + view.byteLength - 20] ^= 1
      },
      /the image/,
    ],
    ['a material value', json => (json.materials![0].alphaCutoff = 0.5), /the material skin/],
    ['a sampler', json => (json.samplers![0] = { ...json.samplers![0], wrapS: 10497 }), /the material/],
    [
      'a node without its extras',
      json => delete json.nodes!.find(n => n.name === 'Body')!.extras,
      /the extras of Body/,
    ],
    ['a camera gone', json => delete json.nodes!.find(n => n.name === 'Shot')!.camera, /the camera of Shot/],
    ['a node gone', json => (json.nodes!.find(n => n.name === 'Lamp')!.name = 'Other'), /the node Lamp/],
    ['morph names', json => (bodyOf(json).extras = { targetNames: ['smile', 'wink'] }), /the mesh of Body/],
    [
      'a joint turned',
      json => {
        const n = json.nodes!.find(x => x.name === content.skeleton!.names[4])!
        n.rotation = [0.02, 0, 0, Math.sqrt(1 - 0.0004)]
      },
      /a joint is turned|from where it should/,
    ],
    ['a take gone', json => json.animations!.shift(), /take/],
    [
      'weights of another joint',
      json => {
        const skin = json.skins!.find(s => s.joints.length > 5)!
        skin.joints = [skin.joints[1], skin.joints[0], ...skin.joints.slice(2)]
      },
      /weight|from where it should/,
    ],
  ])('keeps back a file with %s', async (_, change, words) => {
    const wrong = await damaged(change)
    await expect(proveGlb(wrong, content)).rejects.toMatchObject({
      code: 'unproven',
      message: expect.stringMatching(words),
    })
  })
  it('tells two takes of one name apart by their place', async () => {
    const received = await readFile(bytes, 'a.glb')
    const a = { ...wildTake(received.skeleton!, 8), name: 'same' }
    const b = { ...wildTake(received.skeleton!, 9), name: 'same' }
    const { skeleton, mesh, skin } = received
    const source = { ...sourceAsRead(received)!, takeFrom: [-1, -1] }
    const two: GltfContent = { name: 'a', mesh, skeleton, skin, takes: [a, b], source }
    const written = await writeGlb(two)
    expect(await proveGlb(written, two)).toMatchObject({ validatorErrors: 0 })
    await expect(proveGlb(written, { ...two, takes: [b, a] })).rejects.toMatchObject({ code: 'unproven' })
  })
})

describe('the proof of a motion', () => {
  const skeleton = cleanSkeleton()
  const take = { ...wildTake(skeleton, 12), name: 'wild' }
  const still: Take = { ...take, translations: take.translations.slice() }
  for (let f = 0; f < still.frames; f++)
    for (let j = 1; j < skeleton.names.length; j++) {
      if (skeleton.roles[j] === 'hips') continue
      still.translations.set(skeleton.restTranslations.subarray(3 * j, 3 * j + 3), 3 * (f * skeleton.names.length + j))
    }

  it('of a VRM Animation compares turns and hips, and tells what the format lets go', async () => {
    const file = await writeVrmAnimation(skeleton, still)
    const good = await proveVrmAnimation(file, skeleton, still)
    expect(good.maxRotationErrorDegrees).toBeLessThan(0.01)
    expect(good.maxPositionError).toBeLessThan(1e-5)
    expect(good.notes).toBeUndefined()
    const stretched: Take = { ...still, translations: still.translations.slice() }
    const knee = skeleton.roles.indexOf('leftLowerLeg')
    stretched.translations[3 * (4 * skeleton.names.length + knee) + 1] -= 0.1
    const { notes } = await proveVrmAnimation(await writeVrmAnimation(skeleton, stretched), skeleton, stretched)
    expect(notes?.join()).toMatch(/10\.0 cm/)
  })
  it('of a VRM Animation keeps back a turn, a moved hip, a joint of another role and lost frames', async () => {
    const file = await writeVrmAnimation(skeleton, still)
    const J = skeleton.names.length
    const elbow = skeleton.roles.indexOf('leftLowerArm')
    const hips = skeleton.roles.indexOf('hips')
    const other = (change: (t: { rotations: Float32Array; translations: Float32Array }) => void): Take => {
      const t = { ...still, rotations: still.rotations.slice(), translations: still.translations.slice() }
      change(t)
      return t
    }
    const bent = other(({ rotations }) =>
      setQuat(rotations, 5 * J + elbow, multiply(quatAt(rotations, 5 * J + elbow), fromAxisAngle([0, 1, 0], 0.01))),
    )
    await expect(proveVrmAnimation(file, skeleton, bent)).rejects.toThrow(/turned/)
    const moved = other(({ translations }) => (translations[3 * (7 * J + hips)] += 0.01))
    await expect(proveVrmAnimation(file, skeleton, moved)).rejects.toThrow(/hips lie/)
    const { document } = await readFile(file, 'a.glb')
    const json = structuredClone(document!.json)
    const bones = (json.extensions as { VRMC_vrm_animation: { humanoid: { humanBones: Record<string, unknown> } } })
      .VRMC_vrm_animation.humanoid.humanBones
    ;[bones.leftHand, bones.rightHand] = [bones.rightHand, bones.leftHand]
    const swapped = packGlb({ json, buffers: [...document!.buffers] })
    await expect(proveVrmAnimation(swapped, skeleton, still)).rejects.toThrow(/leftHand is/)
    await expect(proveVrmAnimation(file, skeleton, { ...still, frames: 11 })).rejects.toThrow(/frames/)
  })
  it('of a BVH keeps back joints that lie elsewhere', () => {
    const file = writeBvh(skeleton, still) as Uint8Array<ArrayBuffer>
    expect(proveBvh(file, skeleton, still).maxPositionError).toBeLessThan(1e-3)
    const moved = { ...still, translations: still.translations.map((x, i) => (i === 3 ? x + 0.02 : x)) }
    expect(() => proveBvh(file, skeleton, moved)).toThrow(/lies/)
  })
})
