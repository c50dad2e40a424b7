import { describe, expect, it } from 'vitest'
import { Vector3 } from 'three'
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js'
import { VRMLoaderPlugin, type VRM } from '@pixiv/three-vrm'
import { deliver, readGltf, VRM_NEEDS, type GltfContent, type Proof } from '@chiraxis/core/formats'
import { plainMaterial, type Mesh } from '@chiraxis/core/mesh'
import { worldPose } from '@chiraxis/core/skeleton'
import { cleanDoll } from '../../core/test/figure'
import { HOUND_MOVES, NORTH_HOUND, record } from '@chiraxis/demo/takes'

async function figure(): Promise<GltfContent & { mesh: Mesh }> {
  const doll = await cleanDoll()
  const n = doll.mesh.positions.length / 3
  const shape = (name: string) => ({ name, offsets: new Float32Array(3 * n).fill(0.01) })
  return {
    name: 'Doll',
    ...doll,
    mesh: { ...doll.mesh, morphs: [shape('Blink Left'), shape('aa'), shape('cheeks out')] },
    materials: [plainMaterial('cloth')],
  }
}
async function loaded(bytes: Uint8Array<ArrayBuffer>): Promise<VRM> {
  const loader = new GLTFLoader()
  loader.register(parser => new VRMLoaderPlugin(parser))
  const gltf = await loader.parseAsync(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length), '')
  return gltf.userData.vrm as VRM
}

describe('VRM 1.0', () => {
  it('is read by the open reader: humanoid, expressions, who made it', async () => {
    const own = await figure()
    const { bytes, proof } = await deliver(own, 'vrm', { meta: { authors: ['Night Ferry'], version: '2' } })
    expect((proof as Proof).validatorErrors).toBe(0)
    const vrm = await loaded(bytes)
    expect(vrm.meta.metaVersion).toBe('1')
    expect(vrm.meta).toMatchObject({ name: 'Doll', authors: ['Night Ferry'], version: '2' })
    const rest = worldPose(own.skeleton!)
    vrm.scene.updateMatrixWorld(true)
    for (const role of VRM_NEEDS) {
      const node = vrm.humanoid.getRawBoneNode(role as 'hips')!
      const j = own.skeleton!.roles.indexOf(role)
      const p = node.getWorldPosition(new Vector3())
      ;[p.x, p.y, p.z].forEach((v, k) => expect(v).toBeCloseTo(rest.positions[3 * j + k], 4))
    }
    const names = vrm.expressionManager!.expressions.map(e => e.expressionName)
    expect(names).toEqual(expect.arrayContaining(['blinkLeft', 'aa', 'cheeks out']))
    // and by our own: roles as told, takes go along
    const read = await readGltf(bytes)
    expect(read.skeleton!.roles.filter(Boolean).length).toBeGreaterThan(15)
    expect(read.takes).toHaveLength(1)
  })
  it('written again stays what it was', async () => {
    const own = await figure()
    const first = await deliver(own, 'vrm', { meta: { authors: ['Night Ferry'] } })
    const read = await readGltf(first.bytes)
    const meta = (read.document!.json.extensions!.VRMC_vrm as { meta: { authors: string[] } }).meta
    expect(meta.authors).toEqual(['Night Ferry'])
  })
  it('is refused for bodies it cannot hold', async () => {
    const own = await figure()
    await expect(deliver({ ...own, skeleton: undefined }, 'vrm')).rejects.toThrow(/one is missing/)
    const { skeleton } = record(HOUND_MOVES[0], NORTH_HOUND)
    await expect(deliver({ ...own, skeleton, skin: undefined, takes: [] }, 'vrm')).rejects.toThrow(/four/)
  })
})
