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
import { asRead, FORMATS, readFile, readReceived, type Proof } from '../src/formats'
import type { Mesh } from '../src/mesh'
import type { Take } from '../src/motion'
import { addRoot, armsDown } from '../src/rig'
import { worldPose, type Skeleton } from '../src/skeleton'
import { deform, type Skin } from '../src/skin'
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
  it('lay the rest pose as the receiver wants it, and bodies and takes look as they did', async () => {
    const before = own.content
    const seen = (c: { skeleton?: Skeleton; skin?: Skin; mesh?: Mesh; takes?: readonly Take[] }, frame: number) => {
      const J = c.skeleton!.names.length
      const take = c.takes![0]
      return deform(c.mesh!.positions, c.skeleton!, c.skin!, worldPose(c.skeleton!, take.translations, take.rotations, frame * J)) // prettier-ignore
    }
    for (const [rest, down] of [
      [{ armsDown: 0 }, 0],
      [{ armsDown: 45 }, 45],
      ['bound', undefined],
    ] as const) {
      // prettier-ignore
      const [file] = await deliverAs(own, profile({ rest }))
      const read = await readFile(file.bytes, file.name)
      if (down !== undefined) expect(armsDown(asRead(read.skeleton!, readReceived(read)!))).toBeCloseTo(down, 0)
      expect(read.skeleton!.names.length).toBe(before.skeleton!.names.length)
      const [a, b] = [seen(before, 11), seen(read, 11)]
      // vertices may be told in another order of pieces: as a cloud
      const sums = (p: Float32Array): number[] => [0, 1, 2].map(k => p.reduce((s, v, i) => (i % 3 === k ? s + v : s), 0) / p.length) // prettier-ignore
      sums(a).forEach((v, k) => expect(sums(b)[k]).toBeCloseTo(v, 4))
    }
    const [obj] = await deliverAs(own, profile({ format: 'obj', rest: { armsDown: 80 } }))
    const width = (p: Float32Array): number => p.reduce((m, v, i) => (i % 3 === 0 ? Math.max(m, v) : m), -Infinity)
    expect(width((await readFile(obj.bytes, 'a.obj')).mesh!.positions)).toBeLessThan(
      0.8 * width(before.mesh!.positions),
    )
    const armless = {
      ...before.skeleton!,
      ids: undefined,
      roles: before.skeleton!.names.map(() => undefined),
      names: before.skeleton!.names.map((_, j) => `bone ${j}`),
    }
    await expect(deliverAs({ content: { ...before, skeleton: armless } }, profile({ rest: { armsDown: 0 } }))).rejects.toThrow(/no whole left arm/) // prettier-ignore
  })
  it('tell left-handed axes: every point with its side the other way, up and ahead as they were', async () => {
    const points = async (p: Partial<Profile>): Promise<Float32Array> => {
      const [file] = await deliverAs(own, profile({ format: 'obj', ...p }))
      return (await readFile(file.bytes, 'a.obj', { beside: new Map() })).mesh!.positions
    }
    const [right, left] = [await points({}), await points({ hand: 'left' })]
    expect(left.length).toBe(right.length)
    left.forEach((v, i) => expect(v).toBeCloseTo(i % 3 === 0 ? -right[i] : right[i], 5))
    const motion = async (p: Partial<Profile>) => {
      const files = await deliverAs(own, profile({ format: 'bvh', content: 'motion', unit: 'cm', ...p }))
      const { skeleton, takes } = await readFile(files[0].bytes, 'a.bvh')
      return { pose: worldPose(skeleton!, takes[0].translations, takes[0].rotations, 7 * skeleton!.names.length).positions } // prettier-ignore
    }
    const [r, l] = [await motion({ up: '+z', ahead: '-y' }), await motion({ up: '+z', ahead: '-y', hand: 'left' })]
    r.pose.forEach((v, i) => expect(l.pose[i]).toBeCloseTo(i % 3 === 0 ? -v : v, 2))
    const [usd] = await deliverAs(own, profile({ format: 'usda', hand: 'left' }))
    expect(usd.notes.join()).toMatch(/right-handed/)
  })
  it('hand over what is not proven where somebody insists, and say so', async () => {
    // a moment whose data is no number cannot be read back as it was meant
    const events = [{ time: 0.1, name: 'odd', data: { weight: NaN } }]
    const odd: Deliverable = { content: { ...own.content, takes: [{ ...own.content.takes![0], events }] } }
    const wish = profile({})
    await expect(deliverAs(odd, wish)).rejects.toMatchObject({ code: 'unproven' })
    const [file] = await deliverAs(odd, wish, { insist: true })
    expect(file.proof).toMatchObject({ unproven: expect.stringMatching(/kept back/), bytes: file.bytes.length })
    expect(file.notes.join()).toMatch(/although its proof failed/)
    const { files } = await archiveAs(odd, wish, { insist: true })
    expect(files[0].proof).toMatchObject({ unproven: expect.any(String) })
  })
  it('call joints by a table, and put travel on the root or on the hips with every other joint where it was', async () => {
    const [file] = await deliverAs(
      own,
      profile({ content: 'motion', names: { table: { hips: 'Becken', leftHand: 'Hand L' } } }),
    )
    const names = (await readFile(file.bytes, file.name)).skeleton!.names
    expect(names).toEqual(expect.arrayContaining(['Becken', 'Hand L']))
    await expect(deliverAs(own, profile({ names: { table: { hips: 'x', leftHand: 'x' } } }))).rejects.toThrow(/name of two/) // prettier-ignore
    const { skeleton, takes } = addRoot(
      { skeleton: own.content.skeleton!, takes: own.content.takes! },
      'root',
      [0, 0, 0],
    )
    const rooted: Deliverable = { content: { name: 'Doll', skeleton, takes } }
    const J = skeleton.names.length
    const root = skeleton.names.indexOf('root')
    for (const place of ['root', 'hips'] as const) {
      const { takes: made } = prepared(rooted.content, profile({ content: 'motion', root: place }))
      const before = worldPose(skeleton, takes[0].translations, takes[0].rotations, 9 * J)
      const after = worldPose(skeleton, made![0].translations, made![0].rotations, 9 * J)
      let off = 0
      for (let j = 0; j < J; j++)
        if (j !== root) for (let k = 0; k < 3; k++) off = Math.max(off, Math.abs(before.positions[3 * j + k] - after.positions[3 * j + k])) // prettier-ignore
      expect(off).toBeLessThan(1e-5)
      const T = made![0].translations
      const R = made![0].rotations
      let moved = 0
      for (let k = 0; k < 3; k++) moved += Math.abs(T[3 * (19 * J + root) + k] - T[3 * root + k])
      for (let k = 0; k < 4; k++) moved += Math.abs(R[4 * (10 * J + root) + k] - R[4 * root + k])
      const travels = moved > 1e-4
      expect(travels).toBe(place === 'root')
    }
    const [bare] = await deliverAs(own, profile({ content: 'motion', root: 'root' }))
    expect(bare.notes.join()).toMatch(/Add a root joint/)
  })
  it('stand a surface alone in a moment of a take', async () => {
    const { mesh, skeleton, skin, takes } = own.content
    const [file] = await deliverAs(own, profile({ format: 'obj' }), { at: 0.4 })
    const frame = Math.round(0.4 * takes![0].fps)
    const posed = worldPose(skeleton!, takes![0].translations, takes![0].rotations, frame * skeleton!.names.length)
    const meant = deform(mesh!.positions, skeleton!, skin!, posed)
    const read = (await readFile(file.bytes, 'a.obj')).mesh!.positions
    const high = (p: Float32Array, k: number): number =>
      p.reduce((m, v, i) => (i % 3 === k ? Math.max(m, v) : m), -Infinity)
    for (const k of [0, 1, 2]) expect(high(read, k)).toBeCloseTo(high(meant, k), 4)
    const [still] = await deliverAs(own, profile({ format: 'obj' }))
    expect(still.bytes).not.toEqual(file.bytes)
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
    expect(manifest.figures).toEqual([{ name: 'Doll Über', joints: own.content.skeleton!.names }])
    expect(manifest.files.every(f => f.figure === 'Doll Über')).toBe(true)
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
