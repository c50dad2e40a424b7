import { describe, expect, it } from 'vitest'
import { bindsByName, bindsTold, EXPRESSIONS, missingExpressions, partOf, shapeWeights, withFace } from '../src/face'
import { deliver, figureWithTakes, proveGlb, readGltf, writeGlb } from '../src/formats'
import type { Take } from '../src/motion'
import { cleanDoll } from './figure'

const V = (...values: number[]): Float32Array => Float32Array.from(values)

describe('expressions', () => {
  it('are told by the names of shapes, whatever their style', () => {
    const of = (...names: string[]) => bindsByName(names)
    expect(of('aa', 'Blink_L', 'Blink_R')).toEqual({
      aa: [{ shape: 'aa', weight: 1 }],
      blinkLeft: [{ shape: 'Blink_L', weight: 1 }],
      blinkRight: [{ shape: 'Blink_R', weight: 1 }],
      blink: [
        { shape: 'Blink_L', weight: 1 },
        { shape: 'Blink_R', weight: 1 },
      ],
    })
    expect(of('mouthSmileLeft', 'mouthSmileRight').happy?.map(b => b.shape)).toEqual([
      'mouthSmileLeft',
      'mouthSmileRight',
    ])
    expect(of('viseme_O').oh).toEqual([{ shape: 'viseme_O', weight: 1 }])
    expect(of('A', 'I', 'U', 'E', 'O')).toMatchObject({
      aa: [{ shape: 'A' }],
      ih: [{ shape: 'I' }],
      ou: [{ shape: 'U' }],
    })
    expect(of('jawOpen').aa).toEqual([{ shape: 'jawOpen', weight: 1 }])
    expect(of('LookUp').lookUp).toEqual([{ shape: 'LookUp', weight: 1 }])
  })

  it('are not read out of names that say something else', () => {
    // half of a face is no mood, and a letter within a word no vowel
    expect(bindsByName(['mouthSmileLeft', 'cheekPuff', 'Body_A', 'toe', 'browInnerUp'])).toEqual({})
    expect(missingExpressions({})).toEqual([...EXPRESSIONS])
  })
})

describe('a humanoid file', () => {
  it('tells which shapes make its expressions, by both versions of the standard', () => {
    const meshes = [{ extras: { targetNames: ['m0', 'm1', 'm2'] }, primitives: [{ targets: [{}, {}, {}] }] }]
    const preset = { aa: { morphTargetBinds: [{ node: 1, index: 1, weight: 0.8 }] }, blink: { morphTargetBinds: [{ node: 1, index: 9, weight: 1 }] } } // prettier-ignore
    const now = { nodes: [{}, { mesh: 0 }], meshes, extensions: { VRMC_vrm: { expressions: { preset } } } }
    expect(bindsTold(now)).toEqual({ aa: [{ shape: 'm1', weight: 0.8 }] })
    const blendShapeGroups = [{ presetName: 'joy', binds: [{ mesh: 0, index: 2, weight: 100 }] }, { presetName: 'unknown', binds: 7 }] // prettier-ignore
    expect(bindsTold({ nodes: [], meshes, extensions: { VRM: { blendShapeMaster: { blendShapeGroups } } } })).toEqual({
      happy: [{ shape: 'm2', weight: 1 }],
    })
    expect(bindsTold({ extensions: { VRMC_vrm: null as never } })).toEqual({})
  })
})

describe('the face of a take', () => {
  const binds = {
    aa: [{ shape: 'Open', weight: 0.5 }],
    oh: [{ shape: 'Round', weight: 1 }],
    happy: [{ shape: 'Smile', weight: 1 }],
  }
  const track = (name: string, ...values: number[]) => ({ name, kind: 'expression' as const, values: V(...values) })
  const weights = (...tracks: ReturnType<typeof track>[]) =>
    Object.fromEntries(
      [...shapeWeights(tracks, new Set(['Open', 'Round', 'Smile']), binds)].map(([n, v]) => [n, [...v]]),
    )

  it('moves shapes by their own names, and through expressions', () => {
    expect(weights(track('Smile', 0, 1), track('aa', 1, 0.5))).toEqual({ Smile: [0, 1], Open: [0.5, 0.25] })
    // what a shape is told itself is not told twice
    expect(weights(track('Open', 0.2, 0.2), track('aa', 1, 1))).toEqual({ Open: V(0.2, 0.2) && [...V(0.2, 0.2)] })
  })

  it('lets mouth shapes that fight share one mouth', () => {
    const both = weights(track('aa', 1, 0.25), track('oh', 1, 0.25))
    expect(both.Open).toEqual([0.25, 0.125])
    expect(both.Round).toEqual([0.5, 0.25])
  })

  const still: Take = { name: 'stand', fps: 10, frames: 21, rotations: new Float32Array(4 * 21), translations: new Float32Array(3 * 21) } // prettier-ignore
  const same = { toRecording: (s: number) => s }
  it('speaks in the time of its recording, and as strongly as it is to', () => {
    const said = [
      { from: 0, to: 0.5, shape: 'aa', strength: 1 },
      { from: 0.5, to: 1, shape: 'rest', strength: 0 },
    ] as const
    const spoken = withFace(still, { voice: { at: 1, said, seconds: 1, lead: 0 } }, same)
    const aa = spoken.scalars!.find(s => s.name === 'aa')!.values
    expect(aa[5]).toBe(0)
    expect(aa[12]).toBeCloseTo(1, 5)
    expect(aa[18]).toBe(0)
    // a take that is played twice as fast says it twice as fast
    const fast = withFace(still, { voice: { at: 1, said, seconds: 1, lead: 0 } }, { toRecording: s => 2 * s })
    expect(fast.scalars!.find(s => s.name === 'aa')!.values[6]).toBeCloseTo(1, 5)
    const quiet = withFace(still, { voice: { at: 1, said, seconds: 1, lead: 0 }, strength: { mouth: 0.5 } }, same)
    expect(quiet.scalars!.find(s => s.name === 'aa')!.values[12]).toBeCloseTo(0.5, 5)
    expect(withFace(still, {}, same)).toBe(still)
    // what is left out is as usual
    const usual = withFace(still, { voice: { at: 1, said, seconds: 1, lead: undefined } }, same)
    expect(usual.scalars!.find(s => s.name === 'aa')!.values[12]).toBeCloseTo(1, 5)
  })

  it('takes weights made elsewhere under the names this figure has', () => {
    const weights = { fps: 10, frames: 2, tracks: [{ name: 'jawOpen', values: V(0, 1) }, { name: 'nose', values: V(1, 1) }] } // prettier-ignore
    const { scalars } = withFace(still, { solution: { at: 0, weights, names: { jawOpen: 'Open', nose: '' } } }, same)
    expect(scalars!.map(s => s.name)).toEqual(['Open'])
    expect(scalars![0].values[1]).toBe(1)
  })

  it('tells the part of a face a track moves', () => {
    expect(['aa', 'blinkLeft', 'jawOpen', 'eyeSquintLeft', 'lookUp', 'browUp'].map(partOf)).toEqual(['mouth', 'lids', 'mouth', 'lids', 'gaze', 'mood']) // prettier-ignore
  })
})

describe('a face in files', () => {
  const J = 3
  async function speaking() {
    const doll = await cleanDoll()
    const n = doll.mesh.positions.length / 3
    const offsets = new Float32Array(3 * n)
    for (let v = 0; v < n; v += 7) offsets[3 * v + 1] = -0.01 * (1 + (v % 5))
    const smile = offsets.map(v => -0.5 * v)
    return { ...doll, mesh: { ...doll.mesh, morphs: [{ name: 'aa', offsets }, { name: 'Smile', offsets: smile }] } } // prettier-ignore
  }
  const takeFor = (joints: number, rest: { restTranslations: Float32Array; restRotations: Float32Array }): Take => ({
    name: 'talk',
    fps: 30,
    frames: 31,
    rotations: Float32Array.from({ length: 4 * joints * 31 }, (_, i) => rest.restRotations[i % (4 * joints)]),
    translations: Float32Array.from({ length: J * joints * 31 }, (_, i) => rest.restTranslations[i % (3 * joints)]),
    scalars: [
      {
        name: 'aa',
        kind: 'expression',
        values: Float32Array.from({ length: 31 }, (_, f) => 0.5 - 0.5 * Math.cos(f / 3)),
      },
      { name: 'happy', kind: 'expression', values: Float32Array.from({ length: 31 }, (_, f) => f / 30) },
    ],
  })

  it('is written as motion of shapes, proven, and read back frame by frame', async () => {
    const figure = await speaking()
    const take = takeFor(figure.skeleton.names.length, figure.skeleton)
    const content = { name: 'doll', ...figure, takes: [take], expressions: bindsByName(['aa', 'Smile']) }
    const bytes = await writeGlb(content)
    expect((await proveGlb(bytes, content)).validatorErrors).toBe(0)
    const read = await readGltf(bytes)
    const found = (name: string) => read.takes[0].scalars?.find(s => s.name === name)?.values
    expect(found('aa')!.length).toBe(31)
    take.scalars![0].values.forEach((v, f) => expect(found('aa')![f]).toBeCloseTo(v, 5))
    // the expression moves the shape it is made of, and is told beside it
    take.scalars![1].values.forEach((v, f) => expect(found('Smile')![f]).toBeCloseTo(v, 5))
    expect(found('happy')).toBeDefined()
  })

  it('moves shapes it brought and shapes that were made for it in one animation', async () => {
    const figure = await speaking()
    const take = takeFor(figure.skeleton.names.length, figure.skeleton)
    const offsets = figure.mesh.morphs[0].offsets.map(v => 0.3 * v)
    const shapes = [{ id: 'face', name: 'oh', offsets, turns: [], ease: 1 }]
    const oh = {
      name: 'oh',
      kind: 'expression' as const,
      values: Float32Array.from({ length: 31 }, (_, f) => (f % 7) / 7),
    }
    const content = { name: 'doll', ...figure, shapes, takes: [{ ...take, scalars: [...take.scalars!, oh] }], expressions: bindsByName(['aa', 'Smile', 'oh']) } // prettier-ignore
    // once from nothing, once into the file it came in
    const first = await writeGlb({ name: 'doll', ...figure, takes: [] })
    const came = figureWithTakes('doll', await readGltf(first), []).content
    for (const full of [
      content,
      {
        ...came,
        shapes,
        takes: content.takes,
        expressions: content.expressions,
        source: { ...came.source!, takeFrom: [-1] },
      },
    ]) {
      // prettier-ignore
      const bytes = await writeGlb(full)
      expect((await proveGlb(bytes, full)).validatorErrors).toBe(0)
      const [read] = (await readGltf(bytes)).takes
      const found = (name: string) => read.scalars?.find(s => s.name === name)?.values
      expect(found('aa')![10]).toBeCloseTo(take.scalars![0].values[10], 5)
      expect(found('oh')![9]).toBeCloseTo(2 / 7, 5)
    }
  })

  it('goes through a file that is only passed on, to the bit', async () => {
    const figure = await speaking()
    const take = takeFor(figure.skeleton.names.length, figure.skeleton)
    const first = await writeGlb({ name: 'doll', ...figure, takes: [take], expressions: bindsByName(['aa', 'Smile']) })
    const read = await readGltf(first)
    const again = await readGltf((await deliver(figureWithTakes('doll', read, []).content, 'glb')).bytes)
    expect(again.takes[0].scalars!.map(s => s.name).sort()).toEqual(read.takes[0].scalars!.map(s => s.name).sort())
    for (const s of read.takes[0].scalars!)
      expect(again.takes[0].scalars!.find(o => o.name === s.name)!.values).toEqual(s.values)
  })

  it('whose motion was lost on the way is kept back', async () => {
    const figure = await speaking()
    const take = takeFor(figure.skeleton.names.length, figure.skeleton)
    const content = { name: 'doll', ...figure, takes: [take], expressions: bindsByName(['aa', 'Smile']) }
    const silent = await writeGlb({ ...content, takes: [{ ...take, scalars: undefined }] })
    await expect(proveGlb(silent, content)).rejects.toMatchObject({ code: 'unproven' })
  })
})
