import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { proveGlb, readBvh, readFile, readGltf, readObj, writeBvh, writeGlb } from '../src/formats'
import { angleOf, ChiraxisError, quatAt, vec3At } from '../src/math'
import { bind } from '../src/skin'
import { worldPose } from '../src/skeleton'
import { box } from './shapes'
import { biped, ROLES, wildAxes, wildTake } from './skeletons'

const text = (s: string): Uint8Array => new TextEncoder().encode(s)

/** A glTF whose one triangle can be spoilt. */
function gltf(
  change: (json: Record<string, unknown>) => void = () => undefined,
  positions = [0, 0, 0, 1, 0, 0, 0, 1, 0],
  indices = [0, 1, 2],
): Uint8Array {
  const bytes = new Uint8Array(new Float32Array(positions).byteLength + 2 * indices.length)
  bytes.set(new Uint8Array(new Float32Array(positions).buffer))
  bytes.set(new Uint8Array(new Uint16Array(indices).buffer), 4 * positions.length)
  const json: Record<string, unknown> = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
    buffers: [
      { byteLength: bytes.length, uri: `data:application/octet-stream;base64,${btoa(String.fromCharCode(...bytes))}` },
    ],
    bufferViews: [
      { buffer: 0, byteOffset: 0, byteLength: 4 * positions.length },
      { buffer: 0, byteOffset: 4 * positions.length, byteLength: 2 * indices.length },
    ],
    accessors: [
      { bufferView: 0, componentType: 5126, count: positions.length / 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] },
      { bufferView: 1, componentType: 5123, count: indices.length, type: 'SCALAR' },
    ],
  }
  change(json)
  return text(JSON.stringify(json))
}

async function refusal(bytes: Uint8Array, name: string): Promise<string> {
  try {
    await readFile(bytes, name)
  } catch (error) {
    expect(error).toBeInstanceOf(ChiraxisError)
    expect((error as Error).message).toMatch(/^\S.*\.$/s)
    return (error as ChiraxisError).code
  }
  return 'read'
}

describe('BVH', () => {
  it('gives back skeleton and motion whatever the joint axes were', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.boolean(), (seed, slides) => {
        const skeleton = biped({ axes: wildAxes(seed) })
        const take = wildTake(skeleton, seed + 1, 4)
        // a hand that travels on its arm
        if (slides) take.translations[3 * (2 * ROLES.length + ROLES.indexOf('leftHand'))] += 0.2
        const order = (['XYZ', 'ZXY', 'YZX'] as const)[seed % 3]
        const read = readBvh(writeBvh(skeleton, take, { order }), 'wild')
        expect(read.takes[0].frames).toBe(4)
        expect(read.takes[0].fps).toBeCloseTo(30, 3)
        const places = skeleton.names.map(n => read.skeleton!.names.indexOf(n))
        const n = places.length
        for (let f = 0; f < 4; f++) {
          const a = worldPose(skeleton, take.translations, take.rotations, f * n)
          const b = worldPose(read.skeleton!, read.takes[0].translations, read.takes[0].rotations, f * n)
          for (let j = 0; j < n; j++) {
            const p = vec3At(a.positions, j),
              q = vec3At(b.positions, places[j])
            expect(Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2])).toBeLessThan(2e-5)
          }
        }
      }),
      { numRuns: 10 },
    )
  })
  it('reads any order of rotation channels and numbers of any form', () => {
    const file = `HIERARCHY\nROOT a b\n{\nOFFSET 0 1e1 -.5\nCHANNELS 3 Yrotation Xrotation Zrotation\nEnd Site\n{\nOFFSET 0 1 0\n}\n}\nMOTION\nFrames: 2\nFrame Time: 0.0416667\n90 0 0\n+0 4.5e1 -0.0\n`
    const { skeleton, takes } = readBvh(text(file))
    expect(skeleton!.names).toEqual(['a b'])
    expect([...skeleton!.restTranslations]).toEqual([0, 10, -0.5])
    expect(takes[0].fps).toBeCloseTo(24, 2)
    expect(quatAt(takes[0].rotations, 0)[1]).toBeCloseTo(Math.SQRT1_2)
    expect(quatAt(takes[0].rotations, 1)[0]).toBeCloseTo(Math.sin(Math.PI / 8))
  })
  it('is refused when cut anywhere, and never breaks otherwise', async () => {
    const skeleton = biped()
    const whole = writeBvh(skeleton, wildTake(skeleton, 3, 3))
    for (let cut = 1; cut < whole.length - 12; cut += 97)
      expect(await refusal(whole.subarray(0, cut), 'cut.bvh')).not.toBe('read')
  })
  it('tells what is wrong', async () => {
    const head = 'HIERARCHY\nROOT a\n{\nOFFSET 0 0 0\nCHANNELS 3 Xrotation Yrotation Zrotation\n}\n'
    expect(await refusal(text(`${head}MOTION\nFrames: 1\nFrame Time: 0.03\n0 nan 0\n`), 'x.bvh')).toBe('not-finite')
    expect(await refusal(text(`${head}MOTION\nFrames: 900000000\nFrame Time: 0.03\n0 0 0\n`), 'x.bvh')).toBe(
      'too-large',
    )
    expect(await refusal(text(`${head}MOTION\nFrames: 1\nFrame Time: 0\n0 0 0\n`), 'x.bvh')).toBe('bad-syntax')
    expect(
      await refusal(
        text(`${head.replace('Xrotation', 'Wrotation')}MOTION\nFrames: 1\nFrame Time: 1\n0 0 0\n`),
        'x.bvh',
      ),
    ).toBe('bad-syntax')
  })
})

describe('OBJ', () => {
  it('reads polygons, relative indices and groups', () => {
    const { mesh } = readObj(
      text('# box\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\ng quad\nf 1/1/1 2/2/1 3//1 4\ng tail\nf -4 -3 -2\n'),
    )
    expect([...mesh!.indices]).toEqual([0, 1, 2, 0, 2, 3, 0, 1, 2])
    expect(mesh!.parts.map(p => [p.name, p.count])).toEqual([
      ['quad', 6],
      ['tail', 3],
    ])
  })
  it('is refused with the line that is wrong', async () => {
    expect(await refusal(text('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n'), 'a.obj')).toBe('index-range')
    expect(await refusal(text('v 0 0 0\nv 1 nan 0\nv 0 1 0\nf 1 2 3\n'), 'a.obj')).toBe('not-finite')
    expect(await refusal(text('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 x 3\n'), 'a.obj')).toBe('bad-syntax')
    expect(await refusal(text('v 0 0 0\n'), 'a.obj')).toBe('no-triangles')
  })
})

describe('glTF', () => {
  const body = box([-0.2, 0, -0.1], [0.2, 1.8, 0.1])

  it('gives back body, skeleton, skin and takes, proven by the validator', async () => {
    const skeleton = biped({ axes: wildAxes(5) })
    const skin = await bind(body, skeleton, { influences: 8 })
    const content = {
      name: 'box',
      mesh: { ...body, colors: new Float32Array(body.positions.length).fill(0.25) },
      skeleton,
      skin,
      takes: [wildTake(skeleton, 9)],
    }
    const bytes = await writeGlb(content)
    expect(await writeGlb(content)).toEqual(bytes)
    const proof = await proveGlb(bytes, content)
    expect(proof).toMatchObject({ validatorErrors: 0, validatorWarnings: 0 })
    expect(proof.maxPositionErrorShare).toBeLessThan(1e-5)
    expect(proof.maxRotationErrorDegrees).toBeLessThan(0.01)
    const read = await readGltf(bytes)
    const order = skeleton.names.map(name => read.skeleton!.names.indexOf(name))
    expect(order.map(j => read.skeleton!.roles[j])).toEqual(skeleton.roles)
    expect(read.skin!.influences).toBe(8)
    expect(read.mesh!.colors![0]).toBeCloseTo(0.25, 3)
    expect(read.takes[0]).toMatchObject({ name: 'wild', frames: 12, fps: 30 })
    for (let f = 0; f < 12; f++)
      for (let j = 0; j < 22; j++) {
        expect(
          angleOf(quatAt(read.takes[0].rotations, 22 * f + order[j]), quatAt(content.takes[0].rotations, 22 * f + j)),
        ).toBeLessThan(2e-3)
      }
  })
  it('puts a mesh where its nodes put it', async () => {
    const read = await readGltf(
      gltf(j => {
        j.nodes = [
          { children: [1], translation: [0, 5, 0] },
          { mesh: 0, scale: [2, 2, 2] },
        ]
      }),
    )
    expect([...read.mesh!.positions]).toEqual([0, 5, 0, 2, 5, 0, 0, 7, 0])
  })
  it('is refused in words for each kind of damage', async () => {
    expect(await refusal(gltf(), 'fine.gltf')).toBe('read')
    expect(
      await refusal(
        gltf(j => {
          j.nodes = [{ mesh: 0, children: [1] }, { children: [2] }, { children: [1] }]
        }),
        'a.gltf',
      ),
    ).toBe('cyclic-nodes')
    expect(
      await refusal(
        gltf(j => {
          j.nodes = [{ mesh: 0, children: [0] }]
        }),
        'a.gltf',
      ),
    ).toBe('cyclic-nodes')
    expect(
      await refusal(
        gltf(j => {
          j.nodes = Array.from({ length: 3000 }, (_, i) =>
            i === 0 ? { mesh: 0, children: [1] } : i < 2999 ? { children: [i + 1] } : {},
          )
        }),
        'deep.gltf',
      ),
    ).toBe('too-large')
    expect(await refusal(gltf(undefined, undefined, [0, 1, 7]), 'a.gltf')).toBe('index-range')
    expect(await refusal(gltf(undefined, [0, 0, 0, 1, NaN, 0, 0, 1, 0]), 'a.gltf')).toBe('not-finite')
    expect(
      await refusal(
        gltf(j => {
          ;(j.accessors as { count: number }[])[0].count = 4000
        }),
        'a.gltf',
      ),
    ).toBe('truncated-file')
    expect(
      await refusal(
        gltf(j => {
          j.asset = { version: '1.0' }
        }),
        'a.gltf',
      ),
    ).toBe('bad-version')
    expect(
      await refusal(
        gltf(j => {
          j.extensionsRequired = ['KHR_nobody_knows_this']
        }),
        'a.gltf',
      ),
    ).toBe('bad-version')
    expect(
      await refusal(
        gltf(j => {
          j.meshes = []
          j.nodes = [{}]
        }),
        'a.gltf',
      ),
    ).toBe('no-triangles')
    expect(
      await refusal(
        gltf(j => {
          ;(j.buffers as { uri: string }[])[0].uri = 'beside.bin'
        }),
        'a.gltf',
      ),
    ).toBe('missing-file')
  })
  it('is refused when cut anywhere', async () => {
    const bytes = await writeGlb({ name: 'box', mesh: body })
    for (let cut = 1; cut < bytes.length; cut += 61)
      expect(await refusal(bytes.subarray(0, cut), 'cut.glb')).not.toBe('read')
  })
})

describe('any file', () => {
  it('is told apart by what it holds, and refused when that is not what it is named', async () => {
    expect(await refusal(new Uint8Array(0), 'nothing.glb')).toBe('empty-file')
    expect(await refusal(text('hello'), 'a.glb')).toBe('wrong-format')
    expect(await refusal(text('hello'), 'a.bvh')).toBe('wrong-format')
    expect(await refusal(text('hello'), 'a.xyz')).toBe('unknown-format')
    expect(await refusal(Uint8Array.from([1, 0, 2, 0]), 'a.obj')).toBe('wrong-format')
    expect(await refusal(text('{"a":1}'), 'a.gltf')).toBe('wrong-format')
    const glb = await writeGlb({ name: 'box', mesh: box([0, 0, 0], [1, 1, 1]) })
    expect((await readFile(glb, 'misnamed.obj')).format).toBe('glb')
  })
  it('never breaks in any other way, whatever the bytes', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.uint8Array({ maxLength: 300 }),
        fc.constantFrom('a.glb', 'a.gltf', 'a.obj', 'a.bvh', 'a'),
        async (bytes, name) => {
          expect(typeof (await refusal(bytes, name))).toBe('string')
        },
      ),
      { numRuns: 150 },
    )
    const glb = await writeGlb({ name: 'box', mesh: box([0, 0, 0], [1, 1, 1]) })
    await fc.assert(
      fc.asyncProperty(fc.nat(glb.length - 1), fc.integer({ min: 0, max: 255 }), async (at, value) => {
        const spoilt = glb.slice()
        spoilt[at] = value
        expect(typeof (await refusal(spoilt, 'a.glb'))).toBe('string')
      }),
      { numRuns: 150 },
    )
  })
})
