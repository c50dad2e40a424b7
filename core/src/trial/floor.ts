import { maxOf, minOf } from '../math'
import type { Mesh } from '../mesh'

/** What somebody walks on, by its height and what it is made of. */
export interface Floor {
  /** Metres; `under` where there are several over each other: the highest that is not above it. */
  heightAt(x: number, z: number, under?: number): number
  surfaceAt(x: number, z: number, under?: number): string
}

/** Level ground of nothing in particular. */
export const LEVEL: Floor = { heightAt: () => 0, surfaceAt: () => 'ground' }

/** A rectangle of ground: level, or rising evenly along one of its sides. */
export interface Patch {
  readonly surface: string
  readonly x: readonly [from: number, to: number]
  readonly z: readonly [from: number, to: number]
  /** Metres: one height, or those at both ends along x or z. */
  readonly height: number
  readonly rises?: { readonly along: 'x' | 'z'; readonly to: number }
}

/** How high a patch is at a place in it. */
export function heightOf({ x, z, height, rises }: Patch, px: number, pz: number): number {
  if (!rises) return height
  const [[from, to], at] = rises.along === 'x' ? [x, px] : [z, pz]
  return height + (rises.to - height) * Math.min(1, Math.max(0, (at - from) / (to - from)))
}

/** A floor of patches, the later ones over the earlier; around them lies `beyond`. */
export function patchFloor(patches: readonly Patch[], beyond: { surface: string; height: number }): Floor {
  const find = (px: number, pz: number): Patch | undefined => {
    for (let i = patches.length - 1; i >= 0; i--) {
      const { x, z } = patches[i]
      if (px >= x[0] && px < x[1] && pz >= z[0] && pz < z[1]) return patches[i]
    }
    return undefined
  }
  return {
    heightAt(px, pz) {
      const p = find(px, pz)
      return p ? heightOf(p, px, pz) : beyond.height
    },
    surfaceAt: (px, pz) => find(px, pz)?.surface ?? beyond.surface,
  }
}

/** Of a mesh, what is steeper than this is a wall and nobody stands on it: height of a normal of unit length. */
const STEEPEST = 0.3
/** Cells along the longer side of the ground. */
const CELLS = 160
/** What somebody steps up at once, metres. */
const STEP_UP = 0.45

/**
 * The ground a mesh is, from above: triangles that face up, found by cells of a grid.
 * @param mesh metres, Y up
 * @param surfaceOf what a part of the mesh is made of, by its name
 */
export function meshFloor(mesh: Mesh, surfaceOf: (part: string) => string): Floor {
  const { positions: P, indices: I, parts } = mesh
  let [x0, z0, x1, z1] = [Infinity, Infinity, -Infinity, -Infinity]
  const triangles: number[] = []
  const surfaces: string[] = []
  const surfaceAt = new Map<number, number>()
  for (const part of parts) {
    const told = surfaceOf(part.name)
    if (!surfaces.includes(told)) surfaces.push(told)
    for (let i = part.start; i < part.start + part.count; i += 3) {
      const [a, b, c] = [3 * I[i], 3 * I[i + 1], 3 * I[i + 2]]
      const [ux, uy, uz] = [P[b] - P[a], P[b + 1] - P[a + 1], P[b + 2] - P[a + 2]]
      const [vx, vy, vz] = [P[c] - P[a], P[c + 1] - P[a + 1], P[c + 2] - P[a + 2]]
      const n = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
      if (n[1] <= STEEPEST * Math.hypot(n[0], n[1], n[2])) continue
      triangles.push(i)
      surfaceAt.set(i, surfaces.indexOf(told))
      for (const v of [a, b, c]) {
        x0 = Math.min(x0, P[v])
        x1 = Math.max(x1, P[v])
        z0 = Math.min(z0, P[v + 2])
        z1 = Math.max(z1, P[v + 2])
      }
    }
  }
  const size = Math.max(1e-6, Math.max(x1 - x0, z1 - z0) / CELLS)
  const wide = Math.max(1, Math.ceil((x1 - x0) / size) || 1),
    deep = Math.max(1, Math.ceil((z1 - z0) / size) || 1)
  const cells = new Map<number, number[]>()
  const cell = (v: number, from: number, most: number): number =>
    Math.min(most - 1, Math.max(0, Math.floor((v - from) / size)))
  for (const i of triangles) {
    const xs = [0, 1, 2].map(k => P[3 * I[i + k]]),
      zs = [0, 1, 2].map(k => P[3 * I[i + k] + 2])
    const [left, right] = [cell(minOf(xs), x0, wide), cell(maxOf(xs), x0, wide)]
    const [near, far] = [cell(minOf(zs), z0, deep), cell(maxOf(zs), z0, deep)]
    for (let cx = left; cx <= right; cx++)
      for (let cz = near; cz <= far; cz++) {
        const key = cz * wide + cx
        const list = cells.get(key)
        if (list) list.push(i)
        else cells.set(key, [i])
      }
  }
  /** The highest triangle under a height at a place, and how high it is there. */
  function hit(x: number, z: number, under: number): { readonly y: number; readonly at: number } | undefined {
    if (x < x0 || x > x1 || z < z0 || z > z1) return undefined
    let best: { y: number; at: number } | undefined
    for (const i of cells.get(cell(z, z0, deep) * wide + cell(x, x0, wide)) ?? []) {
      const [a, b, c] = [3 * I[i], 3 * I[i + 1], 3 * I[i + 2]]
      const det = (P[b + 2] - P[c + 2]) * (P[a] - P[c]) + (P[c] - P[b]) * (P[a + 2] - P[c + 2])
      const u = ((P[b + 2] - P[c + 2]) * (x - P[c]) + (P[c] - P[b]) * (z - P[c + 2])) / det
      const v = ((P[c + 2] - P[a + 2]) * (x - P[c]) + (P[a] - P[c]) * (z - P[c + 2])) / det
      const w = 1 - u - v
      if (!(u >= -1e-6 && v >= -1e-6 && w >= -1e-6)) continue
      const y = u * P[a + 1] + v * P[b + 1] + w * P[c + 1]
      if (y <= under && (!best || y > best.y)) best = { y, at: i }
    }
    return best
  }
  return {
    heightAt: (x, z, under = Infinity) => (hit(x, z, under + STEP_UP) ?? hit(x, z, Infinity))?.y ?? 0,
    surfaceAt: (x, z, under = Infinity) => {
      const found = hit(x, z, under + STEP_UP) ?? hit(x, z, Infinity)
      return found ? surfaces[surfaceAt.get(found.at)!] : 'ground'
    },
  }
}
