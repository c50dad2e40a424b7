import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  applySkinEdits,
  brushFor,
  closeCanvas,
  fitWeights,
  groundOf,
  type CanvasGround,
  layDab,
  looseWeights,
  openCanvas,
  readWeights,
  setWeight,
  skinEditLabel,
  weightAt,
  writeWeights,
  type Canvas,
  type SkinEdit,
  type SkinEditOf,
} from '../src/paint'
import { jointRef } from '../src/skeleton'
import { jointWeights, type Skin } from '../src/skin'
import { emptyRecipe, parseRecipe } from '../src/recipe'
import { cleanDoll } from './figure'
import { tube } from './shapes'

const SIZE = 1.72
type Doll = Awaited<ReturnType<typeof cleanDoll>>
let doll: Doll
beforeAll(async () => {
  doll = await cleanDoll()
  ground = await groundOf(doll.mesh, SIZE)
})

let ground: CanvasGround
const canvasOf = (skin: Skin = doll.skin): Canvas => openCanvas(ground, doll.skeleton, skin)
const joint = (role: string): number => doll.skeleton.roles.indexOf(role)
const stroke = (change: Partial<SkinEditOf<'stroke'>> = {}): SkinEditOf<'stroke'> => ({
  kind: 'stroke',
  tool: 'add',
  joint: 'leftUpperArm',
  dabs: [[0.1 / SIZE, 1.3 / SIZE, 0.08 / SIZE, 0.6, 0, 0.8, 1]],
  radius: 0.05,
  strength: 0.5,
  value: 1,
  falloff: 0.5,
  mirror: false,
  through: false,
  locked: [],
  ...change,
})
const sums = (skin: Skin): number[] =>
  Array.from({ length: skin.joints.length / skin.influences }, (_, v) =>
    skin.weights.subarray(v * skin.influences, (v + 1) * skin.influences).reduce((a, b) => a + b, 0),
  )
const total = (skin: Skin, j: number): number => jointWeights(skin, j).reduce((a, b) => a + b, 0)
async function applied(...edits: SkinEdit[]): Promise<Skin> {
  const canvas = canvasOf()
  expect(await applySkinEdits(canvas, edits)).toEqual([])
  return closeCanvas(canvas, 8)
}

describe('one weight', () => {
  it('is set to any value while the row sums to one and locked joints keep theirs', () => {
    const canvas = canvasOf()
    const n = canvas.positions.length / 3
    fc.assert(
      fc.property(
        fc.nat(n - 1),
        fc.nat(doll.skeleton.names.length - 1),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.nat(doll.skeleton.names.length - 1),
        (v, j, value, lock) => {
          const locked = new Uint8Array(doll.skeleton.names.length)
          if (lock !== j) locked[lock] = 1
          const before = weightAt(canvas, v, lock)
          const got = setWeight(canvas, v, j, value, locked)
          expect(weightAt(canvas, v, j)).toBeCloseTo(got, 4)
          if (lock !== j) expect(weightAt(canvas, v, lock)).toBeCloseTo(before, 4)
          const k = canvas.skin.influences
          const row = canvas.skin.weights.subarray(v * k, v * k + k)
          expect(row.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 4)
          for (let i = 1; i < k; i++) expect(row[i]).toBeLessThanOrEqual(row[i - 1])
        },
      ),
      { numRuns: 400 },
    )
  })
  it('taken from the only joint goes to its parent, never nowhere', () => {
    const canvas = canvasOf()
    const hand = joint('leftHand')
    const v = [...canvas.positions.keys()].find(
      i => i * 3 < canvas.positions.length && weightAt(canvas, i, hand) > 0.999,
    )!
    setWeight(canvas, v, hand, 0.25, new Uint8Array(doll.skeleton.names.length))
    expect(weightAt(canvas, v, joint('leftLowerArm'))).toBeCloseTo(0.75, 4)
  })
})

describe('a stroke', () => {
  it('adds where it lies, only there, and only on the side it touches', async () => {
    const after = await applied(stroke())
    const was = jointWeights(doll.skin, joint('leftUpperArm')),
      is = jointWeights(after, joint('leftUpperArm'))
    let raised = 0
    for (let v = 0; v < is.length; v++) {
      const p = doll.mesh.positions.subarray(3 * v, 3 * v + 3)
      const near = Math.hypot(p[0] - 0.1, p[1] - 1.3, p[2] - 0.08) <= 0.05 * SIZE
      if (!near || p[2] < -0.02) expect(is[v]).toBeCloseTo(was[v], 5)
      else if (is[v] > was[v] + 0.01) raised++
    }
    expect(raised).toBeGreaterThan(3)
    for (const s of sums(after)) expect(s).toBeCloseTo(1, 4)
  })
  it('through the body reaches the far side too', async () => {
    const wide = { radius: 0.3, strength: 0.4 }
    const front = total(await applied(stroke(wide)), joint('leftUpperArm'))
    expect(total(await applied(stroke({ ...wide, through: true })), joint('leftUpperArm'))).toBeGreaterThan(front + 1)
  })
  it('mirrored does to the right what it does to the left', async () => {
    const after = await applied(stroke({ mirror: true }))
    const left = jointWeights(after, joint('leftUpperArm')),
      right = jointWeights(after, joint('rightUpperArm'))
    const gain = (w: Float32Array, j: number): number => w.reduce((a, b) => a + b, 0) - total(doll.skin, j)
    expect(gain(right, joint('rightUpperArm'))).toBeGreaterThan(0.5)
    expect(gain(right, joint('rightUpperArm')) / gain(left, joint('leftUpperArm'))).toBeCloseTo(1, 1)
  })
  it('on a joint of the midline paints the middle once', async () => {
    const middle = stroke({
      joint: 'head',
      dabs: [[0, 1.3 / SIZE, 0.13 / SIZE, 0, 0, 1, 1]],
      strength: 0.2,
      falloff: 0,
    })
    const once = await applied(middle),
      both = await applied({ ...middle, mirror: true })
    expect(total(both, joint('head'))).toBeCloseTo(total(once, joint('head')), 3)
  })
  it('takes, replaces, smooths and sharpens as its name says', async () => {
    const at: SkinEditOf<'stroke'>['dabs'] = [[0.3 / SIZE, 1.42 / SIZE, 0.045 / SIZE, 0, 0, 1, 1]]
    const j = joint('leftUpperArm')
    const base = total(doll.skin, j)
    expect(total(await applied(stroke({ tool: 'take', dabs: at })), j)).toBeLessThan(base - 0.5)
    const replaced = await applied(
      stroke({ tool: 'replace', dabs: at, strength: 1, value: 0.3, falloff: 0, radius: 0.03 }),
    )
    const canvas = canvasOf(replaced)
    canvas.grid.within(0.3, 1.42, 0.045, 0.02 * SIZE, v => {
      if (canvas.normals[3 * v + 2] > 0.2) expect(weightAt(canvas, v, j)).toBeCloseTo(0.3, 3)
    })
    const border: SkinEditOf<'stroke'>['dabs'] = [[0.46 / SIZE, 1.42 / SIZE, 0.045 / SIZE, 0, 0, 1, 1]]
    const roughness = (skin: Skin): number => {
      const w = jointWeights(skin, j)
      let sum = 0
      for (let f = 0; f < doll.mesh.indices.length; f += 3)
        sum += (w[doll.mesh.indices[f]] - w[doll.mesh.indices[f + 1]]) ** 2
      return sum
    }
    const own = roughness(doll.skin)
    const wide = { dabs: border, radius: 0.12, strength: 0.8, through: true }
    expect(roughness(await applied(stroke({ ...wide, tool: 'smooth' })))).toBeLessThan(own)
    expect(roughness(await applied(stroke({ ...wide, tool: 'sharpen' })))).toBeGreaterThan(own)
  })
  it('leaves locked joints as they are, whatever the tool', async () => {
    for (const tool of ['add', 'take', 'replace', 'smooth', 'sharpen'] as const) {
      const after = await applied(
        stroke({
          tool,
          joint: 'leftUpperArm',
          dabs: [[0.2 / SIZE, 1.42 / SIZE, 0.04 / SIZE, 0, 0, 1, 1]],
          radius: 0.15,
          through: true,
          locked: ['leftShoulder', 'upperChest'],
        }),
      )
      for (const role of ['leftShoulder', 'upperChest']) {
        if (joint(role) < 0) continue
        const was = jointWeights(doll.skin, joint(role)),
          is = jointWeights(after, joint(role))
        for (let v = 0; v < was.length; v++) expect(is[v]).toBeCloseTo(was[v], 3)
      }
    }
  })
  it('holds on a finer body with another skeleton, and is told when its joint is gone', async () => {
    const finer = { ...doll.mesh, positions: doll.mesh.positions.map(x => x * 2) }
    const canvas = openCanvas(await groundOf(finer, 2 * SIZE), doll.skeleton, doll.skin)
    expect(await applySkinEdits(canvas, [stroke()])).toEqual([])
    expect(total(closeCanvas(canvas, 8), joint('leftUpperArm'))).toBeCloseTo(
      total(await applied(stroke()), joint('leftUpperArm')),
      2,
    )
    const lost = await applySkinEdits(canvasOf(), [
      stroke({ joint: 'tail' }),
      stroke({ dabs: [[5, 5, 5, 0, 0, 1, 1]] }),
    ])
    expect(lost.map(l => l.reason)).toEqual([
      expect.stringContaining('no joint tail'),
      expect.stringContaining('no longer has a surface'),
    ])
  })
  it('gives the same when painted dab by dab as when made again from its record', async () => {
    const dabs: SkinEditOf<'stroke'>['dabs'] = Array.from({ length: 6 }, (_, i) => [
      (0.1 + 0.02 * i) / SIZE,
      1.3 / SIZE,
      0.08 / SIZE,
      0.6,
      0,
      0.8,
      0.5 + 0.1 * i,
    ])
    const canvas = canvasOf()
    const brush = brushFor(canvas, stroke({ dabs: [dabs[0]] }))!
    for (const dab of dabs) layDab(canvas, brush, dab, new Set())
    expect(closeCanvas(canvas, 8)).toEqual(await applied(stroke({ dabs })))
  })
})

describe('repairs of the whole', () => {
  it('mirror one side onto the other', async () => {
    const after = await applied(stroke({ strength: 1, radius: 0.08 }), { kind: 'mirror', from: 'left' })
    const canvas = canvasOf(after)
    for (let v = 0; v < canvas.positions.length / 3; v += 7) {
      const x = canvas.positions[3 * v]
      if (x < 0.02) continue
      let near = -1
      canvas.grid.within(-x, canvas.positions[3 * v + 1], canvas.positions[3 * v + 2], 1e-4, w => {
        near = w
      })
      if (near >= 0)
        expect(weightAt(canvas, near, joint('rightUpperArm'))).toBeCloseTo(
          weightAt(canvas, v, joint('leftUpperArm')),
          2,
        )
    }
  })
  it('fill and bind rigidly the connected part at a place', async () => {
    const head: [number, number, number] = [0, 1.7 / SIZE, 0.1 / SIZE]
    const filled = await applied({ kind: 'fill', joint: 'neck', at: head, value: 1, mirror: false, locked: [] })
    const rigid = await applied({ kind: 'rigid', joint: 'head', at: head, mirror: false })
    const w = jointWeights(filled, joint('neck')),
      r = jointWeights(rigid, joint('head'))
    for (let v = 0; v < w.length; v++)
      if (doll.mesh.positions[3 * v + 1] > 1.63) {
        expect(w[v]).toBeCloseTo(1, 4)
        expect(r[v]).toBe(1)
      }
  })
  it('set typed weights at a place, soften a joint, prune traces', async () => {
    const at: [number, number, number] = [0.3 / SIZE, 1.42 / SIZE, 0.045 / SIZE]
    const set = canvasOf(
      await applied({
        kind: 'set',
        at,
        radius: 0,
        weights: [
          { joint: 'leftUpperArm', weight: 0.2 },
          { joint: 'leftHand', weight: 0.6 },
        ],
      }),
    )
    const v = set.grid.nearest(0.3, 1.42, 0.045, 50)
    expect(weightAt(set, v, joint('leftHand'))).toBeCloseTo(0.75, 4)
    const soft = await applied({ kind: 'soften', joint: 'leftUpperArm', rounds: 4, locked: [] })
    expect(soft).not.toEqual(await applied())
    const pruned = await applied({ kind: 'prune', below: 0.2 })
    for (const w of pruned.weights) if (w > 0) expect(w).toBeGreaterThan(0.19)
  })
  it('are all told in words', () => {
    const all: SkinEdit[] = [
      stroke(),
      { kind: 'prune', below: 0.02 },
      { kind: 'mirror', from: 'left' },
      { kind: 'unbleed' },
      { kind: 'soften', joint: null, rounds: 1, locked: [] },
    ]
    expect(new Set(all.map(e => skinEditLabel(e))).size).toBe(all.length)
    expect(skinEditLabel(stroke(), () => 'left upper arm')).toBe('Add left upper arm')
  })
})

describe('weights in a file', () => {
  const loose = () => looseWeights(doll.mesh, doll.skeleton, doll.skin, SIZE)
  const text = (change: object): Uint8Array =>
    new TextEncoder().encode(
      JSON.stringify({ ...JSON.parse(new TextDecoder().decode(writeWeights(loose()))), ...change }),
    )
  it('come back as they were on the same mesh', async () => {
    const { skin, byPlace, missing } = await fitWeights(
      readWeights(writeWeights(loose()), 'a.json'),
      doll.mesh,
      doll.skeleton,
      SIZE,
    )
    expect({ byPlace, missing }).toEqual({ byPlace: false, missing: [] })
    for (const role of ['leftUpperArm', 'hips', 'rightFoot']) {
      const was = jointWeights(doll.skin, joint(role)),
        is = jointWeights(skin, joint(role))
      for (let v = 0; v < was.length; v++) expect(is[v]).toBeCloseTo(was[v], 3)
    }
  })
  it('are matched by place on another mesh, and keep what belongs to joints that are here', async () => {
    const shifted = { ...doll.mesh, positions: doll.mesh.positions.map((x, i) => x * 1.7 + (i % 3 === 1 ? 1e-3 : 0)) }
    const file = readWeights(
      text({
        joints: doll.skeleton.names.map((_, j) => (j === joint('leftHand') ? 'claw' : jointRef(doll.skeleton, j))),
      }),
      'a.json',
    )
    const { skin, byPlace, missing } = await fitWeights(file, shifted, doll.skeleton, 1.7 * SIZE)
    expect(byPlace).toBe(true)
    expect(missing).toEqual(['claw'])
    expect(total(skin, joint('leftHand'))).toBe(0)
    const was = jointWeights(doll.skin, joint('rightLowerLeg')),
      is = jointWeights(skin, joint('rightLowerLeg'))
    let off = 0
    for (let v = 0; v < was.length; v++) off += Math.abs(was[v] - is[v]) / was.length
    expect(off).toBeLessThan(0.01)
  })
  it('are refused in plain words when they cannot be used', async () => {
    const refused: [object | string, RegExp][] = [
      ['{', /not valid JSON/],
      [{ influences: 60 }, /60 joints to a vertex/],
      [{ weight: [null] }, /no numbers/],
      [{ weight: [-1] }, /below zero/],
      [{ format: 'other' }, /no weights file/],
      [{ joint: [1] }, /do not belong/],
      [{ triangles: [99999999, 0, 1] }, /not there/],
    ]
    for (const [change, words] of refused) {
      const bytes = typeof change === 'string' ? new TextEncoder().encode(change) : text(change)
      expect(() => readWeights(bytes, 'a.json'), String(words)).toThrow(words)
    }
    await expect(
      fitWeights({ ...loose(), joints: doll.skeleton.names.map((_, j) => `x${j}`) }, doll.mesh, doll.skeleton, SIZE),
    ).rejects.toThrow(/another skeleton/)
    const pole = tube(
      [
        [9, 0, 0],
        [9, 1, 0],
      ],
      0.1,
    )
    await expect(fitWeights(loose(), pole, doll.skeleton, SIZE)).rejects.toThrow(/nowhere near/)
  })
})

it('a recipe of the version before gains an empty list of repairs', () => {
  const old = { ...emptyRecipe(), version: 2, skin: { source: 'auto', influences: 4, firmness: 1 } }
  expect(parseRecipe(JSON.parse(JSON.stringify(old))).skin.edits).toEqual([])
})
