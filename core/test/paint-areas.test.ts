import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Mesh } from '../src/mesh'
import {
  applySkinEdits,
  areaOf,
  closeCanvas,
  groundOf,
  meanOf,
  mixRow,
  openCanvas,
  skinEditLabel,
  verticesOfPieces,
  weightAt,
  type Canvas,
  type CanvasGround,
  type SkinEdit,
  type SkinEditOf,
} from '../src/paint'
import { cleanDoll } from './figure'

const SIZE = 1.72
type Doll = Awaited<ReturnType<typeof cleanDoll>>
let doll: Doll
let mesh: Mesh
let ground: CanvasGround
beforeAll(async () => {
  doll = await cleanDoll()
  // the doll as two pieces: what is drawn first, and the rest
  const half = 3 * Math.floor(doll.mesh.indices.length / 6)
  mesh = {
    ...doll.mesh,
    parts: [
      { ...doll.mesh.parts[0], name: 'one', start: 0, count: half },
      { ...doll.mesh.parts[0], name: 'two', start: half, count: doll.mesh.indices.length - half },
    ],
  }
  ground = await groundOf(mesh, SIZE)
})
const canvasOf = (): Canvas => openCanvas(ground, doll.skeleton, doll.skin)
const joint = (role: string): number => doll.skeleton.roles.indexOf(role)

/** A marked place on the front of the left upper arm, near the shoulder. */
const arm: SkinEditOf<'area'>['area'] = {
  dabs: [
    [0.18 / SIZE, 1.42 / SIZE, 0.045 / SIZE, 0, 0, 1, 0.05],
    [0.26 / SIZE, 1.42 / SIZE, 0.045 / SIZE, 0, 0, 1, 0.05],
  ],
  falloff: 0,
  mirror: false,
  through: false,
}
const area = (change: Partial<SkinEditOf<'area'>>): SkinEditOf<'area'> => ({
  kind: 'area',
  does: 'average',
  area: arm,
  amount: 1,
  locked: [],
  ...change,
})
async function applied(canvas: Canvas, ...edits: SkinEdit[]): Promise<void> {
  expect(await applySkinEdits(canvas, edits)).toEqual([])
}
const rowOf = ({ skin }: Canvas, v: number): string => {
  const k = skin.influences
  return Array.from({ length: k }, (_, i) => [skin.joints[v * k + i], skin.weights[v * k + i]] as const)
    .filter(([, w]) => w > 0.002)
    .map(([j, w]) => `${j}:${w.toFixed(3)}`)
    .join(' ')
}

describe('mixing a row towards another', () => {
  it('keeps the sum at one, locked joints as they were, and goes as far as told', () => {
    const n = ground.positions.length / 3
    const joints = doll.skeleton.names.length
    fc.assert(
      fc.property(
        fc.nat(n - 1),
        fc.array(fc.tuple(fc.nat(joints - 1), fc.double({ min: 0.05, max: 1, noNaN: true })), {
          minLength: 1,
          maxLength: 6,
        }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.nat(joints - 1),
        (v, told, share, lock) => {
          const canvas = canvasOf()
          const sum = told.reduce((s, [, w]) => s + w, 0)
          const row = new Map<number, number>()
          for (const [j, w] of told) row.set(j, (row.get(j) ?? 0) + w / sum)
          const locked = new Uint8Array(joints)
          locked[lock] = 1
          const before = new Map([...Array(joints).keys()].map(j => [j, weightAt(canvas, v, j)]))
          mixRow(canvas, v, row, share, locked)
          expect(weightAt(canvas, v, lock)).toBeCloseTo(before.get(lock)!, 4)
          const all = [...Array(joints).keys()].reduce((s, j) => s + weightAt(canvas, v, j), 0)
          expect(all).toBeCloseTo(1, 4)
          // without a lock in the way each weight lies between what it was and what it is drawn to
          if (before.get(lock) === 0 && !row.has(lock) && before.size + row.size <= 8)
            for (const [j, w] of row)
              expect(weightAt(canvas, v, j)).toBeCloseTo((1 - share) * before.get(j)! + share * w, 2)
        },
      ),
      { numRuns: 200 },
    )
  })
})

describe('a marked area', () => {
  it('is what its dabs reach on the side they touch, and its mirror image', () => {
    const canvas = canvasOf()
    const own = areaOf(canvas, arm)
    const other = areaOf(canvas, arm, true)
    expect(own.size).toBeGreaterThan(8)
    for (const v of own.keys()) {
      expect(canvas.positions[3 * v]).toBeGreaterThan(0)
      expect(canvas.normals[3 * v + 2]).toBeGreaterThan(0)
    }
    for (const v of other.keys()) expect(canvas.positions[3 * v]).toBeLessThan(0)
    expect(areaOf(canvas, { ...arm, through: true }).size).toBeGreaterThan(own.size)
  })
  it('averaged, holds one row everywhere, and nothing outside of it changes', async () => {
    const canvas = canvasOf()
    const before = canvasOf()
    const marked = areaOf(canvas, arm)
    expect(new Set([...marked.keys()].map(v => rowOf(canvas, v))).size).toBeGreaterThan(1)
    const mean = meanOf(canvas, marked)
    await applied(canvas, area({}))
    expect(new Set([...marked.keys()].map(v => rowOf(canvas, v))).size).toBe(1)
    const [first] = marked.keys()
    for (const [j, w] of mean) expect(weightAt(canvas, first, j)).toBeCloseTo(w, 3)
    for (let v = 0; v < canvas.positions.length / 3; v++)
      if (!marked.has(v)) expect(rowOf(canvas, v)).toBe(rowOf(before, v))
  })
  it('gets pasted weights, on the other side those of the other side', async () => {
    const canvas = canvasOf()
    const weights = [
      { joint: 'leftUpperArm', weight: 0.75 },
      { joint: 'chest', weight: 0.25 },
    ]
    await applied(canvas, area({ does: 'paste', weights, area: { ...arm, mirror: true } }))
    for (const [flip, arms] of [
      [false, 'leftUpperArm'],
      [true, 'rightUpperArm'],
    ] as const)
      for (const v of areaOf(canvas, arm, flip).keys()) {
        expect(weightAt(canvas, v, joint(arms))).toBeCloseTo(0.75, 4)
        expect(weightAt(canvas, v, joint('chest'))).toBeCloseTo(0.25, 4)
      }
  })
  it('half pasted, lies half way; locked joints keep theirs', async () => {
    const [half, locked] = [canvasOf(), canvasOf()]
    const was = canvasOf()
    const weights = [{ joint: 'head', weight: 1 }]
    await applied(half, area({ does: 'paste', weights, amount: 0.5 }))
    await applied(locked, area({ does: 'paste', weights, locked: ['leftUpperArm'] }))
    for (const v of areaOf(was, arm).keys()) {
      expect(weightAt(half, v, joint('head'))).toBeCloseTo(0.5, 3)
      const kept = weightAt(was, v, joint('leftUpperArm'))
      expect(weightAt(locked, v, joint('leftUpperArm'))).toBeCloseTo(kept, 4)
      expect(weightAt(locked, v, joint('head'))).toBeCloseTo(1 - kept, 4)
    }
  })
  it('is told as lost where nothing is under it or a joint is gone', async () => {
    const away = { ...arm, dabs: arm.dabs.map(([, y, z, ...n]) => [9, y, z, ...n] as (typeof arm.dabs)[number]) }
    const lost = await applySkinEdits(canvasOf(), [
      area({ area: away }),
      area({ does: 'paste', weights: [{ joint: 'no such joint', weight: 1 }] }),
    ])
    expect(lost.map(l => l.reason)).toEqual([
      'Average the marked area could not be kept: the body no longer has a surface there.',
      'Paste weights into the marked area could not be kept: the skeleton has no joint no such joint.',
    ])
  })
})

describe('repairs kept to pieces', () => {
  const changed = (a: Canvas, b: Canvas): Set<number> =>
    new Set([...Array(a.positions.length / 3).keys()].filter(v => rowOf(a, v) !== rowOf(b, v)))
  const stroke: SkinEditOf<'stroke'> = {
    kind: 'stroke',
    tool: 'replace',
    joint: 'head',
    dabs: [[0, 0.5, 0, 0, 0, 1, 1]],
    radius: 1,
    strength: 1,
    value: 1,
    falloff: 0,
    mirror: false,
    through: true,
    locked: [],
  }
  it.each<[string, SkinEdit]>([
    ['a stroke over everything', stroke],
    ['smoothing all', { kind: 'soften', joint: null, rounds: 3, locked: [] }],
    ['pruning', { kind: 'prune', below: 0.2 }],
    ['averaging', area({ area: { ...arm, through: true, dabs: [[0, 0.5, 0, 0, 0, 1, 1]] } })],
  ])('%s changes the one and never the other', async (_, edit) => {
    const canvas = canvasOf()
    await applied(canvas, { ...edit, pieces: ['two'] } as SkinEdit)
    const inside = verticesOfPieces(canvas, ['two'])
    const touched = changed(canvas, canvasOf())
    expect(touched.size).toBeGreaterThan(5)
    for (const v of touched) expect(inside[v]).toBe(1)
    // and without the mask it would have reached the other piece
    const whole = canvasOf()
    await applied(whole, edit)
    expect([...changed(whole, canvasOf())].some(v => !inside[v])).toBe(true)
  })
  it('says so where the pieces are gone', async () => {
    const [lost] = await applySkinEdits(canvasOf(), [{ ...stroke, pieces: ['cape'] }])
    expect(lost.reason).toContain('the pieces it was kept to are not there any more')
  })
})

describe('weights copied from piece to piece', () => {
  it('are those of the nearest place, and the source stays as it is', async () => {
    // a shell about the doll, a centimetre off its surface
    const n = doll.mesh.positions.length / 3
    const normals = ground.normals
    const positions = new Float32Array(6 * n)
    positions.set(doll.mesh.positions)
    for (let v = 0; v < n; v++)
      for (let k = 0; k < 3; k++)
        positions[3 * (n + v) + k] = doll.mesh.positions[3 * v + k] + 0.004 * normals[3 * ground.weld.of[v] + k]
    const faces = doll.mesh.indices.length
    const indices = new Uint32Array(2 * faces)
    indices.set(doll.mesh.indices)
    doll.mesh.indices.forEach((v, i) => (indices[faces + i] = v + n))
    const part = doll.mesh.parts[0]
    const both: Mesh = {
      ...doll.mesh,
      positions,
      normals: undefined,
      indices,
      parts: [
        { ...part, name: 'doll', start: 0, count: faces },
        { ...part, name: 'shirt', start: faces, count: faces },
      ],
    }
    const skin = {
      influences: doll.skin.influences,
      joints: new Uint16Array([...doll.skin.joints, ...doll.skin.joints.map(() => 0)]),
      weights: new Float32Array([
        ...doll.skin.weights,
        ...doll.skin.weights.map((_, i) => (i % doll.skin.influences === 0 ? 1 : 0)),
      ]),
    }
    const canvas = openCanvas(await groundOf(both, SIZE), doll.skeleton, skin)
    await applied(canvas, { kind: 'carry', from: ['doll'], to: ['shirt'] })
    const out = closeCanvas(canvas, 8)
    const k = out.influences
    let off = 0
    for (let v = 0; v < n; v++) {
      const top = doll.skin.joints[v * doll.skin.influences]
      const own = [...Array(k).keys()].reduce(
        (s, i) => s + (out.joints[v * k + i] === top ? out.weights[v * k + i] : 0),
        0,
      )
      const theirs = [...Array(k).keys()].reduce(
        (s, i) => s + (out.joints[(n + v) * k + i] === top ? out.weights[(n + v) * k + i] : 0),
        0,
      )
      expect(own).toBeCloseTo(doll.skin.weights[v * doll.skin.influences], 3)
      off += Math.abs(own - theirs) / n
    }
    expect(off).toBeLessThan(0.03)
  })
  it('from a piece that is gone is told as lost', async () => {
    const [lost] = await applySkinEdits(canvasOf(), [{ kind: 'carry', from: ['cape'], to: ['one'] }])
    expect(lost.reason).toBe('Copy weights from cape to one could not be kept: there is no piece cape any more.')
  })
})

describe('repairs in words', () => {
  it('name what they do', () => {
    expect(skinEditLabel(area({}))).toBe('Average the marked area')
    expect(skinEditLabel({ kind: 'prune', below: 0.025 })).toBe('Prune weights below 2.5 %')
    expect(skinEditLabel({ kind: 'carry', from: ['a', 'b'], to: ['c'] })).toBe('Copy weights from 2 pieces to c')
  })
})
