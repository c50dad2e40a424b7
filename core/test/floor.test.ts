import { describe, expect, it } from 'vitest'
import { meshFloor, patchFloor, quayFloor, surfaceByName } from '../src/trial'
import type { Mesh } from '../src/mesh'

/** A level square of two triangles, and one over it; both from -1 to 1. */
function squares(heights: readonly number[], names: readonly string[]): Mesh {
  const positions: number[] = []
  const indices: number[] = []
  const parts = heights.map((h, i) => {
    const v = positions.length / 3
    positions.push(-1, h, -1, 1, h, -1, 1, h, 1, -1, h, 1)
    indices.push(v, v + 2, v + 1, v, v + 3, v + 2)
    return { name: names[i]!, start: 6 * i, count: 6, color: [1, 1, 1] as const }
  })
  return { positions: Float32Array.from(positions), indices: Uint32Array.from(indices), parts } as unknown as Mesh
}

describe('floors', () => {
  it('of patches rise evenly, the later over the earlier', () => {
    const f = patchFloor(
      [
        { surface: 'mud', x: [0, 4], z: [0, 4], height: 1 },
        { surface: 'planks', x: [1, 3], z: [0, 4], height: 0, rises: { along: 'x', to: 2 } },
      ],
      { surface: 'stone', height: -1 },
    )
    expect([f.heightAt(0.5, 1), f.heightAt(2, 1), f.heightAt(2.5, 1), f.heightAt(9, 9)]).toEqual([1, 1, 1.5, -1])
    expect([f.surfaceAt(0.5, 1), f.surfaceAt(2, 1), f.surfaceAt(9, 9)]).toEqual(['mud', 'planks', 'stone'])
  })
  it('of a mesh are what faces up, the highest that is not over the feet', () => {
    const f = meshFloor(squares([0, 2.2], ['Mud flat', 'Upper deck planks']), surfaceByName)
    expect(f.heightAt(0.3, 0.2)).toBeCloseTo(2.2)
    expect(f.heightAt(0.3, 0.2, 0)).toBeCloseTo(0)
    expect(f.heightAt(0.3, 0.2, 2)).toBeCloseTo(2.2)
    expect(f.heightAt(5, 5)).toBe(0)
    expect(f.surfaceAt(0, 0)).toBe('planks')
    expect(f.surfaceAt(0, 0, 0)).toBe('mud')
    const below = squares([0.5], ['wall'])
    below.indices.reverse()
    expect(meshFloor(below, surfaceByName).heightAt(0, 0)).toBe(0)
  })
  it('the quay has every surface, a step up and a ramp down', () => {
    const f = quayFloor()
    const found = new Set<string>()
    for (let x = -8; x < 8; x += 0.5) for (let z = -5; z < 9; z += 0.5) found.add(f.surfaceAt(x, z))
    expect([...found].sort()).toEqual(['mud', 'planks', 'shingle', 'stone'])
    expect([f.heightAt(0, 0), f.heightAt(0, 4.2), f.heightAt(0, 6)]).toEqual([0, 0.14, 0.28])
    expect(f.heightAt(-4.75, 6)).toBeCloseTo(0.14)
    expect(surfaceByName('Pebble_bank')).toBe('shingle')
    expect(surfaceByName('Floor.001')).toBe('planks')
  })
})
