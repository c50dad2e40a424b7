import { describe, expect, it } from 'vitest'
import { joinMeshes, meshOf, type Mesh } from '@chiraxis/core/mesh'
import type { Vec3 } from '@chiraxis/core/math'
import { choiceOf, guessPieces, kindByName, type PieceGuess } from '@chiraxis/core/pieces'
import { findJoint } from '@chiraxis/core/skeleton'
import { skinOfPieces } from '@chiraxis/core/skin'
import { dressed, makeFigure, ODA, ODA_COLORS, trueSkeleton, variedProportions } from '../src/figures'
import { mannequin } from './mannequin'

/** A ball, pulled to an egg. */
function egg(name: string, at: Vec3, radii: Vec3, rows = 8): Mesh {
  const positions: number[] = []
  const indices: number[] = []
  for (let i = 0; i <= rows; i++)
    for (let j = 0; j <= 2 * rows; j++) {
      const [a, b] = [(Math.PI * i) / rows, (Math.PI * j) / rows]
      positions.push(
        at[0] + radii[0] * Math.sin(a) * Math.cos(b),
        at[1] + radii[1] * Math.cos(a),
        at[2] + radii[2] * Math.sin(a) * Math.sin(b),
      )
      const k = i * (2 * rows + 1) + j
      if (i < rows && j < 2 * rows) indices.push(k, k + 1, k + 2 * rows + 1, k + 1, k + 2 * rows + 2, k + 2 * rows + 1)
    }
  return meshOf(Float32Array.from(positions), Uint32Array.from(indices), name)
}

/** Flat cards that hang from the back of the head. */
function cards(name: string, head: Vec3, size: number, count: number): Mesh {
  const positions: number[] = []
  const indices: number[] = []
  for (let c = 0; c < count; c++) {
    const a = Math.PI * (0.1 + (0.8 * c) / Math.max(1, count - 1))
    const [x, z] = [head[0] + size * Math.cos(a), head[2] - size * Math.sin(a)]
    for (let i = 0; i <= 4; i++)
      positions.push(x - 0.01, head[1] + size - 0.55 * size * i, z, x + 0.01, head[1] + size - 0.55 * size * i, z)
    for (let i = 0; i < 4; i++) {
      const k = 10 * c + 2 * i
      indices.push(k, k + 1, k + 2, k + 1, k + 3, k + 2)
    }
  }
  return meshOf(Float32Array.from(positions), Uint32Array.from(indices), name)
}

async function figure(
  seed?: number,
): Promise<{ body: Mesh; skeleton: ReturnType<typeof trueSkeleton>; joints: Record<string, Vec3>; height: number }> {
  const p = seed === undefined ? ODA : variedProportions(seed)
  const made = makeFigure(p, { vertices: 5000 })
  return {
    body: made.mesh,
    skeleton: trueSkeleton(made),
    joints: made.joints as Record<string, Vec3>,
    height: made.height,
  }
}

const of = (mesh: Mesh, guesses: readonly PieceGuess[], name: string): PieceGuess =>
  guesses[mesh.parts.findIndex(p => p.name === name)]

describe('names', () => {
  it.each([
    ['Eye_L', 'eye'],
    ['leftEyeball', 'eye'],
    ['Eyelashes', 'lash'],
    ['EyeBrow.R', 'lash'],
    ['teeth_upper', 'teeth'],
    ['HairCards01', 'hair'],
    ['straw-hat', 'hat'],
    ['sunGlasses', 'glasses'],
    ['Backpack', 'bag'],
    ['sword_geo', 'weapon'],
    ['TrenchCoat', 'clothes'],
    ['boots_low', 'clothes'],
    ['BodyMesh', 'body'],
  ])('%s is %s', (name, kind) => expect(kindByName(name)?.id).toBe(kind))
  it.each(['Cube.003', 'chair', 'that', 'Sphere', 'captain', 'polySurface12', 'Group'])('%s tells nothing', name =>
    expect(kindByName(name)).toBeUndefined(),
  )
})

describe('pieces of dressed bodies', () => {
  for (const seed of [undefined, 3, 11, 27])
    it(`are taken for what they are without any names (body ${seed ?? 'Oda'})`, async () => {
      const { body, skeleton, joints, height: H } = await figure(seed)
      const head = joints.head
      const crown = Math.max(...Array.from({ length: body.positions.length / 3 }, (_, v) => body.positions[3 * v + 1]))
      const up = (crown + head[1]) / 2
      const eyes = [1, -1].map((s, i) =>
        egg(`thing ${i}`, [s * 0.018 * H, up, head[2] + 0.05 * H], [0.011 * H, 0.011 * H, 0.011 * H]),
      )
      const hat = egg('thing 2', [0, crown, head[2]], [0.07 * H, 0.03 * H, 0.08 * H])
      const bag = egg('thing 3', [0.17 * H, joints.leftUpperLeg[1] - 0.02 * H, 0], [0.03 * H, 0.05 * H, 0.06 * H])
      const hand = joints.rightHand
      const stick = egg('thing 4', [hand[0], hand[1], hand[2] + 0.15 * H], [0.012 * H, 0.012 * H, 0.25 * H])
      const mesh = joinMeshes([{ ...body, colors: undefined }, ...eyes, hat, bag, stick])
      const guesses = await guessPieces(mesh, skeleton)
      const told = (name: string): string =>
        `${of(mesh, guesses, name).role} ${of(mesh, guesses, name).joint ?? ''}`.trim()
      expect(guesses[0].role).toBe('body')
      for (const name of ['thing 0', 'thing 1']) expect(told(name)).toBe('rigid head')
      expect(of(mesh, guesses, 'thing 0').kind).toBe('eye')
      expect(told('thing 2')).toBe('rigid head')
      expect(told('thing 3')).toBe('rigid hips')
      expect(told('thing 4')).toBe('rigid rightHand')
    })
  it('wear a coat and carry a satchel, and neither bends where it should not', async () => {
    const made = makeFigure(ODA, { vertices: 8000, palette: ODA_COLORS, headless: true })
    const worn = await dressed(made, ODA, ODA_COLORS, 3000)
    const skeleton = trueSkeleton(made)
    const nameless = { ...worn.mesh, parts: worn.mesh.parts.map((p, i) => ({ ...p, name: `piece ${i}` })) }
    for (const mesh of [worn.mesh, nameless]) {
      const guesses = await guessPieces(mesh, skeleton)
      const at = (name: string): number => worn.mesh.parts.findIndex(p => p.name === name)
      expect(guesses[at('coat')].role).toBe('garment')
      expect(guesses[at('satchel')]).toMatchObject({ role: 'rigid', joint: 'hips' })
      expect(guesses[0].role).toBe('body')
      const skin = await skinOfPieces(mesh, skeleton, guesses)
      const p = mesh.parts[at('satchel')]
      for (const v of mesh.indices.subarray(p.start, p.start + p.count))
        expect([skin.joints[v * skin.influences], skin.weights[v * skin.influences]]).toEqual([
          findJoint(skeleton, 'hips'),
          1,
        ])
    }
  })
  it('have hair whose cards each follow one place and are never torn', async () => {
    const { body, skeleton, joints, height: H } = await figure()
    const hair = cards('hair', joints.head, 0.09 * H, 9)
    const mesh = joinMeshes([{ ...body, colors: undefined }, hair])
    const guesses = await guessPieces(mesh, skeleton)
    expect(guesses[1]).toMatchObject({ kind: 'hair', role: 'strips', by: 'name' })
    const skin = await skinOfPieces(mesh, skeleton, guesses)
    const base = body.positions.length / 3
    const row = (v: number): string =>
      Array.from(
        { length: skin.influences },
        (_, k) => `${skin.joints[v * skin.influences + k]}:${skin.weights[v * skin.influences + k].toFixed(4)}`,
      ).join()
    for (let c = 0; c < 9; c++) {
      const rows = new Set(Array.from({ length: 10 }, (_, i) => row(base + 10 * c + i)))
      expect(rows.size).toBe(1)
    }
  })
  it('are no clothes where there is no body beneath, and eyes only in the head', async () => {
    const { body, skeleton, joints, height: H } = await figure()
    const whole = { ...body, colors: undefined, parts: [{ ...body.parts[0], name: 'Jacket' }] }
    const odd = egg('eye', [0.1 * H, joints.leftFoot[1], 0.2 * H], [0.02 * H, 0.02 * H, 0.02 * H])
    const mesh = joinMeshes([whole, odd])
    const guesses = await guessPieces(mesh, skeleton)
    expect(guesses[0].role).toBe('body')
    expect(guesses[1].kind).not.toBe('eye')
  })
  it('of loose limbs stay one body', async () => {
    const made = mannequin({ height: 1.75, armsDown: 30, sides: 8, overlap: 0.6, thickness: 1, skirt: false })
    // every prism a piece of its own
    const parts: Mesh['parts'][number][] = []
    const { mesh } = made
    const label = componentOf(mesh)
    let start = 0
    for (let f = 0; f <= mesh.indices.length / 3; f++) {
      const same = f > 0 && f < mesh.indices.length / 3 && label[mesh.indices[3 * f]] === label[mesh.indices[3 * f - 3]]
      if (f > 0 && !same) {
        parts.push({ name: `prism ${parts.length}`, start, count: 3 * f - start, color: [1, 1, 1] })
        start = 3 * f
      }
    }
    const { skeleton } = await figure()
    const guesses = await guessPieces({ ...mesh, parts }, skeleton)
    expect(parts.length).toBeGreaterThan(8)
    expect(guesses.map(g => g.role)).toEqual(parts.map(() => 'body'))
  })
})

function componentOf(mesh: Mesh): Int32Array {
  const label = Int32Array.from({ length: mesh.positions.length / 3 }, (_, v) => v)
  for (let changed = true; changed;) {
    changed = false
    for (let i = 0; i < mesh.indices.length; i += 3) {
      const least = Math.min(...[0, 1, 2].map(k => label[mesh.indices[i + k]]))
      for (let k = 0; k < 3; k++)
        if (label[mesh.indices[i + k]] !== least) {
          label[mesh.indices[i + k]] = least
          changed = true
        }
    }
  }
  return label
}

describe('choices', () => {
  it('are found by the name the file gives, where several share it', () => {
    const pieces = { Eye: { role: 'rigid' } }
    expect(choiceOf(pieces, { name: 'Eye (Head.L)', aka: ['Eye'] })).toEqual({ role: 'rigid' })
    expect(choiceOf(pieces, { name: 'Hat' })).toBeUndefined()
    expect(choiceOf({}, { name: 'constructor' })).toBeUndefined()
  })
})
