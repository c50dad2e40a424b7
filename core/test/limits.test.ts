import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { checkReceived, jointFrameBudget, readFile, READ_LIMITS, type Received } from '../src/formats'
import { plainPng } from '../src/images/plain-png'
import { ChiraxisError, jsonOf } from '../src/math'
import { plainMaterial } from '../src/mesh'
import { parseOwnPlan } from '../src/recipe'
import { parsePerformerNote } from '../src/retarget'
import { encode } from 'fast-png'
import { biped, wildTake } from './skeletons'
import { box } from './shapes'

/** A small file with everything in it, as a reader gives it. */
function whole(): Received {
  const skeleton = biped()
  const { positions, indices, parts } = box([-0.3, 0, -0.2], [0.3, 1.8, 0.2])
  const n = positions.length / 3
  return {
    format: 'glb',
    mesh: {
      positions,
      indices,
      parts,
      normals: new Float32Array(3 * n).fill(0.577),
      uvs: new Float32Array(2 * n).fill(0.5),
      colors: new Float32Array(3 * n).fill(0.5),
      morphs: [{ name: 'wide', offsets: new Float32Array(3 * n).fill(0.01) }],
    },
    materials: [plainMaterial('cloth')],
    images: [],
    skeleton,
    skin: { influences: 2, joints: new Uint16Array(2 * n).fill(1), weights: new Float32Array(2 * n).fill(0.5) },
    takes: [wildTake(skeleton, 2, 5)],
    dropped: [],
  }
}
const refusal = (received: Received): ChiraxisError => {
  try {
    checkReceived(received)
  } catch (error) {
    expect(error).toBeInstanceOf(ChiraxisError)
    return error as ChiraxisError
  }
  throw new Error('nothing was refused')
}
const wrong = fc.constantFrom(NaN, Infinity, -Infinity)

describe('what was read is looked over as it is stored', () => {
  it('and left as it is where nothing is wrong', () => {
    const received = whole()
    const checked = checkReceived(received)
    expect(checked.mesh!.positions).toBe(received.mesh!.positions)
    expect(checked.mesh!.normals).toBe(received.mesh!.normals)
    expect(checked.takes).toBe(received.takes)
    expect(checked.dropped).toEqual([])
  })
  it.each<[string, (r: Received) => Float32Array]>([
    ['a position', r => r.mesh!.positions],
    ['a weight', r => r.skin!.weights],
    ['where a joint rests', r => r.skeleton!.restTranslations],
    ['how a joint rests', r => r.skeleton!.restRotations],
    ['a turn of a take', r => r.takes[0].rotations],
    ['a shift of a take', r => r.takes[0].translations],
  ])('%s that is no number is refused, wherever it is', (_, listOf) => {
    fc.assert(
      fc.property(fc.nat(), wrong, (at, value) => {
        const received = whole()
        const list = listOf(received)
        list[at % list.length] = value
        const { code, message } = refusal(received)
        expect(code).toBe('not-finite')
        expect(message).toMatch(/not a number or too large/)
      }),
      { numRuns: 20 },
    )
  })
  it.each<[string, (r: Received) => Float32Array, RegExp]>([
    ['normals', r => r.mesh!.normals!, /normals were not numbers/],
    ['texture coordinates', r => r.mesh!.uvs!, /texture coordinates/],
    ['colours', r => r.mesh!.colors!, /vertex colours/],
    ['morph offsets', r => r.mesh!.morphs![0].offsets, /morph shape wide/],
  ])('%s that are no numbers are put right and told', (_, listOf, words) => {
    fc.assert(
      fc.property(fc.nat(), wrong, (at, value) => {
        const received = whole()
        const list = listOf(received)
        list[at % list.length] = value
        const { mesh, dropped } = checkReceived(received)
        expect(dropped).toHaveLength(1)
        expect(dropped[0]).toMatch(words)
        for (const values of [mesh!.normals ?? [], mesh!.uvs!, mesh!.colors!, mesh!.morphs![0].offsets])
          expect(Array.from(values).every(Number.isFinite)).toBe(true)
      }),
      { numRuns: 12 },
    )
  })
  it('turns without a direction become none, and are told', () => {
    const received = whole()
    received.takes[0].rotations.fill(0, 8, 12)
    const { takes, dropped } = checkReceived(received)
    expect([...takes[0].rotations.subarray(8, 12)]).toEqual([0, 0, 0, 1])
    expect(dropped.join()).toMatch(/1 turns of joints had no direction/)
  })
  it('materials that are no numbers are shown plainly, and told', () => {
    const received = whole()
    const materials = [{ ...plainMaterial('a'), alpha: NaN, color: [0.2, Infinity, 0.1] as const }]
    const checked = checkReceived({ ...received, materials })
    expect(checked.materials![0].alpha).toBe(1)
    expect(checked.materials![0].color[0]).toBe(0.2)
    expect(checked.dropped.join()).toMatch(/material a had values/)
  })
  it('names, joints and pieces beyond what can be held are refused with how many there are', () => {
    const received = whole()
    const long = 'x'.repeat(READ_LIMITS.name + 1)
    expect(refusal({ ...received, materials: [plainMaterial(long)] }).message).toMatch(/material has 1,001 letters/)
    const named = { ...received.skeleton!, names: received.skeleton!.names.map((n, j) => (j === 3 ? long : n)) }
    expect(refusal({ ...received, skeleton: named }).message).toMatch(/name of a joint/)
    const parts = Array.from({ length: READ_LIMITS.parts + 1 }, () => received.mesh!.parts[0])
    expect(refusal({ ...received, mesh: { ...received.mesh!, parts } }).message).toMatch(/20,001 pieces/)
    const skin = { ...received.skin!, joints: received.skin!.joints.map(() => 60_000) }
    expect(refusal({ ...received, skin }).code).toBe('index-range')
    expect(refusal({ ...received, takes: [{ ...received.takes[0], fps: 0 }] }).message).toMatch(/no rate/)
  })
  it('tells a hundred losses and how many more there are', () => {
    const dropped = Array.from({ length: 500 }, (_, i) => `Texture ${i} is missing.`)
    const told = checkReceived({ ...whole(), dropped: [...dropped, ...dropped] }).dropped
    expect(told).toHaveLength(101)
    expect(told[100]).toBe('400 more things were not kept.')
  })
})

describe('frames times joints', () => {
  it('are added up over all takes, less for files that tell keys only', () => {
    const own = jointFrameBudget()
    for (let i = 0; i < 12; i++) own('take', 1000, 1000)
    expect(() => own('one more', 1, 1)).toThrow(/more than can be read/)
    const small = jointFrameBudget(4000)
    small('a', 1000, 2000)
    expect(() => small('b', 1000, 2)).toThrow(/2 frames of 1,000 joints/)
    expect(() => jointFrameBudget()('long', 1, READ_LIMITS.frames + 1)).toThrow(ChiraxisError)
  })
})

describe('pictures', () => {
  it('that hold what they say are taken without their comments; others are not looked into', () => {
    const pixels = Uint8Array.from({ length: 3 * 64 }, (_, i) => i)
    const png = encode({
      width: 8,
      height: 8,
      data: pixels,
      channels: 3,
      depth: 8,
      text: { Comment: 'x'.repeat(5000) },
    })
    const plain = plainPng(png, 1e6)!
    expect(plain.length).toBeLessThan(png.length)
    expect(plainPng(png, 63)).toBeUndefined()
    expect(plainPng(png.slice(0, png.length - 20), 1e6)).toBeUndefined()
    const smaller = png.slice()
    // it says one row and holds eight
    new DataView(smaller.buffer, smaller.byteOffset).setUint32(20, 1)
    expect(plainPng(smaller, 1e6)).toBeUndefined()
  })
  it('damaged anywhere are taken or not, and never more than they say', () => {
    const png = encode({ width: 16, height: 16, data: new Uint8Array(3 * 256).fill(77), channels: 3, depth: 8 })
    fc.assert(
      fc.property(fc.nat(png.length - 1), fc.nat(255), (at, value) => {
        const damaged = png.slice()
        damaged[at] = value
        const plain = plainPng(damaged, 1e6)
        if (plain) expect(plain.length).toBeLessThanOrEqual(png.length)
      }),
      { numRuns: 300 },
    )
  })
})

describe('JSON of any making', () => {
  it('is refused in words by what reads it, and never by a raw error', () => {
    fc.assert(
      fc.property(fc.oneof(fc.json(), fc.string()), text => {
        for (const read of [parseOwnPlan, parsePerformerNote])
          try {
            read(jsonOf(text, 'file.json'))
          } catch (error) {
            expect(error).toBeInstanceOf(ChiraxisError)
            expect((error as Error).message).toMatch(/[a-z]{3}.*\.$/)
          }
      }),
      { numRuns: 400 },
    )
  })
  it('that is a glTF of any making is too', async () => {
    const part = fc.oneof(fc.jsonValue(), fc.array(fc.dictionary(fc.string(), fc.jsonValue()), { maxLength: 3 }))
    const keys = ['nodes', 'meshes', 'accessors', 'bufferViews', 'buffers', 'scenes', 'skins', 'animations', 'images']
    await fc.assert(
      fc.asyncProperty(fc.record(Object.fromEntries(keys.map(k => [k, part])), { requiredKeys: [] }), async body => {
        const text = JSON.stringify({ asset: { version: '2.0' }, ...body })
        const told = await readFile(new TextEncoder().encode(text), 'any.gltf').catch((e: unknown) => e)
        // whatever is taken in holds something
        if (!(told instanceof Error)) {
          expect((told as Received).mesh ?? (told as Received).skeleton).toBeDefined()
          return
        }
        expect(told).toBeInstanceOf(ChiraxisError)
        expect(told.message).not.toMatch(/undefined|TypeError|\[object/)
      }),
      { numRuns: 150 },
    )
  })
})
