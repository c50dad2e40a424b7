import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  bake,
  buildComplex,
  carried,
  crossingsOf,
  deviationOf,
  flatten,
  irregularOf,
  lightFigure,
  lightSkin,
  makeLight,
  sidesOf,
  trianglesOf,
  type LightSurface,
  type TubePlan,
} from '../src/light'
import { closestOnSurface, type Mesh } from '../src/mesh'
import { proveObj } from '../src/formats/prove-obj'
import { writeObj } from '../src/formats/write-obj'
import { ChiraxisError, minOf, type Vec3 } from '../src/math'
import { jointsInWorld, skeletonFromWorld, type Skeleton } from '../src/skeleton'
import type { Skin } from '../src/skin'
import { cleanDoll, limb } from './figure'
import { join } from './shapes'

/** How often each edge is met, from either side. */
function edgesOf(quads: ArrayLike<number>): Map<string, number[]> {
  const out = new Map<string, number[]>()
  for (let q = 0; q < quads.length; q += 4)
    for (let k = 0; k < 4; k++) {
      const [a, b] = [quads[q + k], quads[q + ((k + 1) % 4)]]
      const key = a < b ? `${a},${b}` : `${b},${a}`
      out.set(key, [...(out.get(key) ?? []), a < b ? 1 : -1])
    }
  return out
}

const tube = (id: string, across: number, deep: number, rings: number, window?: TubePlan['window']): TubePlan => ({
  id,
  across,
  deep,
  end: { across, deep, from: 0 },
  rings,
  ...(window && { window }),
})

describe('a layout of tubes', () => {
  it('is one closed surface of quads alone, whose irregular vertices are those of its windows and ends', () => {
    fc.assert(
      fc.property(
        fc.record({
          wide: fc.integer({ min: 2, max: 8 }).map(n => 2 * n),
          deep: fc.integer({ min: 2, max: 6 }),
          rings: fc.integer({ min: 8, max: 20 }),
          arm: fc.integer({ min: 1, max: 4 }),
          leg: fc.integer({ min: 3, max: 9 }),
          finger: fc.integer({ min: 1, max: 3 }),
        }),
        ({ wide, deep, rings, arm, leg, finger }) => {
          const legWide = (wide - 2) / 2
          const plans: TubePlan[] = [
            tube('trunk', wide, deep, rings),
            tube('left leg', legWide, deep, leg, { host: 'trunk', on: 'bottom', u: wide - legWide, v: 0 }),
            tube('right leg', legWide, deep, leg, { host: 'trunk', on: 'bottom', u: 0, v: 0 }),
            tube('left arm', deep, arm, 9, { host: 'trunk', on: 'wall', at: wide, ring: rings - 1 - arm }),
            tube('right arm', deep, arm, 9, { host: 'trunk', on: 'wall', at: 2 * wide + deep, ring: rings - 1 - arm }),
            ...(deep > 2 * finger || deep === 2 * finger
              ? [0, 1].map(i =>
                  tube(`finger ${i}`, finger, arm, 4, { host: 'left arm', on: 'top', u: i * finger, v: 0 }),
                )
              : []),
            ...(wide > 4 ? [tube('head', 2, deep, 5, { host: 'trunk', on: 'top', u: (wide - 2) / 2, v: 0 })] : []),
          ]
          const { vertices, quads, cellOf, charts } = buildComplex(plans)
          const edges = edgesOf(quads)
          // every edge is met twice, once either way: closed, and turned outward as one
          expect([...edges.values()].every(met => met.length === 2 && met[0] + met[1] === 0)).toBe(true)
          expect(new Set(quads).size).toBe(vertices)
          // Euler: one ball
          expect(vertices - edges.size + quads.length / 4).toBe(2)
          const degree = new Map<number, number>()
          for (const key of edges.keys())
            for (const v of key.split(',').map(Number)) degree.set(v, (degree.get(v) ?? 0) + 1)
          expect([...degree.values()].reduce((sum, d) => sum + 4 - d, 0)).toBe(8)
          expect(irregularOf(vertices, quads).length).toBe([...degree.values()].filter(d => d !== 4).length)
          expect(irregularOf(vertices, quads).length).toBeLessThanOrEqual(8 * (plans.length + 1))
          // every quad has a place of its own in some chart
          const cells = new Set<string>()
          for (let q = 0; q < quads.length / 4; q++) {
            const [c, x, y] = [cellOf[3 * q], cellOf[3 * q + 1], cellOf[3 * q + 2]]
            if (x >= 0 && x < charts[c].across && y >= 0 && y < charts[c].up) cells.add(`${c},${x},${y}`)
          }
          expect(cells.size).toBe(quads.length / 4)
        },
      ),
      { numRuns: 60 },
    )
  })

  it('refuses windows that do not fit', () => {
    expect(() =>
      buildComplex([tube('trunk', 4, 2, 4), tube('arm', 3, 5, 3, { host: 'trunk', on: 'wall', at: 0, ring: 0 })]),
    ).toThrow(ChiraxisError)
    expect(sidesOf({ across: 3, deep: 2 })).toBe(10)
  })
})

describe('crossings', () => {
  it('are told where a surface passes through itself and nowhere else', async () => {
    const square = (y: number, x = 0): number[] => [x, y, 0, x + 1, y, 0, x, y, 1]
    const flat = Uint32Array.of(0, 1, 2, 3, 4, 5)
    expect(await crossingsOf(Float32Array.from([...square(0), ...square(0.1)]), flat)).toEqual([])
    const upright = [0.2, -1, 0.2, 0.3, 1, 0.2, 0.2, -1, 0.4]
    expect(await crossingsOf(Float32Array.from([...square(0), ...upright]), flat)).toEqual([[0, 1]])
  })
})

describe('the light body of a doll', () => {
  let body: Mesh, skeleton: Skeleton, skin: Skin
  let surface: LightSurface
  const height = 1.7
  beforeAll(async () => {
    const made = await cleanDoll()
    ;({ mesh: body, skeleton, skin } = made)
    surface = await makeLight(body.positions, body.indices, skeleton, skin, height, { quads: 3000 })
  }, 120_000)

  it('has about as many quads as were asked for, lies on the body and never passes through itself', async () => {
    const { report, positions, quads } = surface
    expect(Math.abs(report.quads - 3000)).toBeLessThan(150)
    expect(report.crossings).toBe(0)
    expect(report.deviation.mean).toBeLessThan(0.002 * height)
    expect(report.irregular / report.vertices).toBeLessThan(0.05)
    const there = closestOnSurface(body.positions, body.indices)
    const triangles = trianglesOf(positions, quads)
    const again = await deviationOf({ positions, indices: triangles }, there, 2000)
    expect(again.mean).toBeLessThan(0.002 * height)
    for (const met of edgesOf(quads).values()) expect(met).toHaveLength(2)
  })

  it('has three rings and more around elbows and knees, found by walking edges', () => {
    for (const limb of ['leftArm', 'rightArm', 'leftLeg', 'rightLeg'])
      expect(surface.report.loops.find(l => l.limb === limb && l.joint === 1)!.loops.length).toBeGreaterThanOrEqual(3)
    for (const { loops } of surface.report.loops) for (const loop of loops) expect(new Set(loop).size).toBe(loop.length)
  })

  it('is the same every time', async () => {
    const again = await makeLight(body.positions, body.indices, skeleton, skin, height, { quads: 3000 })
    expect(again.positions).toEqual(surface.positions)
    expect(again.quads).toEqual(surface.quads)
  }, 60_000)

  it('knows where it came from, and carries skin and shapes from there', async () => {
    const { lineage, positions } = surface
    for (let v = 0; v < positions.length / 3; v++) {
      const sum = lineage.shares[3 * v] + lineage.shares[3 * v + 1] + lineage.shares[3 * v + 2]
      expect(Math.abs(sum - 1)).toBeLessThan(1e-4)
    }
    const rows = await lightSkin(surface, skin, skeleton.names.length)
    for (let v = 0; v < positions.length / 3; v++) {
      let sum = 0
      for (let i = 0; i < rows.influences; i++) sum += rows.weights[v * rows.influences + i]
      expect(Math.abs(sum - 1)).toBeLessThan(1e-4)
    }
    const lifted = carried(
      lineage,
      Float32Array.from(body.positions, (_, i) => (i % 3 === 1 ? 0.1 : 0)),
      3,
    )
    expect(lifted[1]).toBeCloseTo(0.1, 5)
    const figure = await lightFigure(body, skin, skeleton.names.length, surface, new Uint32Array(), () => false)
    expect(figure.mesh.indices.length).toBe(6 * surface.report.quads)
  })

  it('stays a surface of quads in an OBJ, and is proven', async () => {
    const figure = await lightFigure(body, skin, skeleton.names.length, surface, new Uint32Array(), () => false)
    const written = writeObj('doll', figure.mesh)
    const faces = new TextDecoder()
      .decode(written.bytes)
      .split('\n')
      .filter(l => l.startsWith('f '))
    expect(faces).toHaveLength(surface.report.quads)
    expect(faces.every(f => f.split(' ').length === 5)).toBe(true)
    proveObj(written.bytes, written.beside, figure.mesh, 1)
    const broken = new TextEncoder().encode(new TextDecoder().decode(written.bytes).replace(/f (\S+) (\S+)/, 'f $2 $1'))
    expect(() => proveObj(broken, written.beside, figure.mesh, 1)).toThrow(ChiraxisError)
  })

  it('is laid flat without overlap', () => {
    const size = 512
    const { quads, uvs, from } = flatten(surface, size)
    expect(from.length).toBeGreaterThan(surface.positions.length / 3)
    for (const u of uvs) expect(u >= 0 && u <= 1).toBe(true)
    const owner = new Int32Array(size * size).fill(-1)
    let clash = 0
    for (let q = 0; q < quads.length / 4; q++) {
      const xs = [0, 1, 2, 3].map(i => uvs[2 * quads[4 * q + i]] * size)
      const ys = [0, 1, 2, 3].map(i => uvs[2 * quads[4 * q + i] + 1] * size)
      const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
      for (let y = Math.ceil(y0 - 0.5); y + 0.5 < y1; y++)
        for (let x = Math.ceil(x0 - 0.5); x + 0.5 < x1; x++) {
          if (owner[y * size + x] >= 0 && owner[y * size + x] !== q) clash++
          owner[y * size + x] = q
        }
    }
    expect(clash).toBe(0)
  })

  it('shows the relief of the body in the image that is baked', async () => {
    // another hand than the method's: tangents along the image's rows, by hand
    const byHand = (p: Float32Array, n: Float32Array, uv: Float32Array): Float32Array => {
      const out = new Float32Array((4 * p.length) / 3)
      for (let f = 0; f < p.length / 9; f++) {
        const [du, dv, eu, ev] = [
          uv[6 * f + 2] - uv[6 * f],
          uv[6 * f + 3] - uv[6 * f + 1],
          uv[6 * f + 4] - uv[6 * f],
          uv[6 * f + 5] - uv[6 * f + 1],
        ]
        const det = du * ev - eu * dv || 1
        const t = [0, 1, 2].map(
          k => ((p[9 * f + 3 + k] - p[9 * f + k]) * ev - (p[9 * f + 6 + k] - p[9 * f + k]) * dv) / det,
        )
        for (let c = 0; c < 3; c++) {
          const at = 9 * f + 3 * c
          const d = t[0] * n[at] + t[1] * n[at + 1] + t[2] * n[at + 2]
          const own = t.map((v, k) => v - d * n[at + k])
          const l = Math.hypot(...own) || 1
          out.set([own[0] / l, own[1] / l, own[2] / l, det < 0 ? 1 : -1], 4 * (3 * f + c))
        }
      }
      return out
    }
    const flat = flatten(surface, 512)
    const shade = (): [number, number, number] => [1, 0.5, 0]
    const baked = await bake(
      { positions: body.positions, indices: body.indices, shade },
      surface,
      flat,
      512,
      height,
      byHand,
    )
    expect(baked.angle).toBeLessThan(4)
    expect(baked.missed).toBeLessThan(0.05)
    // red as told, in the middle of some quad
    const at = [0, 1].map(k => (flat.uvs[2 * flat.quads[0] + k] + flat.uvs[2 * flat.quads[2] + k]) / 2)
    const pixel = Math.floor(at[1] * 512) * 512 + Math.floor(at[0] * 512)
    expect([...baked.colors!.subarray(3 * pixel, 3 * pixel + 3)]).toEqual([255, 188, 0])
  }, 60_000)

  it('leaves chains that only move cloth to what they hang on, and draws a tube around one that stands out', async () => {
    const hips = skeleton.roles.indexOf('hips')
    const joints = jointsInWorld(skeleton)
    const [a, b] = [joints.length, joints.length + 1]
    const chain = (at: (i: number) => Vec3): Skeleton =>
      skeletonFromWorld([
        ...joints,
        { name: 'hem 1', parent: hips, position: at(0), rotation: [0, 0, 0, 1] },
        { name: 'hem 2', parent: a, position: at(1), rotation: [0, 0, 0, 1], tip: at(2) },
      ])
    const onto = (of: Mesh, moves: (x: number, y: number, z: number) => boolean): Skin => {
      const n = of.positions.length / 3
      const out = {
        influences: skin.influences,
        joints: new Uint16Array(n * skin.influences),
        weights: new Float32Array(n * skin.influences),
      }
      out.joints.set(skin.joints)
      out.weights.set(skin.weights)
      for (let v = 0; v < n; v++) {
        if (!moves(of.positions[3 * v], of.positions[3 * v + 1], of.positions[3 * v + 2])) continue
        out.weights.fill(0, v * skin.influences, (v + 1) * skin.influences)
        out.joints[v * skin.influences] = b
        out.weights[v * skin.influences] = 1
      }
      return out
    }
    const behind = onto(body, (x, y, z) => z < -0.08 && y > 0.9 && y < 1.35 && Math.abs(x) < 0.2)
    const cloth = await makeLight(
      body.positions,
      body.indices,
      chain(i => [0, 1.3 - 0.2 * i, -0.12]),
      behind,
      height,
      { quads: 3000 },
    )
    expect(cloth.limbs.some(l => l.startsWith('chain'))).toBe(false)
    expect(cloth.report.told).toEqual([])
    expect(cloth.report.deviation.mean).toBeLessThan(0.002 * height)

    const tail = limb([0, 1, -0.05], [0, 0.8, -0.55], 0.04)
    const tailed: Mesh = join(body, tail)
    const skinned = onto(tailed, (_, __, z) => z < -0.14)
    const away = await makeLight(
      tailed.positions,
      tailed.indices,
      chain(i => [0, 1 - 0.1 * i, -0.1 - 0.22 * i]),
      skinned,
      height,
      { quads: 3000 },
    )
    expect(away.limbs.some(l => l.startsWith('chain'))).toBe(true)
    expect(away.report.crossings).toBe(0)
    const tip = minOf(away.positions.filter((_, i) => i % 3 === 2))
    expect(tip).toBeLessThan(-0.5)
  }, 60_000)

  it('is refused in words where nothing tells limbs, and for numbers no body is made of', async () => {
    const nameless = { ...skeleton, roles: skeleton.roles.map(() => undefined) }
    await expect(makeLight(body.positions, body.indices, nameless, skin, height, { quads: 3000 })).rejects.toThrow(
      /limbs/,
    )
    await expect(makeLight(body.positions, body.indices, skeleton, skin, height, { quads: 12 })).rejects.toThrow(
      /quads/,
    )
    await expect(makeLight(body.positions, new Uint32Array(), skeleton, skin, height, { quads: 3000 })).rejects.toThrow(
      /flesh/,
    )
  })
})
