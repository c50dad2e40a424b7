import { describe, expect, it } from 'vitest'
import {
  bendOf,
  cutLimb,
  fitLine,
  limbDirection,
  lineLength,
  resampleLine,
  rowPatches,
  smoothLine,
  type Landmark,
} from '../src/landmarks'
import { extremities } from '../src/landmarks/extremities'
import { findFork } from '../src/landmarks/legs'
import { largestPiece } from '../src/landmarks/largest-piece'
import { limbCells } from '../src/landmarks/limb-cells'
import { angleBetween, type Vec3 } from '../src/math'
import { geodesics, nearestSolid, voxelize, type Mesh, type Voxels } from '../src/mesh'
import { box, join, tube } from './shapes'

const solid = (mesh: { positions: Float32Array; indices: Uint32Array }, cells = 60): Promise<Voxels> =>
  voxelize(mesh.positions, mesh.indices, { cells })

describe('the ends of a body', () => {
  // a cross: a trunk with two arms of different length
  const cross = join(
    box([-0.15, 0, -0.15], [0.15, 2, 0.15]),
    box([0.1, 1.3, -0.1], [1.1, 1.5, 0.1]),
    box([-0.8, 1.3, -0.1], [-0.1, 1.5, 0.1]),
  )
  it('are its persistent peaks, the longest first, each with the limb behind it', async () => {
    const v = await solid(cross)
    const core = nearestSolid(v, [0, 0.1, 0], 3)
    const { distance } = await geodesics(v, [{ cell: core, label: 0 }])
    const ends = await extremities(v, distance, 0.2, 0.2)
    expect(ends).toHaveLength(3)
    const left = ends.find(e => e.tip[0] > 0.9)!
    const right = ends.find(e => e.tip[0] < -0.6)!
    expect(left && right).toBeTruthy()
    expect(left.persistence).toBeGreaterThan(right.persistence)
    const cells = limbCells(v, distance, left)
    const xs = cells.map(c => v.origin[0] + (v.cells[c] % v.counts[0]) * v.size)
    expect(Math.min(...xs)).toBeGreaterThan(-0.2)
    expect(Math.max(...xs)).toBeGreaterThan(1)
  })
  it('are a hand where a stick goes straight on through it, and two of their own where it does not', async () => {
    const about = async (...pieces: readonly Mesh[]): Promise<{ holds: boolean; tip: Vec3 }[]> => {
      const v = await solid(join(cross, ...pieces), 120)
      const { distance } = await geodesics(v, [{ cell: nearestSolid(v, [0, 0.1, 0], 3), label: 0 }])
      return (await extremities(v, distance, 0.2, 0.2, { far: 0.6, thinnest: 0.006 })).filter(e => e.tip[0] > 0.8)
    }
    const thin = 0.02
    const upright = await about(box([1.06, 0.6, -thin], [1.06 + 2 * thin, 2.2, thin]))
    expect(upright).toHaveLength(1)
    expect(upright[0].holds).toBe(true)
    expect(Math.abs(upright[0].tip[1] - 1.4)).toBeLessThan(0.15)
    const forked = await about(
      box([1.06, 1.4, -thin], [1.06 + 2 * thin, 2.2, thin]),
      box([1.06, 1.4, -thin], [1.9, 1.4 + 2 * thin, thin]),
    )
    expect(forked.map(e => e.holds)).toEqual([false, false])
  })
  it('tell where they join', async () => {
    const v = await solid(cross)
    const { distance } = await geodesics(v, [{ cell: nearestSolid(v, [0, 0.1, 0], 3), label: 0 }])
    const arm = (await extremities(v, distance, 0.2, 0.2)).find(e => e.tip[0] > 0.9)!
    expect(Math.abs(arm.root[0])).toBeLessThan(0.25)
    expect(arm.root[1]).toBeCloseTo(1.3, 0)
  })
  it('leave crumbs aside', async () => {
    const v = await solid(join(cross, box([2, 0, 0], [2.2, 0.2, 0.2])))
    expect(largestPiece(v).cells.length).toBeLessThan(v.cells.length)
    const own = await solid(cross)
    expect(largestPiece(own)).toBe(own)
  })
})

describe('limbs', () => {
  it('are cut with the right middle and area', async () => {
    const v = await solid(
      tube(
        Array.from({ length: 41 }, (_, i) => [0.3, i / 20, 0.1]),
        0.2,
        32,
      ),
      120,
    )
    const cut = cutLimb(v, [0.34, 1, 0.06], [0, 1, 0], 0.5)!
    expect(cut.centre[0]).toBeCloseTo(0.3, 1)
    expect(cut.centre[2]).toBeCloseTo(0.1, 1)
    expect(cut.area).toBeCloseTo(Math.PI * 0.04, 1)
    expect(cut.width / cut.depth).toBeCloseTo(1, 0)
    expect(cutLimb(v, [9, 9, 9], [0, 1, 0], 0.5)).toBeUndefined()
  })
  it('bend where their centreline does', () => {
    const line: Vec3[] = Array.from({ length: 41 }, (_, i) => [i / 40, i < 24 ? 0 : (i - 24) * 0.01, 0])
    const bend = bendOf(line, 0.2, 0.8)
    expect(bend.share).toBeCloseTo(0.6, 1)
    expect(bend.angle).toBeCloseTo(Math.atan(0.4), 1)
    expect(
      bendOf(
        Array.from({ length: 20 }, (_, i): Vec3 => [i, 0, 0]),
        0.2,
        0.8,
      ).angle,
    ).toBeLessThan(1e-6)
  })
  it('are measured along their lines', () => {
    const line: Vec3[] = [
      [0, 0, 0],
      [1, 0, 0],
      [1, 2, 0],
    ]
    expect(lineLength(line)).toBe(3)
    expect(resampleLine(line, 4)).toEqual([
      [0, 0, 0],
      [1, 0, 0],
      [1, 1, 0],
      [1, 2, 0],
    ])
    const smooth = smoothLine(
      [
        [0, 0, 0],
        [1, 1, 0],
        [2, 0, 0],
      ],
      5,
    )
    expect(smooth[0]).toEqual([0, 0, 0])
    expect(smooth[1][1]).toBeLessThan(0.1)
    expect(
      angleBetween(
        fitLine([
          [0, 0, 0],
          [1, 1.01, 0],
          [2, 1.99, 0],
        ]).direction,
        [1, 1, 0],
      ),
    ).toBeLessThan(0.02)
  })
  it('run the way their neighbours tell', () => {
    const at = (id: string, position: Vec3): Landmark => ({ id, position, confidence: 1 })
    const arm = [at('leftShoulder', [0, 1, 0]), at('leftElbow', [0.3, 1, 0]), at('leftWrist', [0.6, 1, 0])]
    expect(limbDirection(arm, 'leftElbow')).toEqual([1, 0, 0])
    expect(limbDirection([at('hips', [0, 1, 0])], 'hips')).toEqual([0, 1, 0])
    expect(
      limbDirection([at('chest', [0, 1.2, 0]), at('hips', [0, 1, 0]), at('neckBase', [0, 1.5, 0])], 'chest'),
    ).toEqual([0, 1, 0])
  })
})

describe('the fork of the legs', () => {
  const trunk = box([-0.2, 0.9, -0.1], [0.2, 1.8, 0.1])
  it('is where they part', async () => {
    const v = await solid(
      join(trunk, box([0.04, 0, -0.08], [0.19, 1, 0.08]), box([-0.19, 0, -0.08], [-0.04, 1, 0.08])),
      120,
    )
    expect(findFork(v, 1.8)).toMatchObject({ clear: true })
    expect(findFork(v, 1.8).y).toBeCloseTo(0.9, 1)
  })
  it.each([
    ['touch', 0.1, 0.11, 1],
    ['run far into one another', 0.09, 0.125, 0.92],
  ])('is found though thighs %s, by the waist at the midline', async (_, apart, radius, long) => {
    const leg = (x: number) =>
      tube(
        Array.from({ length: 21 }, (_, i) => [x, (long * i) / 20, 0]),
        radius,
        24,
      )
    const v = await solid(join(trunk, leg(apart), leg(-apart)), 120)
    expect(findFork(v, 1.8).y).toBeCloseTo(0.9, 1)
  })
  it('is not claimed where there is none', async () => {
    const v = await solid(join(trunk, box([-0.2, 0, -0.1], [0.2, 1, 0.1])), 80)
    expect(findFork(v, 1.8).clear).toBe(false)
  })
  it('rows hold their patches', async () => {
    const rows = rowPatches(await solid(join(box([0.1, 0, 0], [0.3, 1, 0.2]), box([-0.3, 0, 0], [-0.1, 1, 0.2])), 40))
    const middle = rows[20]
    expect(middle).toHaveLength(2)
    expect(middle[0].x + middle[1].x).toBeCloseTo(0, 1)
    expect(middle[0].maxX - middle[0].minX).toBeCloseTo(0.2, 1)
  })
})
