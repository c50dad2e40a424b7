import { seededRandom, type Vec3 } from '@chiraxis/core/math'
import { joinMeshes, type Mesh } from '@chiraxis/core/mesh'
import { disturb } from './disturb'
import type { MadeFigure } from './figure'

/** A body as a rough scan: noise, small holes, a stand under one foot, turned 7 degrees, in centimetres with Z up. */
export function scanned(figure: MadeFigure, seed = 71): { mesh: Mesh; joints: Record<string, Vec3> } {
  const random = seededRandom(seed)
  const { mesh } = figure
  const H = figure.height
  // each hole is a handful of faces around a place on the surface
  const holes = Array.from({ length: 14 }, () => {
    const v = Math.floor(random() * (mesh.positions.length / 3))
    return {
      x: mesh.positions[3 * v],
      y: mesh.positions[3 * v + 1],
      z: mesh.positions[3 * v + 2],
      r: (0.003 + 0.005 * random()) * H,
    }
  })
  const kept: number[] = []
  for (let f = 0; f < mesh.indices.length; f += 3) {
    const v = 3 * mesh.indices[f]
    const out = holes.some(
      h =>
        (mesh.positions[v] - h.x) ** 2 + (mesh.positions[v + 1] - h.y) ** 2 + (mesh.positions[v + 2] - h.z) ** 2 <
        h.r ** 2,
    )
    if (!out) kept.push(mesh.indices[f], mesh.indices[f + 1], mesh.indices[f + 2])
  }
  const open: Mesh = {
    ...mesh,
    indices: Uint32Array.from(kept),
    parts: [{ name: 'scan', start: 0, count: kept.length, color: [1, 1, 1] }],
  }
  const foot = figure.joints.leftFoot
  const both = joinMeshes([open, stand([foot[0] + 0.004 * H, -0.012 * H, foot[2] + 0.04 * H], 0.09 * H, 0.012 * H)])
  const awkward = disturb(
    { ...figure, mesh: both },
    { noise: 0.0007, turn: 7, unit: 100, zUp: true, offset: [0.12, 0.03, -0.2] },
    seed,
  )
  return { mesh: awkward.mesh, joints: awkward.joints }
}

/** A round plate. */
function stand(centre: Vec3, radius: number, half: number): Mesh {
  const around = 48
  const positions: number[] = [],
    indices: number[] = [],
    normals: number[] = []
  const ring = (y: number, ny: number, r: number): number => {
    const from = positions.length / 3
    for (let a = 0; a < around; a++) {
      const t = (2 * Math.PI * a) / around
      positions.push(centre[0] + r * Math.cos(t), centre[1] + y, centre[2] + r * Math.sin(t))
      normals.push(...(ny === 0 ? [Math.cos(t), 0, Math.sin(t)] : [0, ny, 0]))
    }
    return from
  }
  const low = ring(-half, 0, radius),
    high = ring(half, 0, radius)
  for (let a = 0; a < around; a++) {
    const b = (a + 1) % around
    indices.push(low + a, high + a, high + b, low + a, high + b, low + b)
  }
  for (const [y, n] of [
    [half, 1],
    [-half, -1],
  ] as const) {
    const rim = ring(y, n, radius)
    const middle = positions.length / 3
    positions.push(centre[0], centre[1] + y, centre[2])
    normals.push(0, n, 0)
    for (let a = 0; a < around; a++) {
      const b = (a + 1) % around
      indices.push(middle, ...(n > 0 ? [rim + b, rim + a] : [rim + a, rim + b]))
    }
  }
  const count = positions.length / 3
  return {
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    indices: Uint32Array.from(indices),
    colors: new Float32Array(3 * count).fill(0.12),
    parts: [{ name: 'stand', start: 0, count: indices.length, color: [1, 1, 1] }],
  }
}
