import { length, lerp, sub, vec3At, type Vec3 } from '@chiraxis/core/math'
import { solidAt, voxelize, type Mesh, type Voxels } from '@chiraxis/core/mesh'
import { boneSegments, nearestOnBones, type BoneSegment, type Skeleton } from '@chiraxis/core/skeleton'
import { emptySkin, gatherInto, type Skin } from '@chiraxis/core/skin'
import { boneDistances } from './naive'

/** Whether the straight way from a vertex to the nearest point of a bone stays inside the body. */
function sees(voxels: Voxels, p: Vec3, bone: BoneSegment): boolean {
  const q = nearestOnBones([bone], p).place
  const steps = Math.ceil(length(sub(q, p)) / voxels.size)
  for (let i = 2; i <= steps; i++) if (solidAt(voxels, lerp(p, q, i / steps)) < 0) return false
  return true
}

/**
 * Bone heat on the surface: equilibrium of diffusion by the cotangent Laplacian and the pull 1/d² of the nearest bone
 * in sight (Baran and Popović 2007, "Automatic rigging and animation of 3D characters").
 */
export async function surfaceHeatSkin(mesh: Mesh, skeleton: Skeleton): Promise<Skin> {
  const J = skeleton.names.length
  const n = mesh.positions.length / 3
  const d = boneDistances(mesh, skeleton)
  const bones = boneSegments(skeleton)
  const voxels = await voxelize(mesh.positions, mesh.indices, { cells: 140 })
  const links: Map<number, number>[] = Array.from({ length: n }, () => new Map())
  const area = new Float64Array(n)
  for (let f = 0; f < mesh.indices.length; f += 3) {
    for (let k = 0; k < 3; k++) {
      const a = mesh.indices[f + k],
        b = mesh.indices[f + ((k + 1) % 3)],
        c = mesh.indices[f + ((k + 2) % 3)]
      const u = sub(vec3At(mesh.positions, a), vec3At(mesh.positions, c)),
        v = sub(vec3At(mesh.positions, b), vec3At(mesh.positions, c))
      const cross = Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0])
      const w = Math.max(1e-3, (u[0] * v[0] + u[1] * v[1] + u[2] * v[2]) / Math.max(1e-12, cross)) / 2
      links[a].set(b, (links[a].get(b) ?? 0) + w)
      links[b].set(a, (links[b].get(a) ?? 0) + w)
      area[c] += cross / 6
    }
  }
  const heat = new Float64Array(n)
  const fed: number[][] = Array.from({ length: n }, () => [])
  for (let v = 0; v < n; v++) {
    const p = vec3At(mesh.positions, v)
    const order = [...bones].map(b => ({ b, d: d[v * J + b.joint] })).sort((x, y) => x.d - y.d)
    const seen = order.slice(0, 6).find(({ b }) => sees(voxels, p, b))
    if (!seen) continue
    fed[v] = [...new Set(order.filter(o => o.d < seen.d * 1.0001).map(o => o.b.joint))]
    heat[v] = area[v] / Math.max(1e-8, seen.d ** 2)
  }
  const starts = new Uint32Array(n + 1)
  for (let v = 0; v < n; v++) starts[v + 1] = starts[v] + links[v].size
  const to = new Uint32Array(starts[n]),
    w = new Float64Array(starts[n])
  links.forEach((m, v) => {
    let e = starts[v]
    for (const [o, x] of m) {
      to[e] = o
      w[e++] = x
    }
  })
  const diagonal = Float64Array.from({ length: n }, (_, v) => {
    let s = heat[v] + 1e-9
    for (let e = starts[v]; e < starts[v + 1]; e++) s += w[e]
    return s
  })
  const out: Float64Array[] = []
  for (let j = 0; j < J; j++) {
    const right = Float64Array.from({ length: n }, (_, v) => (fed[v].includes(j) ? heat[v] / fed[v].length : 0))
    out.push(right.some(x => x > 0) ? solve(right, diagonal, starts, to, w) : new Float64Array(n))
  }
  const skin = emptySkin(n, 4)
  const gather = gatherInto(skin, J)
  for (let v = 0; v < n; v++) {
    for (let j = 0; j < J; j++) if (out[j][v] > 1e-4) gather.add(j, out[j][v])
    gather.settle(v)
  }
  return skin
}

function solve(
  b: Float64Array,
  diagonal: Float64Array,
  starts: Uint32Array,
  to: Uint32Array,
  w: Float64Array,
): Float64Array {
  const n = b.length
  const x = new Float64Array(n),
    r = b.slice(),
    p = new Float64Array(n),
    ap = new Float64Array(n)
  let rz = 0
  for (let i = 0; i < n; i++) {
    p[i] = r[i] / diagonal[i]
    rz += r[i] * p[i]
  }
  const enough = 1e-8 * rz
  for (let round = 0; round < 400 && rz > enough; round++) {
    let pap = 0
    for (let i = 0; i < n; i++) {
      let s = diagonal[i] * p[i]
      for (let e = starts[i]; e < starts[i + 1]; e++) s -= w[e] * p[to[e]]
      ap[i] = s
      pap += p[i] * s
    }
    const alpha = rz / pap
    let next = 0
    for (let i = 0; i < n; i++) {
      x[i] += alpha * p[i]
      r[i] -= alpha * ap[i]
      next += (r[i] * r[i]) / diagonal[i]
    }
    for (let i = 0; i < n; i++) p[i] = r[i] / diagonal[i] + (next / rz) * p[i]
    rz = next
  }
  return x
}
