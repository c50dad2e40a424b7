import { unzipSync, strFromU8 } from 'fflate'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  archiveAs,
  Bundle,
  checkProfile,
  deliverAs,
  prepared,
  profileSchema,
  readProfile,
  SHIPPED_PROFILES,
  shippedProfile,
  writeProfile,
  type Deliverable,
  type Manifest,
  type Profile,
} from '../src/delivery'
import { FORMATS, readFile, type Proof } from '../src/formats'
import { wildTake } from './skeletons'
import { cleanDoll } from './figure'

let own: Deliverable
beforeAll(async () => {
  const doll = await cleanDoll()
  const takes = ['first walk', 'First Walk', 'Прыжок'].map((name, i) => ({
    ...wildTake(doll.skeleton, 10 + i, 20),
    name,
    events: [{ time: 0.2, name: 'footstep', data: { foot: 'left' } }],
    scalars: [{ name: 'way', kind: 'curve' as const, values: Float32Array.from({ length: 20 }, (_, f) => f / 10) }],
  }))
  own = { content: { name: 'Doll Über', ...doll, takes }, performers: ['North', 'South', 'North'] }
})
const profile = (change: Partial<Profile>): Profile => profileSchema.parse({ name: 'own', format: 'glb', ...change })

describe('delivery profiles', () => {
  it('ship for every format, and each writes a figure that is proven', async () => {
    expect(new Set(SHIPPED_PROFILES.map(p => p.format))).toEqual(new Set(Object.keys(FORMATS)))
    for (const p of SHIPPED_PROFILES) {
      const files = await deliverAs(own, p)
      expect(files.length, p.name).toBe(p.split === 'each' ? 3 : 1)
      for (const f of files) {
        expect(f.name.endsWith(`.${p.format}`)).toBe(true)
        expect(f.proof.bytes).toBe(f.bytes.length)
      }
    }
  })
  it('are kept as files of their own, and refused in words where they say nothing', () => {
    for (const p of SHIPPED_PROFILES)
      expect(readProfile(JSON.parse(new TextDecoder().decode(writeProfile(p))))).toEqual(p)
    expect(() => readProfile({ name: 'x', format: 'doc' })).toThrow(/format/)
    expect(() => readProfile(7)).toThrow(/no delivery profile/)
    expect(() => checkProfile(profile({ up: '+y', ahead: '-y' }))).toThrow(/one line/)
    expect(shippedProfile('GLB: Y up, metres, +Z ahead')).toBe(SHIPPED_PROFILES[0])
  })
  it('choose what goes along, at which rate and under which names', async () => {
    const scheme = { style: 'snake', side: 'last', letter: true, prefix: 'b_' } as const
    const [file] = await deliverAs(own, profile({ content: 'motion', fps: 24, names: scheme }))
    const read = await readFile(file.bytes, file.name)
    expect(read.mesh).toBeUndefined()
    expect(read.skeleton!.names).toContain('b_upper_arm_l')
    expect(read.takes.map(t => t.fps)).toEqual([24, 24, 24])
    expect(read.takes[0].events).toEqual([{ time: 0.2, name: 'footstep', data: { foot: 'left' } }])
    const [body] = await deliverAs(own, profile({ content: 'body', influences: 1 }))
    const other = await readFile(body.bytes, body.name)
    expect(other.takes).toEqual([])
    expect(other.skin!.weights.filter(w => w > 0).length).toBe(other.mesh!.positions.length / 3)
    expect((body.proof as Proof).validatorErrors).toBe(0)
  })
  it('say in words what a format cannot take along', async () => {
    const [vrm] = await deliverAs(own, profile({ format: 'vrm', up: '+z', ahead: '+x' }))
    expect(vrm.notes.join(' ')).toMatch(/Y up.*spring bones/)
    const [usd] = await deliverAs(own, profile({ format: 'usda' }))
    expect(usd.notes.join(' ')).toMatch(/manifest/)
    await expect(deliverAs({ content: { ...own.content, takes: [] } }, profile({ format: 'bvh' }))).rejects.toThrow(
      /there is none/,
    )
  })
})

describe('an archive', () => {
  it('holds every file with its proof, and takes, moments and curves in its manifest', async () => {
    const p = profile({ format: 'bvh', content: 'motion', split: 'each', file: '{performer}-{take}', unit: 'cm' })
    const { bytes, files } = await archiveAs(own, p)
    const entries = unzipSync(bytes)
    expect(Object.keys(entries)).toEqual([
      'North-first-walk.bvh',
      'South-First-Walk.bvh',
      'North-Прыжок.bvh',
      'manifest.json',
    ])
    expect(files.map(f => f.takes)).toEqual([['first walk'], ['First Walk'], ['Прыжок']])
    const manifest = JSON.parse(strFromU8(entries['manifest.json'])) as Manifest
    expect(manifest.files.map(f => [f.name, f.bytes])).toEqual(files.map(f => [f.name, entries[f.name].length]))
    expect(manifest.files.every(f => (f.proof as { maxPositionError: number }).maxPositionError < 1e-3)).toBe(true)
    expect(manifest.takes[2]).toMatchObject({
      name: 'Прыжок',
      performer: 'North',
      frames: 20,
      cues: [{ time: 0.2, name: 'footstep', data: { foot: 'left' } }],
    })
    expect(manifest.takes[0].curves[0].values).toHaveLength(20)
    // the same figure gives the same archive
    expect((await archiveAs(own, p)).bytes).toEqual(bytes)
  })
  it('tells names of one kind apart, whatever their case', () => {
    const bundle = new Bundle()
    const names = ['a.glb', 'A.glb', 'b', 'a.glb'].map(n => bundle.add(n, new Uint8Array(3)))
    expect(names).toEqual(['a.glb', 'A-2.glb', 'b', 'a-3.glb'])
    expect(Object.keys(unzipSync(bundle.done()))).toEqual(names)
  })
  it('is written part by part where somebody takes it', async () => {
    const parts: Uint8Array[] = []
    const { bytes } = await archiveAs(own, profile({ split: 'each', file: '{take}' }), {
      sink: part => parts.push(part),
    })
    expect(bytes.length).toBe(0)
    const whole = new Uint8Array(parts.reduce((n, p) => n + p.length, 0))
    let at = 0
    for (const p of parts) {
      whole.set(p, at)
      at += p.length
    }
    // names that differ by case alone are told apart
    expect(Object.keys(unzipSync(whole))).toEqual(['first-walk.glb', 'First-Walk-2.glb', 'Прыжок.glb', 'manifest.json'])
  })
  it('stops when it is told to', async () => {
    const signal = { aborted: false }
    await expect(
      deliverAs(own, profile({ split: 'each', file: '{take}' }), {
        signal,
        each: () => {
          signal.aborted = true
        },
      }),
    ).rejects.toThrow(/stopped/)
  })
})

it('leaves content alone that no profile asks to change', () => {
  const same = prepared(own.content, profile({}))
  expect(same.mesh).toBe(own.content.mesh)
  expect(same.skin).toBe(own.content.skin)
  expect(same.skeleton).toBe(own.content.skeleton)
  expect(same.takes![0]).toBe(own.content.takes![0])
})
