import { beforeAll, describe, expect, it } from 'vitest'
import { type Vec3 } from '../src/math'
import { groupsAround, joinMeshes, meshOf, type Mesh } from '../src/mesh'
import { partWorn, skinOfPieces, type Skin } from '../src/skin'
import type { Skeleton } from '../src/skeleton'
import { cleanDoll, doll, limb } from './figure'
import { box } from './shapes'

let skeleton: Skeleton
beforeAll(async () => {
  ;({ skeleton } = await cleanDoll())
})

/** An open tube about the upright axis, of one wall or of two. */
function bell(low: number, high: number, radius: number, walls: 1 | 2 = 1): Mesh {
  const sides = 24,
    rows = 10
  const positions: number[] = []
  const indices: number[] = []
  for (let w = 0; w < walls; w++)
    for (let r = 0; r <= rows; r++)
      for (let s = 0; s < sides; s++) {
        const a = (2 * Math.PI * s) / sides
        const out = radius * (1 + 0.4 * (1 - r / rows)) - 0.01 * w
        positions.push(out * Math.cos(a), low + ((high - low) * r) / rows, 0.8 * out * Math.sin(a))
      }
  for (let w = 0; w < walls; w++)
    for (let r = 0; r < rows; r++)
      for (let s = 0; s < sides; s++) {
        const at = (i: number, j: number): number => (w * (rows + 1) + i) * sides + (j % sides)
        const quad = [at(r, s), at(r + 1, s), at(r + 1, s + 1), at(r, s + 1)]
        if (w === 1) quad.reverse()
        indices.push(quad[0], quad[1], quad[2], quad[0], quad[2], quad[3])
      }
  return meshOf(Float32Array.from(positions), Uint32Array.from(indices), 'bell')
}
const moved = (mesh: Mesh, [x, y, z]: Vec3): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((v, i) => v + [x, y, z][i % 3]),
})
/** Everything as one part of one file, as many bodies come. */
const asOne = (...meshes: Mesh[]): Mesh => {
  const all = joinMeshes(meshes)
  return { ...all, parts: [{ ...all.parts[0], name: 'figure', start: 0, count: all.indices.length }] }
}
const rowOf = ({ influences: k, joints, weights }: Skin, s: Skeleton, v: number): Record<string, number> => {
  const out: Record<string, number> = {}
  for (let i = v * k; i < v * k + k; i++)
    if (weights[i] > 0) out[s.roles[joints[i]]!] = (out[s.roles[joints[i]]!] ?? 0) + weights[i]
  return out
}

describe('what lies about a point', () => {
  it('is told inside closed walls, about open ones, and beside neither', async () => {
    const cube = box([0, 0, 0], [0.2, 0.2, 0.2])
    const tube = bell(-0.5, 0.5, 0.6)
    const both = joinMeshes([cube, tube])
    const { inside, about, reach } = await groupsAround(
      both.positions,
      both.indices,
      corner => (corner < cube.indices.length ? 0 : 1),
      [
        [0.011, 0.013, 0.017],
        [0.411, 0.013, 0.017],
        [3, 0, 0],
      ],
      async () => {},
    )
    expect([...inside[0]]).toContain(0)
    // an open tube has no inside up and down, but lies about on four sides
    expect([...about[0]].sort()).toEqual([0, 1])
    expect([...about[1]]).toEqual([1])
    expect(inside[2].size + about[2].size).toBe(0)
    expect(reach[0].get(0)!).toBeLessThan(reach[0].get(1)!)
  })
  it('does not mind walls that face the wrong way', async () => {
    const cube = box([0, 0, 0], [0.2, 0.2, 0.2])
    const turned = { ...cube, indices: cube.indices.slice().reverse() }
    const { inside } = await groupsAround(
      turned.positions,
      turned.indices,
      () => 7,
      [[0.01, 0.02, 0.03]],
      async () => {},
    )
    expect([...inside[0]]).toEqual([7])
  })
})

describe('flesh and what is worn', () => {
  it('a coat over legs is worn, legs are not', async () => {
    for (const walls of [1, 2] as const) {
      const mesh = asOne(doll(), bell(0.25, 1, 0.2, walls))
      const { flesh, worn } = await partWorn(mesh, mesh.indices, skeleton)
      expect(worn).toHaveLength(walls)
      expect(worn.every(w => w.bends)).toBe(true)
      expect(flesh.length).toBe(doll().indices.length)
    }
  })
  it('a limb with nobody in it is flesh, and of two the inner one', async () => {
    const leg = (radius: number): Mesh => limb([0.09, 0.85, 0], [0.09, 0.05, 0], radius)
    const outer = leg(0.09)
    const mesh = asOne(doll(), outer)
    const { flesh, worn } = await partWorn(mesh, mesh.indices, skeleton)
    expect(worn.map(w => w.indices.length)).toEqual([outer.indices.length])
    expect(flesh.length).toBe(doll().indices.length)
    // a doll of its limbs alone keeps all of them
    const alone = asOne(doll())
    expect((await partWorn(alone, alone.indices, skeleton)).worn).toEqual([])
  })
  it('what somebody told to be body stays flesh', async () => {
    const mesh = asOne(doll(), bell(0.25, 1, 0.2))
    const kept = new Uint8Array(mesh.positions.length / 3).fill(1)
    expect((await partWorn(mesh, mesh.indices, skeleton, { kept })).worn).toEqual([])
  })
})

describe('automatic skin of one part with many shells', () => {
  it('a shield rides on the forearm as one stiff thing', async () => {
    const shield = moved(box([0, 0, 0], [0.12, 0.14, 0.008]), [0.5, 1.42, 0.06])
    const mesh = asOne(doll(), shield)
    const skin = await skinOfPieces(mesh, skeleton, [undefined])
    const first = doll().positions.length / 3
    for (let v = first; v < mesh.positions.length / 3; v++)
      expect(rowOf(skin, skeleton, v)).toEqual({ leftLowerArm: 1 })
  })
  it('a staff rides on the hand that holds it, though it passes the head and the feet', async () => {
    const staff = limb([0.78, 0.2, 0.0], [0.78, 1.9, 0.0], 0.014)
    const mesh = asOne(doll(), staff)
    const skin = await skinOfPieces(mesh, skeleton, [undefined])
    const first = doll().positions.length / 3
    for (let v = first; v < mesh.positions.length / 3; v++) expect(rowOf(skin, skeleton, v)).toEqual({ leftHand: 1 })
  })
  it('a skirt hangs between the legs: no jump from side to side, no arm in it', async () => {
    const skirt = bell(0.25, 1, 0.2)
    const mesh = asOne(doll(), skirt)
    const skin = await skinOfPieces(mesh, skeleton, [undefined])
    const first = doll().positions.length / 3
    const leftOf = (v: number): number =>
      Object.entries(rowOf(skin, skeleton, v)).reduce((s, [r, w]) => s + (r.startsWith('left') ? w : 0), 0)
    for (let v = first; v < mesh.positions.length / 3; v++) {
      const row = rowOf(skin, skeleton, v)
      expect(Object.values(row).reduce((a, b) => a + b, 0)).toBeCloseTo(1, 4)
      for (const role of Object.keys(row)) expect(role).not.toMatch(/Arm|Hand|head/i)
      // neighbours around the hem differ little
      const next = first + Math.floor((v - first) / 24) * 24 + ((v - first + 1) % 24)
      expect(Math.abs(leftOf(v) - leftOf(next))).toBeLessThan(0.4)
    }
  })
  it('leaves a body of one shell as it was', async () => {
    const mesh = asOne(doll())
    const [a, b] = [
      await skinOfPieces(mesh, skeleton, [undefined]),
      await skinOfPieces(mesh, skeleton, [{ role: 'body', told: true }]),
    ]
    expect(a.weights).toEqual(b.weights)
    expect(a.joints).toEqual(b.joints)
  })
})
