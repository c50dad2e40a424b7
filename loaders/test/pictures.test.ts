import { decode, encode } from 'fast-png'
import { describe, expect, it } from 'vitest'
import { deliver, figureWithTakes, readFile } from '@chiraxis/core/formats'
import { readAny } from '../src'

const text = (s: string): Uint8Array => new TextEncoder().encode(s)
const CUBE = ['v 0 0 0', 'v 1 0 0', 'v 1 1 0', 'v 0 1 0', 'v 0 0 1', 'v 1 0 1', 'v 1 1 1', 'v 0 1 1']
const UVS = ['vt 0 0', 'vt 1 0', 'vt 1 1', 'vt 0 1']
const FACES = [
  'f 4/4 3/3 2/2 1/1',
  'f 5/1 6/2 7/3 8/4',
  'f 1/1 2/2 6/3 5/4',
  'f 3/1 4/2 8/3 7/4',
  'f 2/1 3/2 7/3 6/4',
  'f 1/1 5/2 8/3 4/4',
]
const obj = (faces = FACES, more: string[] = []): Uint8Array =>
  text(['mtllib a.mtl', ...CUBE, ...UVS, ...more, 'usemtl leaf', ...faces].join('\n'))
const png = (channels: 1 | 3 | 4, of: (i: number) => number[], size = 2): Uint8Array =>
  encode({
    width: size,
    height: size,
    channels,
    depth: 8,
    data: Uint8Array.from({ length: size * size }, (_, i) => i).reduce<number[]>(
      (all, i) => [...all, ...of(i)],
      [],
    ) as never as Uint8Array,
  })

/** An uncompressed TGA of 24 bits, rows from the bottom. */
function tga(pixels: readonly (readonly number[])[], width: number): Uint8Array {
  const out = new Uint8Array(18 + 3 * pixels.length)
  out[2] = 2
  out[12] = width
  out[14] = pixels.length / width
  out[16] = 24
  pixels.forEach(([r, g, b], i) => out.set([b, g, r], 18 + 3 * i))
  return out
}

describe('pictures beside an OBJ', () => {
  it('are read as TGA and delivered as PNG with the same points', async () => {
    const picture = tga(
      [
        [255, 0, 0],
        [0, 255, 0],
        [0, 0, 255],
        [9, 8, 7],
      ],
      2,
    )
    const beside = new Map([
      ['a.mtl', text('newmtl leaf\nmap_Kd leaf.tga')],
      ['leaf.tga', picture],
    ])
    const received = await readAny(obj(), 'a.obj', { beside })
    expect(received.images).toHaveLength(1)
    const { data, width, channels } = decode(received.images![0].bytes)
    expect([width, channels]).toEqual([2, 4])
    // the first row told is the lowest
    expect([...data.slice(8, 11)]).toEqual([255, 0, 0])
    expect([...data.slice(0, 3)]).toEqual([0, 0, 255])
    expect(received.materials![0].maps).toEqual({ color: 0 })
  })
  it('put opacity kept apart into the colour, and take one image for both as it is', async () => {
    const colour = png(3, i => [10 * i, 20, 30])
    const opacity = png(1, i => [i * 80], 2)
    const apart = new Map([
      ['a.mtl', text('newmtl leaf\nmap_Kd leaf.png\nmap_d holes.png')],
      ['leaf.png', new Uint8Array(colour)],
      ['holes.png', new Uint8Array(opacity)],
    ])
    const received = await readFile(obj(), 'a.obj', { beside: apart })
    const [m] = received.materials!
    expect(m.blend).toBe('blend')
    const { data } = decode(received.images![m.maps.color!].bytes)
    expect([...data]).toEqual([0, 20, 30, 0, 10, 20, 30, 80, 20, 20, 30, 160, 30, 20, 30, 240])
    const { bytes } = await deliver(figureWithTakes('leaf', received, []).content)
    expect((await readFile(bytes, 'leaf.glb')).materials![0]).toMatchObject({ name: 'leaf', blend: 'blend' })
    const one = new Map([
      ['a.mtl', text('newmtl leaf\nmap_Kd leaf.png\nmap_d leaf.png')],
      ['leaf.png', new Uint8Array(colour)],
    ])
    const same = await readFile(obj(), 'a.obj', { beside: one })
    expect(same.materials![0]).toMatchObject({ blend: 'blend', maps: { color: 0 } })
    expect(same.images).toHaveLength(1)
  })
  it('carry what glTF has no place for, told in the extras', async () => {
    const picture = png(3, i => [i, i, i])
    const beside = new Map([
      ['a.mtl', text('newmtl leaf\nKe 0.5 0.25 0\nPr 0.4\nPm 0.9\nmap_Ks shine.png\ndisp height.png')],
      ['shine.png', new Uint8Array(picture)],
      ['height.png', new Uint8Array(png(3, i => [9 * i, 0, 0]))],
    ])
    const received = await readFile(obj(), 'a.obj', { beside })
    const { bytes } = await deliver(figureWithTakes('leaf', received, []).content)
    const { document } = await readFile(bytes, 'leaf.glb')
    const m = document!.json.materials![0]
    expect(m.extras).toEqual({ maps: { specular: 0, displacement: 1 } })
    expect(m.emissiveFactor).toEqual([0.5, 0.25, 0])
    expect(m.pbrMetallicRoughness).toMatchObject({ roughnessFactor: 0.4, metallicFactor: 0.9 })
    expect(document!.json.images!.map(i => i.name)).toEqual(['shine.png', 'height.png'])
  })
})

describe('normals of an OBJ', () => {
  const normals = ['vn 0 0 -1', 'vn 0 0 1', 'vn 0 -1 0', 'vn 0 1 0', 'vn 1 0 0', 'vn -1 0 0']
  it('are those it tells, edges stay hard', async () => {
    const faces = FACES.map((f, i) => f.replace(/(\d+)\/(\d+)/g, `$1/$2/${i + 1}`))
    const { mesh } = await readFile(obj(faces, normals), 'a.obj')
    expect(mesh!.positions.length / 3).toBe(24)
    for (let c = 0; c < mesh!.indices.length; c++) {
      const face = Math.floor(c / 6)
      const told = normals[face].split(' ').slice(1).map(Number)
      expect([...mesh!.normals!.subarray(3 * mesh!.indices[c], 3 * mesh!.indices[c] + 3)]).toEqual(told)
    }
  })
  it('are the surface’s own where some corners tell none, and without coordinates too', async () => {
    const some = FACES.map((f, i) => (i === 0 ? f.replace(/(\d+)\/(\d+)/g, '$1/$2/1') : f))
    expect((await readFile(obj(some, normals), 'a.obj')).mesh!.normals).toBeUndefined()
    const bare = FACES.map((f, i) => f.replace(/(\d+)\/(\d+)/g, `$1//${i + 1}`))
    const { mesh } = await readFile(obj(bare, normals), 'a.obj')
    expect(mesh!.uvs === undefined || mesh!.uvs.every(v => v === 0)).toBe(true)
    expect(mesh!.normals).toBeDefined()
  })
})

describe('files without a body', () => {
  for (const [name, bytes, reason] of [
    ['lines.obj', text([...CUBE, 'l 1 2 3'].join('\n')), /no triangles/],
    [
      'points.ply',
      text(
        'ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nend_header\n0 0 0\n1 0 0\n0 1 0\n',
      ),
      /no (faces|triangles)/,
    ],
    ['same.obj', text(['v 1 1 1', 'v 1 1 1', 'v 1 1 1', 'f 1 2 3'].join('\n')), /one place/],
    ['tiny.obj', text(['v 0 0 0', 'v 1e-30 0 0', 'v 0 1e-30 0', 'f 1 2 3'].join('\n')), /too small/],
  ] as const)
    it(`are refused with the reason: ${name}`, async () => {
      await expect(readAny(bytes, name)).rejects.toMatchObject({
        code: 'no-triangles',
        message: expect.stringMatching(reason),
      })
    })
  it('are refused when a glTF holds lines only', async () => {
    const json = {
      asset: { version: '2.0' },
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0 }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, mode: 1 }] }],
      accessors: [{ componentType: 5126, count: 4, type: 'VEC3', min: [0, 0, 0], max: [0, 0, 0] }],
    }
    await expect(readAny(text(JSON.stringify(json)), 'a.gltf')).rejects.toMatchObject({
      code: 'no-triangles',
      message: expect.stringMatching(/lines but no triangles/),
    })
  })
})
