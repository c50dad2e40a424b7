import fc from 'fast-check'
import { decode, encode } from 'fast-png'
import { Logger, WebIO, type Document } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import { MeshoptDecoder } from 'meshoptimizer/decoder'
import { describe, expect, it } from 'vitest'
import { packGlb } from '../src/document'
import { deliver, figureWithTakes, openGltf, readFile } from '../src/formats'
import { imageSize, shrinkImage } from '../src/images'
import { seededRandom } from '../src/math'
import { byteWeights } from '../src/packing/whole-numbers'
import { shown } from './round-trip/same'
import { VARIANTS } from './round-trip/variants'

/** The glTF SDK with its own decoder: not what the program reads by. */
async function bySdk(bytes: Uint8Array, beside: ReadonlyMap<string, Uint8Array> = new Map()): Promise<Document> {
  await MeshoptDecoder.ready
  const io = new WebIO()
    .setLogger(new Logger(Logger.Verbosity.SILENT))
    .registerExtensions(ALL_EXTENSIONS)
    .registerDependencies({ 'meshopt.decoder': MeshoptDecoder })
  if (beside.size === 0) return io.readBinary(bytes)
  const { document } = await openGltf(bytes, beside)
  return io.readBinary(packGlb(document))
}

function farthest(a: Map<string, Float64Array>, b: Map<string, Float64Array>): number {
  expect([...b.keys()]).toEqual([...a.keys()])
  let most = 0
  for (const [name, points] of a) {
    const others = b.get(name)!
    expect(others.length).toBe(points.length)
    for (let i = 0; i < points.length; i++) most = Math.max(most, Math.abs(points[i] - others[i]))
  }
  return most
}

const extent = (places: Map<string, Float64Array>): number =>
  [...places.values()].reduce((n, p) => p.reduce((m, v) => Math.max(m, Math.abs(v)), n), 0)

describe('files of every kind made smaller', () => {
  for (const { name, make } of VARIANTS)
    it(`hold what they held: ${name}`, async () => {
      const { bytes, file, beside } = await make()
      const { content } = figureWithTakes('figure', await readFile(bytes, file, { beside }), [])
      const plain = await deliver(content)
      const exact = shown(await bySdk(plain.bytes))
      for (const numbers of ['quantized', 'meshopt'] as const) {
        const made = await deliver(content, 'glb', { packing: { numbers, images: 'with' } })
        const small = await bySdk(made.bytes)
        // weights in bytes bend no rest; places are told to a share of the box
        expect(farthest(exact, shown(small))).toBeLessThan(3e-5 * Math.max(1, extent(exact)))
        const { packed } = made.proof as { packed?: { share: number; maxWeightError: number } }
        expect(packed).toBeDefined()
        const unknown = made.notes?.some(n => n.includes('cannot be followed'))
        if (unknown) expect(made.bytes).toEqual(plain.bytes)
        else expect(made.bytes.length).toBeLessThan(plain.bytes.length * (numbers === 'meshopt' ? 0.95 : 1.05) + 400)
        expect(packed!.maxWeightError).toBeLessThanOrEqual(1 / 255 + 1e-6)
      }
    })

  it('images beside it, left out, and no larger than asked', async () => {
    const { bytes, file } = await VARIANTS[0].make()
    const { content } = figureWithTakes('figure', await readFile(bytes, file), [])
    const out = await deliver(content, 'glb', { packing: { numbers: 'plain', images: 'beside' }, stem: 'meadow' })
    expect(out.beside!.length).toBe(5)
    expect(out.beside!.every(f => /^meadow-.*\.png$/.test(f.name))).toBe(true)
    const back = await bySdk(out.bytes, new Map(out.beside!.map(f => [f.name, f.bytes])))
    expect(back.getRoot().listTextures().length).toBe(5)
    expect(back.getRoot().listTextures()[0].getImage()).toEqual(out.beside![0].bytes)

    const none = await deliver(content, 'glb', { packing: { numbers: 'meshopt', images: 'none' } })
    const bare = (await bySdk(none.bytes)).getRoot()
    expect(bare.listTextures()).toEqual([])
    const [skin] = bare.listMaterials()
    expect(skin.getBaseColorFactor()).toEqual([0.8, 0.6, 0.5, 0.9])
    expect(skin.getExtras()).toEqual({ shader: 'flesh', layers: [1, 2] })

    const small = await deliver(content, 'glb', { packing: { numbers: 'plain', images: 'with', largest: 4 } })
    const sizes = (await bySdk(small.bytes))
      .getRoot()
      .listTextures()
      .map(t => t.getSize())
    expect(sizes).toEqual(Array.from({ length: 5 }, () => [4, 4]))
    // nobody asked for smaller ones: to the byte as they came
    const same = await deliver(content, 'glb', { packing: { numbers: 'plain', images: 'with', largest: 64 } })
    expect(same.bytes).toEqual((await deliver(content)).bytes)
  })

  it('says what it could not make smaller', async () => {
    const { bytes, file } = await VARIANTS.find(v => v.name.startsWith('pictures as WebP'))!.make()
    const { content } = figureWithTakes('figure', await readFile(bytes, file), [])
    const { notes } = await deliver(content, 'glb', { packing: { numbers: 'plain', images: 'with', largest: 1 } })
    expect(notes!.join()).toMatch(/leaf stays as large as it is/)
  })

  it('refuses a file whose data was changed on the way', async () => {
    const { bytes, file } = await VARIANTS[1].make()
    const { content } = figureWithTakes('figure', await readFile(bytes, file), [])
    const { provePacked } = await import('../src/formats/prove-packed')
    const { gltfOf } = await import('../src/formats/gltf-write')
    const { packed, quantized } = await import('../src/packing')
    const packing = { numbers: 'quantized', images: 'with' } as const
    const exact = gltfOf(content)
    const { document } = await packed(exact, packing, 'x')
    await expect(provePacked(packGlb(document), new Map(), exact, packing)).resolves.toBeDefined()
    const at = (semantic: string): number => {
      const a = document.json.accessors![document.json.meshes![0].primitives[0].attributes[semantic]]
      const view = document.json.bufferViews![a.bufferView!]
      return (view.byteOffset ?? 0) + (a.byteOffset ?? 0)
    }
    const wrongly = async (change: (d: { json: typeof document.json; data: Uint8Array }) => void): Promise<unknown> => {
      const other = { json: structuredClone(document.json), data: document.buffers[0].slice() }
      change(other)
      return provePacked(packGlb({ json: other.json, buffers: [other.data] }), new Map(), exact, packing).then(
        () => 'handed over',
        (e: { code: string }) => e.code,
      )
    }
    expect(await wrongly(() => {})).toBe('handed over')
    // a place, a weight, a normal, a word
    expect(await wrongly(d => (d.data[at('POSITION') + 1] ^= 1))).toBe('unproven')
    expect(await wrongly(d => d.data.set([0, 255, 0, 0], at('WEIGHTS_0')))).toBe('unproven')
    expect(await wrongly(d => (d.data[at('NORMAL')] ^= 64))).toBe('unproven')
    expect(await wrongly(d => (d.json.nodes![0].name = 'other'))).toBe('unproven')
    expect(await wrongly(d => delete d.json.animations)).toBe('unproven')
    // made smaller once more it stays what it is
    expect(quantized(document).document.buffers[0].length).toBeLessThanOrEqual(document.buffers[0].length)
    expect((await openGltf(packGlb(document))).document.json.extensionsRequired).toContain('KHR_mesh_quantization')
  })
})

describe('weights in bytes', () => {
  it('sum to 255 and are off by less than one step', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 8, maxLength: 8 }), {
          minLength: 1,
        }),
        rows => {
          const sums = rows.map(r => r.reduce((a, b) => a + b, 0))
          const sets = [0, 4].map(from => Float32Array.from(rows.flatMap((r, v) => r.slice(from, from + 4).map(w => (sums[v] > 0 ? w / sums[v] : 0))))) // prettier-ignore
          const [a, b] = byteWeights(sets)
          rows.forEach((_, v) => {
            const got = [...a.subarray(4 * v, 4 * v + 4), ...b.subarray(4 * v, 4 * v + 4)]
            if (sums[v] > 1e-30) expect(got.reduce((x, y) => x + y, 0)).toBe(255)
            got.forEach((w, k) =>
              expect(Math.abs(w / 255 - sets[k >> 2][4 * v + (k & 3)])).toBeLessThan(1 / 255 + 1e-6),
            )
          })
        },
      ),
    )
  })
})

describe('images made smaller', () => {
  const png = (width: number, height: number, of: (x: number, y: number) => readonly number[]) => ({
    name: 'x',
    mime: 'image/png' as const,
    bytes: new Uint8Array(
      encode({
        width,
        height,
        channels: of(0, 0).length as 3,
        depth: 8,
        data: Uint8Array.from(
          Array.from({ length: width * height }, (_, i) => of(i % width, Math.floor(i / width))).flat(),
        ),
      }),
    ),
  })
  it('keep their light, whatever their sides', async () => {
    const light = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 3, max: 40 }), fc.integer({ min: 3, max: 40 }), fc.integer({ min: 1, max: 20 }), fc.nat(), async (w, h, largest, seed) => {
        const next = seededRandom(seed)
        const image = png(w, h, () => [256, 256, 256].map(n => Math.floor(n * next())))
        const small = (await shrinkImage(image, largest, 'color'))!
        const mean = (bytes: Uint8Array): number => {
          const { data } = decode(bytes)
          let sum = 0
          for (const v of data) sum += light(v / 255)
          return sum / data.length
        }
        const size = imageSize(small)!
        expect(Math.max(size.width, size.height)).toBe(Math.min(largest, Math.max(w, h)))
        expect(Math.abs(mean(small.bytes) - mean(image.bytes))).toBeLessThan(0.006)
      }), // prettier-ignore
      { numRuns: 40 },
    )
  })
  it('take no colour from what cannot be seen, and keep directions unit long', async () => {
    const edge = png(8, 8, x => (x < 3 ? [255, 0, 0, 255] : [0, 255, 0, 0]))
    const { data } = decode((await shrinkImage(edge, 2, 'color'))!.bytes)
    expect([...data.slice(0, 4)]).toEqual([255, 0, 0, 191])
    const tilt = (a: number): number[] => [Math.sin(a), 0, Math.cos(a)].map(v => Math.round((v + 1) * 127.5))
    const bumps = png(8, 8, x => tilt(x % 2 ? 0.8 : -0.4))
    const { data: n } = decode((await shrinkImage(bumps, 4, 'normal'))!.bytes)
    const d = [...n.slice(0, 3)].map(v => v / 127.5 - 1)
    expect(Math.hypot(...d)).toBeCloseTo(1, 2)
    expect(Math.atan2(d[0], d[2])).toBeCloseTo(0.2, 1)
  })
})
