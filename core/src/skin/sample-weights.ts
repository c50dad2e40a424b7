import { breather, type WorkOptions } from '../math'
import { nearestSolid, type Voxels } from '../mesh'
import type { JointField } from './diffuse'
import { emptySkin, gatherInto } from './gather'
import type { Skin } from './skin'

/**
 * Reads weights off at surface points, between the eight cells around each, of which only those count
 * that touch the point's own cell: flesh across a gap stays out.
 * @param points indices of the vertices to read, P
 * @returns influences of the P points, none where nothing solid is near
 */
export async function sampleWeights(
  voxels: Voxels,
  fields: readonly JointField[],
  joints: number,
  positions: Float32Array,
  normals: Float32Array,
  points: Uint32Array,
  work: WorkOptions,
): Promise<Skin> {
  const pulse = breather(work)
  const { counts, slot, origin, size } = voxels
  // per cell a short list of joints, so that reading a vertex costs only what is there
  const n = voxels.cells.length
  const starts = new Uint32Array(n + 1)
  for (const f of fields) for (let i = 0; i < f.cells.length; i++) if (f.values[i] > 1e-4) starts[f.cells[i] + 1]++
  for (let i = 0; i < n; i++) starts[i + 1] += starts[i]
  const joint = new Uint16Array(starts[n])
  const value = new Float32Array(starts[n])
  const fill = starts.slice(0, n)
  fields.forEach((f, j) => {
    for (let i = 0; i < f.cells.length; i++) {
      if (!(f.values[i] > 1e-4)) continue
      const at = fill[f.cells[i]]++
      joint[at] = j
      value[at] = f.values[i]
    }
  })
  await pulse(0)
  const out = emptySkin(points.length)
  const gather = gatherInto(out, joints)
  const block = new Int32Array(8)
  const touched = new Uint8Array(8)
  for (let q = 0; q < points.length; q++) {
    if ((q & 1023) === 0) await pulse(q / points.length)
    const v = 3 * points[q]
    // half a cell inwards, where the flesh is
    const x = positions[v] - 0.5 * size * normals[v]
    const y = positions[v + 1] - 0.5 * size * normals[v + 1]
    const z = positions[v + 2] - 0.5 * size * normals[v + 2]
    const own = nearestSolid(voxels, [x, y, z], 60)
    if (own < 0) continue
    const fx = (x - origin[0]) / size,
      fy = (y - origin[1]) / size,
      fz = (z - origin[2]) / size
    const i0 = Math.floor(fx),
      j0 = Math.floor(fy),
      k0 = Math.floor(fz)
    let seed = -1
    for (let c = 0; c < 8; c++) {
      const i = i0 + (c & 1),
        j = j0 + ((c >> 1) & 1),
        k = k0 + (c >> 2)
      const inside = i >= 0 && j >= 0 && k >= 0 && i < counts[0] && j < counts[1] && k < counts[2]
      block[c] = inside ? slot[i + counts[0] * (j + counts[1] * k)] : -1
      if (block[c] === own) seed = c
    }
    const blend = (cell: number, w: number): void => {
      for (let e = starts[cell]; e < starts[cell + 1]; e++) gather.add(joint[e], w * value[e])
    }
    if (seed < 0) blend(own, 1)
    else {
      // spread over faces of the little cube from the own corner
      touched.fill(0)
      touched[seed] = 1
      for (let round = 0; round < 3; round++) {
        for (let c = 0; c < 8; c++) {
          if (touched[c] || block[c] < 0) continue
          if (touched[c ^ 1] || touched[c ^ 2] || touched[c ^ 4]) touched[c] = 1
        }
      }
      for (let c = 0; c < 8; c++) {
        if (!touched[c]) continue
        const wx = c & 1 ? fx - i0 : 1 - (fx - i0)
        const wy = (c >> 1) & 1 ? fy - j0 : 1 - (fy - j0)
        const wz = c >> 2 ? fz - k0 : 1 - (fz - k0)
        blend(block[c], wx * wy * wz + 1e-6)
      }
    }
    gather.settle(q)
  }
  return out
}
