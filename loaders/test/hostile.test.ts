import { describe, expect, it } from 'vitest'
import { readFile } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'
import { CRAFTED, readCrafted } from './crafted-files'
import { binaryFbx, sheetRecords } from './fbx-binary'
import { goodFiles } from './good-files'
import { judge, notFinite } from './judge'
import { mutate } from './mutations'
import { COLLADA } from './samples'
import { OUTER_READERS } from '../src'

const good = await goodFiles()

describe('files of every kind', () => {
  it.each(good)('$name is read as it is', async file => {
    expect(await judge(file, file.bytes)).toMatchObject({ kind: 'accepted' })
  })
  it.each(good)('$name, damaged in 80 ways, is refused in words or read with nothing but numbers', async file => {
    for (let seed = 1; seed <= 80; seed++) {
      const verdict = await judge(file, mutate(file.bytes, seed), 4000)
      expect(['refused', 'accepted'], `seed ${seed}: ${verdict.kind}: ${verdict.told}`).toContain(verdict.kind)
    }
  })
  it('are damaged the same for the same seed, and differently for another', () => {
    const [file] = good
    expect(mutate(file!.bytes, 5)).toEqual(mutate(file!.bytes, 5))
    expect(mutate(file!.bytes, 5)).not.toEqual(mutate(file!.bytes, 6))
  })
})

describe('crafted to hang, to fill memory or to slip through', () => {
  it.each(CRAFTED)('$what is refused within two seconds', async file => {
    const bytes = await file.make()
    const from = performance.now()
    const error = await readCrafted(file, bytes).then(
      () => undefined,
      (e: unknown) => e,
    )
    expect(performance.now() - from).toBeLessThan(2000)
    expect(error).toBeInstanceOf(ChiraxisError)
    expect((error as ChiraxisError).message).not.toMatch(/undefined|NaN|TypeError|\[object/)
    expect((error as ChiraxisError).message.length).toBeLessThan(500)
  })
  it('does not stand in the way of good ones that look alike', async () => {
    const text = (s: string): Uint8Array => new TextEncoder().encode(s)
    // one vertex with very many texture coordinates
    const coordinates = Array.from({ length: 150_000 }, (_, i) => `vt ${i / 150_000} 0`).join('\n')
    const fans = Array.from({ length: 150_000 }, (_, i) => `f 1/${i + 1} 2/1 3/1`).join('\n')
    const from = performance.now()
    const obj = await readFile(text(`v 0 0 0\nv 1 0 0\nv 0 1 0\n${coordinates}\n${fans}\n`), 'seams.obj')
    expect(performance.now() - from).toBeLessThan(4000)
    expect(obj.mesh!.positions.length / 3).toBe(150_002)
    expect(obj.mesh!.uvs![2 * obj.mesh!.indices[3 * 149_999]!]).toBeCloseTo(149_999 / 150_000, 5)
    // two keys over a minute on a few joints, a node put in place many times
    const dae = COLLADA.replace('<node id="body"', '<node id="x"><node id="y"><instance_node url="#low"/></node></node><node id="body"') // prettier-ignore
    expect((await readFile(text(dae), 'twice.dae', { readers: OUTER_READERS })).mesh).toBeDefined()
  })
})

describe('what can be put right is, and is told', () => {
  const cube = (normal: string): Uint8Array =>
    new TextEncoder().encode(
      `ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nproperty float nx\nproperty float ny\nproperty float nz\nproperty float s\nproperty float t\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0 ${normal} 0 0\n1 0 0 0 0 1 nan 0\n0 1 0 0 0 1 0 1\n3 0 1 2\n`,
    )
  it('normals and texture coordinates that are no numbers', async () => {
    const file = await readFile(cube('nan nan nan'), 'soft.ply')
    expect(file.mesh!.normals).toBeUndefined()
    expect(notFinite(file)).toBeUndefined()
    expect(file.dropped.join(' ')).toMatch(/normals were not numbers.*1 values of the texture coordinates/)
  })
  it('and nothing else is touched', async () => {
    const file = await readFile(cube('0 0 1'), 'soft.ply')
    expect([...file.mesh!.normals!]).toEqual([0, 0, 1, 0, 0, 1, 0, 0, 1])
    expect(file.dropped).toHaveLength(1)
  })
})

describe('a binary FBX', () => {
  it('is read with its packed lists', async () => {
    const file = await readFile(binaryFbx(sheetRecords()), 'sheet.fbx', { readers: OUTER_READERS })
    expect(file.mesh!.indices.length / 3).toBe(3)
    expect(file.skeleton!.names).toEqual(['bone'])
  })
  it.each([
    ['cut short', (b: Uint8Array) => b.slice(0, 300)],
    [
      'whose record ends before it begins',
      (b: Uint8Array) => {
        const out = b.slice()
        new DataView(out.buffer).setUint32(27, 5, true)
        return out
      },
    ],
  ])('%s is refused in words', async (_, change) => {
    const error = await readFile(change(binaryFbx(sheetRecords())), 'x.fbx', { readers: OUTER_READERS }).catch(
      (e: unknown) => e,
    )
    expect(error).toBeInstanceOf(ChiraxisError)
    expect((error as ChiraxisError).message).toMatch(/damaged|cut short/)
  })
})

describe('a file that lies within a larger buffer', () => {
  it.each(good.filter(f => !/json|chiraxis|mtl/.test(f.name)))('is read as it is: $name', async file => {
    const around = Buffer.alloc(file.bytes.length + 37, 0x41)
    around.set(file.bytes, 13)
    const inside = around.subarray(13, 13 + file.bytes.length)
    expect(await file.read(inside)).toEqual(await file.read(file.bytes))
  })
})
