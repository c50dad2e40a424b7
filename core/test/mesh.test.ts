import { describe, expect, it } from 'vitest'
import {
  adjacencyOf,
  boundsOf,
  cellCentre,
  checkMesh,
  componentsOf,
  depthOf,
  geodesics,
  meshOf,
  nearestSolid,
  sectionOf,
  solidAt,
  transformMesh,
  vertexNormals,
  voxelize,
  weldByPosition,
  type Mesh,
} from '../src/mesh'
import { compose, vec3At } from '../src/math'
import { box, join, tube } from './shapes'

const volume = async (mesh: Mesh, cells = 60): Promise<number> => {
  const v = await voxelize(mesh.positions, mesh.indices, { cells })
  return v.cells.length * v.size ** 3
}

describe('solid cells', () => {
  it('fill a closed box with its volume', async () => {
    expect(await volume(box([0, 0, 0], [0.5, 2, 0.7]))).toBeCloseTo(0.7, 1)
  })
  it('count overlapping pieces once', async () => {
    const two = join(box([0, 0, 0], [1, 2, 1]), box([0.5, 0, 0], [1.5, 2, 1]))
    expect(Math.abs((await volume(two)) - 3)).toBeLessThan(0.12)
  })
  it('do not mind faces turned inside out', async () => {
    const inside = box([0, 0, 0], [1, 2, 1])
    const turned = { ...inside, indices: inside.indices.map((_, i, all) => all[i - (i % 3) + (2 - (i % 3))]) }
    expect(Math.abs((await volume(turned)) - 2)).toBeLessThan(0.1)
  })
  it('survive a hole in the surface', async () => {
    const whole = tube(
      Array.from({ length: 40 }, (_, i) => [0, i / 20, 0]),
      0.4,
      24,
    )
    const broken = {
      ...whole,
      indices: whole.indices.filter((_, i) => Math.floor(i / 3) !== 300 && Math.floor(i / 3) !== 301),
    }
    const full = await volume(whole)
    expect(Math.abs((await volume(broken)) - full)).toBeLessThan(0.03 * full)
  })
  it('do not fill the gap between two bodies', async () => {
    const two = join(box([0, 0, 0], [1, 2, 1]), box([1.2, 0, 0], [2.2, 2, 1]))
    const v = await voxelize(two.positions, two.indices, { cells: 60 })
    expect(solidAt(v, [1.1, 1, 0.5])).toBe(-1)
    expect(solidAt(v, [0.5, 1, 0.5])).toBeGreaterThanOrEqual(0)
    expect(nearestSolid(v, [1.1, 1, 0.5], 8)).toBeGreaterThanOrEqual(0)
  })
  it('never reach the border of the grid', async () => {
    const b = box([0, 0, 0], [1, 1, 1])
    const v = await voxelize(b.positions, b.indices, { cells: 20 })
    const [nx, ny, nz] = v.counts
    for (const c of v.cells) {
      const i = c % nx,
        j = Math.floor(c / nx) % ny,
        k = Math.floor(c / nx / ny)
      expect(i * j * k > 0 && i < nx - 1 && j < ny - 1 && k < nz - 1).toBe(true)
    }
  })
})

describe('ways and depth inside a solid', () => {
  it('go round a gap and not across it', async () => {
    // a U of three boxes: the way between its tops leads through the bottom
    const u = join(box([0, 0, 0], [0.3, 2, 0.3]), box([0, 0, 0], [1.3, 0.3, 0.3]), box([1, 0, 0], [1.3, 2, 0.3]))
    const v = await voxelize(u.positions, u.indices, { cells: 60 })
    const from = nearestSolid(v, [0.15, 1.9, 0.15], 3)
    const to = nearestSolid(v, [1.15, 1.9, 0.15], 3)
    const field = await geodesics(v, [{ cell: from, label: 3 }])
    expect(field.distance[to]).toBeGreaterThan(3.9)
    expect(field.distance[to]).toBeLessThan(5)
    expect(field.source[to]).toBe(3)
  })
  it('measure depth from the nearest empty cell', async () => {
    const b = box([0, 0, 0], [1, 1, 1])
    const v = await voxelize(b.positions, b.indices, { cells: 40 })
    const d = depthOf(v)
    const middle = nearestSolid(v, [0.5, 0.5, 0.5], 2)
    expect(d[middle]).toBeGreaterThan(0.45)
    expect(d[middle]).toBeLessThan(0.56)
    expect(Math.min(...d)).toBeCloseTo(v.size, 5)
    expect(cellCentre(v, middle)[1]).toBeCloseTo(0.5, 1)
  })
})

describe('surfaces', () => {
  it('weld vertices at one place, signed zeros too', () => {
    const w = weldByPosition(Float32Array.from([0, 0, 0, 1, 2, 3, -0, 0, 0, 1, 2, 3.0001]))
    expect([...w.of]).toEqual([0, 1, 0, 2])
    expect(w.first.length).toBe(3)
  })
  it('know their neighbours and pieces', () => {
    const two = join(box([0, 0, 0], [1, 1, 1]), box([3, 0, 0], [4, 1, 1]))
    const a = adjacencyOf(16, two.indices)
    expect(componentsOf(a).count).toBe(2)
    const own = a.neighbours.subarray(a.starts[0], a.starts[1])
    expect(new Set(own).size).toBe(own.length)
    expect([...own]).not.toContain(0)
  })
  it('are cut across a limb with the right area and middle', () => {
    const limb = tube(
      Array.from({ length: 9 }, (_, i) => [0.2, i / 4, -0.1]),
      0.1,
      64,
    )
    const cut = sectionOf(limb, [0.25, 1.1, -0.1], [0, 1, 0])
    expect(cut.area).toBeCloseTo(Math.PI * 0.01, 3)
    expect(cut.centre![0]).toBeCloseTo(0.2, 3)
    expect(cut.centre![2]).toBeCloseTo(-0.1, 3)
    expect(cut.outlines[cut.chosen].closed).toBe(true)
    expect(sectionOf(limb, [0, 9, 0], [0, 1, 0]).chosen).toBe(-1)
  })
  it('choose the limb the point is in, not its neighbour', () => {
    const limb = (x: number): Mesh =>
      tube(
        Array.from({ length: 5 }, (_, i) => [x, i / 2, 0]),
        0.1,
        32,
      )
    const both = join(limb(0), limb(0.3))
    expect(sectionOf(both, [0.33, 1, 0], [0, 1, 0]).centre![0]).toBeCloseTo(0.3, 2)
  })
  it('turn their faces when mirrored', () => {
    const b = box([0, 0, 0], [1, 1, 1])
    const m = transformMesh(
      { ...b, normals: vertexNormals(b.positions, b.indices) },
      compose([0, 0, 0], [0, 0, 0, 1], [-1, 1, 1]),
    )
    expect(boundsOf(m.positions).min[0]).toBeCloseTo(-1)
    const n = vec3At(m.normals!, 0)
    expect(n[0]).toBeGreaterThan(0)
  })
  it('are refused when no computation could trust them', () => {
    const b = box([0, 0, 0], [1, 1, 1])
    expect(() => checkMesh(meshOf(new Float32Array(9), new Uint32Array(0)))).toThrow(/no triangles/)
    expect(() => checkMesh(meshOf(Float32Array.from([...b.positions.slice(0, 21), NaN, 0, 0]), b.indices))).toThrow(
      /not a number/,
    )
    expect(() => checkMesh(meshOf(b.positions, Uint32Array.from([0, 1, 99])))).toThrow(/names vertex 99/)
  })
})
