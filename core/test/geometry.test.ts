import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  compose,
  determinant3,
  fromAxisAngle,
  normalize,
  seededRandom,
  transformPoint,
  vec3At,
  type Mat4,
  type Vec3,
} from '../src/math'
import {
  adjacencyOf,
  boundsOf,
  cellCentre,
  cellCoordinates,
  closestOnSurface,
  componentsOf,
  componentsOfFaces,
  depthOf,
  enclosedVolume,
  geodesics,
  joinMeshes,
  nearestSolid,
  neighbourSteps,
  pointGrid,
  sectionOf,
  solidAt,
  transformMesh,
  vertexNormals,
  voxelize,
  weldByPosition,
  weldMembers,
  type Mesh,
} from '../src/mesh'
import { pickVertices, pieceIndices, sampleSurface, withoutPieces } from '../src/shape'
import { box, join, tube } from './shapes'

const seeds = fc.integer({ min: 1, max: 1e6 })
const random3 = (random: () => number, size = 1): Vec3 => [0, 1, 2].map(() => (random() - 0.5) * size) as Vec3
/** A turn, an even scale and a shift from a seed. */
function placing(random: () => number): { m: Mat4; size: number } {
  const size = 0.3 + 2 * random()
  const turn = fromAxisAngle(normalize(random3(random)), 6 * random())
  return { m: compose(random3(random, 4), turn, [size, size, size]), size }
}
const near = (a: number, b: number, share: number): void =>
  expect(Math.abs(a - b)).toBeLessThanOrEqual(share * Math.max(1e-9, Math.abs(b)))

describe('points in a grid', () => {
  it('are found as by looking at each, near and within a radius', () => {
    fc.assert(
      fc.property(seeds, fc.integer({ min: 1, max: 300 }), (seed, n) => {
        const random = seededRandom(seed)
        const points = Float32Array.from({ length: 3 * n }, () => random() * 2 - 1)
        const cell = 0.02 + 0.3 * random()
        const grid = pointGrid(points, cell)
        const [x, y, z] = random3(random, 2.4)
        const away = (i: number): number =>
          (points[3 * i] - x) ** 2 + (points[3 * i + 1] - y) ** 2 + (points[3 * i + 2] - z) ** 2
        const all = Array.from({ length: n }, (_, i) => i)
        const best = all.reduce((a, b) => (away(b) < away(a) ? b : a), 0)
        const found = grid.nearest(x, y, z, Math.ceil(4 / cell))
        expect(away(found)).toBeCloseTo(away(best), 10)
        const radius = random()
        const seen: number[] = []
        grid.within(x, y, z, radius, (i, squared) => {
          expect(squared).toBeCloseTo(away(i), 6)
          seen.push(i)
        })
        expect(seen.sort((a, b) => a - b)).toEqual(all.filter(i => away(i) <= radius * radius))
      }),
    )
  })
  it('are found alike in cubes that have places and in cubes that are hashed, and not beyond the reach', () => {
    fc.assert(
      fc.property(seeds, fc.integer({ min: 5, max: 300 }), fc.integer({ min: 0, max: 7 }), (seed, n, reach) => {
        const random = seededRandom(seed)
        const points = Float32Array.from({ length: 3 * n }, () => 0.3 * (random() * 2 - 1))
        const cell = 0.02 + 0.06 * random()
        const dense = pointGrid(points, cell)
        // one point far off leaves too many cubes between for each to have a place
        const hashed = pointGrid(Float32Array.from([...points, 1e3, 1e3, 1e3]), cell)
        const p = random3(random, 1.6)
        const away = (i: number): number =>
          Math.hypot(points[3 * i] - p[0], points[3 * i + 1] - p[1], points[3 * i + 2] - p[2])
        const [a, b] = [dense.nearest(...p, reach), hashed.nearest(...p, reach)]
        const least = Math.min(...Array.from({ length: n }, (_, i) => away(i)))
        if (least < reach * cell) {
          expect(away(a)).toBeCloseTo(least, 6)
          expect(away(b)).toBeCloseTo(least, 6)
        }
        // cubes of a ring further lie farther off than that in every direction
        if (least > Math.sqrt(3) * (reach + 1) * cell) expect(a).toBe(-1)
      }),
      { numRuns: 200 },
    )
  })
})

describe('the nearest place on a surface', () => {
  /** Nearest distance to a triangle by dividing it finely: slow, and no formula of ours. */
  const byHand = (mesh: Mesh, p: Vec3): number => {
    let best = Infinity
    for (let f = 0; f < mesh.indices.length; f += 3) {
      const [a, b, c] = [0, 1, 2].map(k => vec3At(mesh.positions, mesh.indices[f + k]))
      for (let i = 0; i <= 60; i++)
        for (let j = 0; j <= 60 - i; j++) {
          const [u, v] = [i / 60, j / 60]
          const q = a.map((x, k) => x * (1 - u - v) + b[k] * u + c[k] * v)
          best = Math.min(best, Math.hypot(q[0] - p[0], q[1] - p[1], q[2] - p[2]))
        }
    }
    return best
  }
  it('is the one found by trying all of it, from near and from far', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const { m, size } = placing(random)
        const mesh = transformMesh(box([-0.4, -0.9, -0.2], [0.4, 0.9, 0.2]), m)
        const p = transformPoint(m, random3(random, 3))
        const found = closestOnSurface(mesh.positions, mesh.indices).nearest(...p)!
        expect(Math.abs(found.distance - byHand(mesh, p))).toBeLessThan(0.03 * size)
        const corners = [0, 1, 2].map(k => vec3At(mesh.positions, mesh.indices[3 * found.triangle + k]))
        const place = [0, 1, 2].map(k => found.a * corners[0][k] + found.b * corners[1][k] + found.c * corners[2][k])
        expect(Math.hypot(...place.map((v, k) => v - p[k]))).toBeCloseTo(found.distance, 4)
        expect(found.a + found.b + found.c).toBeCloseTo(1, 6)
      }),
      { numRuns: 40 },
    )
  })
})

describe('what a surface encloses', () => {
  it('grows with the cube of size, stays under turns, and changes sign where it is turned inside out', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const side = [0, 1, 2].map(() => 0.2 + random())
        const mesh = box([0, 0, 0], side)
        const volume = side[0] * side[1] * side[2]
        near(enclosedVolume(mesh.positions, mesh.indices), volume, 1e-4)
        const { m } = placing(random)
        const moved = transformMesh(mesh, m)
        near(enclosedVolume(moved.positions, moved.indices), volume * determinant3(m), 1e-3)
        const inside = Uint32Array.from(mesh.indices)
        for (let f = 0; f < inside.length; f += 3) [inside[f], inside[f + 1]] = [inside[f + 1], inside[f]]
        near(enclosedVolume(mesh.positions, inside), -volume, 1e-4)
      }),
    )
  })
  it('is told by solid cells too, and every cell lies in it', async () => {
    await fc.assert(
      fc.asyncProperty(seeds, async seed => {
        const random = seededRandom(seed)
        const side = [0.4 + random(), 1 + random(), 0.3 + random()]
        const from = random3(random, 3)
        const mesh = box(from, from.map((v, k) => v + side[k]) as Vec3)
        const v = await voxelize(mesh.positions, mesh.indices, { cells: 50 })
        const [a, b, c] = side
        // at most half a layer of cells too many or too few
        expect(Math.abs(v.cells.length * v.size ** 3 - a * b * c)).toBeLessThan((a * b + b * c + c * a) * v.size)
        const wrong: number[] = []
        for (let c = 0; c < v.cells.length; c += 97) {
          const p = cellCentre(v, c)
          const [i, j, k] = cellCoordinates(v, c)
          const right =
            solidAt(v, p) === c &&
            nearestSolid(v, p, 2) === c &&
            p.every((x, a) => x > from[a] - v.size && x < from[a] + side[a] + v.size) &&
            v.cells[c] === i + v.counts[0] * (j + v.counts[1] * k)
          if (!right) wrong.push(c)
        }
        expect(wrong).toEqual([])
        // the deepest cell of a box lies half its thinnest side within
        const depth = depthOf(v)
        const deepest = depth.reduce((a, b) => Math.max(a, b))
        expect(Math.abs(deepest - Math.min(...side) / 2)).toBeLessThan(1.3 * v.size)
      }),
      { numRuns: 12 },
    )
  })
  it('is walked through by ways no shorter than straight ones and hardly longer', async () => {
    const mesh = box([0, 0, 0], [1, 2, 1])
    const v = await voxelize(mesh.positions, mesh.indices, { cells: 40 })
    const from = nearestSolid(v, [0.5, 0.1, 0.5], 3)
    const { distance, previous, source } = await geodesics(v, [{ cell: from, label: 4 }])
    const start = cellCentre(v, from)
    for (let c = 0; c < v.cells.length; c += 31) {
      const p = cellCentre(v, c)
      const straight = Math.hypot(p[0] - start[0], p[1] - start[1], p[2] - start[2])
      expect(distance[c]).toBeGreaterThan(straight - 1e-4)
      // 26 ways to go are off by at most a ninth
      expect(distance[c]).toBeLessThan(1.13 * straight + 1e-4)
      expect(source[c]).toBe(4)
      let at = c
      for (let steps = 0; at !== from; steps++) {
        expect(distance[previous[at]]).toBeLessThan(distance[at])
        at = previous[at]
        expect(steps).toBeLessThan(v.cells.length)
      }
    }
    expect(neighbourSteps(v.counts)).toHaveLength(26)
    expect(neighbourSteps(v.counts).reduce((s, { offset }) => s + offset, 0)).toBe(0)
  })
})

describe('a cut', () => {
  it('across a tube at any slant has the area of its ellipse and its centre on the axis', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const radius = 0.1 + 0.3 * random()
        const lean = 0.9 * random()
        const mesh = tube(
          Array.from({ length: 60 }, (_, i) => [0, (i / 59) * 6 - 3, 0]),
          radius,
          64,
        )
        const weld = weldByPosition(mesh.positions)
        const across: Vec3 = normalize([Math.sin(lean), Math.cos(lean), 0])
        const off = random3(random, 0.5 * radius)
        const { area, centre, outlines, chosen } = sectionOf(mesh, off, across, weld)
        near(area, (Math.PI * radius * radius) / Math.cos(lean), 0.01)
        expect(Math.hypot(centre![0], centre![2])).toBeLessThan(0.02 * radius + 1e-3)
        expect(outlines[chosen].closed).toBe(true)
        // without vertices told apart it is the same
        expect(sectionOf(mesh, off, across).area).toBeCloseTo(area, 8)
      }),
      { numRuns: 30 },
    )
  })
  it('between two legs is the one that holds the point', () => {
    const legs = join(box([-0.4, 0, -0.1], [-0.2, 1, 0.1]), box([0.1, 0, -0.2], [0.5, 1, 0.2]))
    expect(sectionOf(legs, [-0.3, 0.5, 0], [0, 1, 0]).area).toBeCloseTo(0.04, 5)
    expect(sectionOf(legs, [0.3, 0.5, 0], [0, 1, 0]).area).toBeCloseTo(0.16, 5)
    expect(sectionOf(legs, [0, 5, 0], [0, 1, 0]).chosen).toBe(-1)
  })
})

describe('bodies put together and taken apart', () => {
  it('keep every corner, and pieces come out as they went in', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const names = ['a', 'b', 'c', 'd'].slice(0, 2 + Math.floor(3 * random()))
        const made = names.map(name => {
          const b = box(random3(random), random3(random).map(v => v + 2) as Vec3)
          const n = b.positions.length / 3
          return {
            ...b,
            parts: [{ ...b.parts[0], name }],
            uvs: Float32Array.from({ length: 2 * n }, () => random()),
            colors: Float32Array.from({ length: 3 * n }, () => random()),
          }
        })
        const whole = joinMeshes(made)
        expect(whole.parts.map(p => p.name)).toEqual(names)
        const out = names[Math.floor(names.length * random())]!
        const { mesh, from } = withoutPieces(whole, new Set([out]))
        expect(mesh.parts.map(p => p.name)).toEqual(names.filter(n => n !== out))
        expect(mesh.indices.length).toBe(whole.indices.length - made[names.indexOf(out)].indices.length)
        // every corner that stays is where and what it was
        const kept = pieceIndices(whole, new Set(names.filter(n => n !== out)))
        kept.forEach((v, i) => {
          expect(vec3At(mesh.positions, mesh.indices[i])).toEqual(vec3At(whole.positions, v))
          expect(from![mesh.indices[i]]).toBe(v)
          expect(mesh.uvs![2 * mesh.indices[i]]).toBe(whole.uvs![2 * v])
        })
        expect(pickVertices(whole, Uint32Array.of(3, 1)).colors!.length).toBe(6)
        expect(withoutPieces(whole, new Set()).mesh).toBe(whole)
        // nobody is left with nothing
        expect(withoutPieces(whole, new Set(names)).mesh).toBe(whole)
      }),
    )
  })
  it('weld into places, each vertex in just one', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const places = Array.from({ length: 20 }, () => random3(random))
        const picked = Array.from({ length: 60 }, () => Math.floor(20 * random()))
        const positions = Float32Array.from(picked.flatMap(i => places[i]))
        const weld = weldByPosition(positions)
        expect(weld.first.length).toBe(new Set(picked).size)
        const { starts, members } = weldMembers(weld)
        expect([...members].sort((a, b) => a - b)).toEqual(picked.map((_, v) => v))
        for (let w = 0; w < weld.first.length; w++)
          for (let i = starts[w]; i < starts[w + 1]; i++) {
            expect(weld.of[members[i]]).toBe(w)
            expect(picked[members[i]]).toBe(picked[weld.first[w]])
          }
      }),
    )
  })
  it('fall into the same pieces by their faces as by their neighbours', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(fc.nat(29), fc.nat(29), fc.nat(29)), { maxLength: 25 }), async faces => {
        const indices = faces.flat()
        const byFaces = await componentsOfFaces(30, indices)
        expect(byFaces).toEqual(componentsOf(adjacencyOf(30, indices)))
      }),
    )
  })
  it('hang together as their faces say', () => {
    const two = join(box([0, 0, 0], [1, 1, 1]), box([3, 0, 0], [4, 1, 1]))
    const { labels, count } = componentsOf(adjacencyOf(16, two.indices))
    expect(count).toBe(2)
    expect(new Set(labels.subarray(0, 8)).size).toBe(1)
    const { starts, neighbours } = adjacencyOf(16, two.indices)
    for (let v = 0; v < 16; v++)
      for (let e = starts[v]; e < starts[v + 1]; e++) {
        const back = neighbours.subarray(starts[neighbours[e]], starts[neighbours[e] + 1])
        expect([...back]).toContain(v)
      }
  })
})

describe('the skin of a body', () => {
  it('is sampled evenly over its area, and looks outwards', () => {
    const mesh = box([-1, -2, -0.5], [1, 2, 0.5])
    const points = sampleSurface(mesh.positions, mesh.indices, 4000)
    const { min, max } = boundsOf(points)
    expect(min[1]).toBeGreaterThanOrEqual(-2)
    expect(max[1]).toBeLessThanOrEqual(2)
    // the two largest sides, 4 by 2, hold 16 of its 28
    let large = 0
    for (let i = 2; i < points.length; i += 3) if (Math.abs(Math.abs(points[i]) - 0.5) < 1e-6) large++
    near(large / 4000, 16 / 28, 0.05)
    expect(sampleSurface(mesh.positions, mesh.indices, 50)).toEqual(sampleSurface(mesh.positions, mesh.indices, 50))
    const normals = vertexNormals(mesh.positions, mesh.indices)
    for (let v = 0; v < 8; v++) {
      const [n, p] = [vec3At(normals, v), vec3At(mesh.positions, v)]
      expect(Math.hypot(...n)).toBeCloseTo(1, 5)
      n.forEach((x, k) => expect(Math.sign(x)).toBe(Math.sign(p[k])))
    }
  })
})
