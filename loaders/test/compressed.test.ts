import { Document, Logger, WebIO } from '@gltf-transform/core'
import { EXTMeshoptCompression, KHRDracoMeshCompression } from '@gltf-transform/extensions'
import draco3d from 'draco3dgltf'
import { MeshoptDecoder } from 'meshoptimizer/decoder'
import { MeshoptEncoder } from 'meshoptimizer/encoder'
import { describe, expect, it } from 'vitest'
import { deliver, figureWithTakes, readFile } from '@chiraxis/core/formats'
import { readAny } from '../src'

/** A ball on a node of its own, with coordinates and a custom attribute. */
function ballDocument(rows = 12): Document {
  const document = new Document()
  const buffer = document.createBuffer()
  const at: number[] = []
  const uv: number[] = []
  const heat: number[] = []
  const index: number[] = []
  for (let i = 0; i <= rows; i++)
    for (let j = 0; j <= 2 * rows; j++) {
      const [a, b] = [(Math.PI * i) / rows, (Math.PI * j) / rows]
      at.push(Math.sin(a) * Math.cos(b), Math.cos(a) + 1, Math.sin(a) * Math.sin(b))
      uv.push(j / (2 * rows), i / rows)
      heat.push(i)
      const k = i * (2 * rows + 1) + j
      if (i < rows && j < 2 * rows) index.push(k, k + 1, k + 2 * rows + 1, k + 1, k + 2 * rows + 2, k + 2 * rows + 1)
    }
  const accessor = (type: 'VEC3' | 'VEC2' | 'SCALAR', array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
  const primitive = document
    .createPrimitive()
    .setIndices(accessor('SCALAR', Uint16Array.from(index)))
    .setAttribute('POSITION', accessor('VEC3', Float32Array.from(at)))
    .setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.from(uv)))
    .setAttribute('_HEAT', accessor('SCALAR', Float32Array.from(heat)))
    .setMaterial(document.createMaterial('clay').setRoughnessFactor(0.3))
  const node = document
    .createNode('Ball')
    .setMesh(document.createMesh('Ball').addPrimitive(primitive))
    .setExtras({ soft: true })
  document.getRoot().setDefaultScene(document.createScene('table').addChild(node))
  return document
}

const quiet = (): WebIO => new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT))

async function withDraco(): Promise<Uint8Array> {
  const document = ballDocument()
  document
    .createExtension(KHRDracoMeshCompression)
    .setRequired(true)
    .setEncoderOptions({ method: KHRDracoMeshCompression.EncoderMethod.SEQUENTIAL })
  return quiet()
    .registerExtensions([KHRDracoMeshCompression])
    .registerDependencies({ 'draco3d.encoder': await draco3d.createEncoderModule() })
    .writeBinary(document)
}

async function withMeshopt(method: 'quantize' | 'filter'): Promise<Uint8Array> {
  await MeshoptEncoder.ready
  const document = ballDocument()
  document
    .createExtension(EXTMeshoptCompression)
    .setRequired(true)
    .setEncoderOptions({
      method:
        method === 'filter' ? EXTMeshoptCompression.EncoderMethod.FILTER : EXTMeshoptCompression.EncoderMethod.QUANTIZE,
    })
  return quiet()
    .registerExtensions([EXTMeshoptCompression])
    .registerDependencies({ 'meshopt.encoder': MeshoptEncoder, 'meshopt.decoder': MeshoptDecoder })
    .writeBinary(document)
}

describe('compressed glTF', () => {
  for (const [name, make, within] of [
    ['Draco', withDraco, 1e-3],
    ['meshopt', () => withMeshopt('quantize'), 1e-6],
    ['meshopt with filters', () => withMeshopt('filter'), 2e-3],
  ] as const)
    it(`is laid open and delivered whole: ${name}`, async () => {
      const bytes = await make()
      const received = await readAny(bytes, 'ball.glb')
      const plain = await readFile(await quiet().writeBinary(ballDocument()), 'ball.glb')
      expect(received.mesh!.indices.length).toBe(plain.mesh!.indices.length)
      // encoders may begin a triangle at another corner: its middle tells where it is
      const middle = ({ mesh }: typeof plain, f: number, k: number): number =>
        [0, 1, 2].reduce((sum, c) => sum + mesh!.positions[3 * mesh!.indices[3 * f + c] + k] / 3, 0)
      for (let f = 0; f < plain.mesh!.indices.length / 3; f++)
        for (let k = 0; k < 3; k++) expect(Math.abs(middle(received, f, k) - middle(plain, f, k))).toBeLessThan(within)
      expect(received.dropped.join()).toMatch(/compressed/)
      const { bytes: out, proof } = await deliver(figureWithTakes('ball', received, []).content)
      expect(proof.validatorErrors).toBe(0)
      const back = (await quiet().readBinary(out)).getRoot()
      expect(back.listNodes()[0].getExtras()).toEqual({ soft: true })
      expect(back.listMaterials()[0].getRoughnessFactor()).toBe(0.3)
      expect(back.listMeshes()[0].listPrimitives()[0].listSemantics().sort()).toEqual([
        'POSITION',
        'TEXCOORD_0',
        '_HEAT',
      ])
    })
  it('is refused by its name where no decoder is at hand, and when it is damaged', async () => {
    const bytes = await withDraco()
    await expect(readFile(bytes, 'ball.glb')).rejects.toMatchObject({
      code: 'bad-version',
      message: expect.stringContaining('KHR_draco_mesh_compression'),
    })
    const broken = new Uint8Array(bytes)
    for (let i = broken.length - 200; i < broken.length; i++) broken[i] ^= 0x5a
    const answer = await readAny(broken, 'ball.glb').catch((e: unknown) => e)
    // either it still holds a body of numbers, or it is refused in words
    if (answer instanceof Error) expect(answer.message).toMatch(/damaged/)
    else expect((answer as Awaited<ReturnType<typeof readAny>>).mesh!.positions.every(Number.isFinite)).toBe(true)
  })
})
