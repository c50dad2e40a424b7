import { distance, lerp, vec3At } from '@chiraxis/core/math'
import { cellCentre, geodesics, nearestSolid, vertexNormals, voxelize, type Mesh } from '@chiraxis/core/mesh'
import { boneSegments, type Skeleton } from '@chiraxis/core/skeleton'
import { emptySkin, gatherInto, type Skin } from '@chiraxis/core/skin'

/** Weights straight from the geodesic distance to each bone through the solid: ((1 − α) d + α d²)⁻² (Dionne and de Lasa 2013). */
export async function geodesicVoxelSkin(mesh: Mesh, skeleton: Skeleton, alpha = 0.7, cells = 128): Promise<Skin> {
  const voxels = await voxelize(mesh.positions, mesh.indices, { cells })
  const n = mesh.positions.length / 3
  const normals = vertexNormals(mesh.positions, mesh.indices)
  const own = Int32Array.from({ length: n }, (_, v) => {
    const p = vec3At(mesh.positions, v)
    return nearestSolid(
      voxels,
      [
        p[0] - 0.5 * voxels.size * normals[3 * v],
        p[1] - 0.5 * voxels.size * normals[3 * v + 1],
        p[2] - 0.5 * voxels.size * normals[3 * v + 2],
      ],
      60,
    )
  })
  const J = skeleton.names.length
  const d = new Float32Array(n * J).fill(Infinity)
  const bones = boneSegments(skeleton)
  for (let j = 0; j < J; j++) {
    const sources = bones
      .filter(b => b.joint === j)
      .flatMap(({ from, to }) => {
        const steps = Math.max(1, Math.ceil((2 * distance(from, to)) / voxels.size))
        return Array.from({ length: steps + 1 }, (_, i) => nearestSolid(voxels, lerp(from, to, i / steps), 4))
          .filter(c => c >= 0)
          .map(cell => ({ cell, label: j, start: 0 }))
      })
    if (sources.length === 0) continue
    const field = await geodesics(voxels, sources)
    for (let v = 0; v < n; v++)
      if (own[v] >= 0)
        d[v * J + j] = field.distance[own[v]] + distance(cellCentre(voxels, own[v]), vec3At(mesh.positions, v))
  }
  const size = voxels.size * cells
  const skin = emptySkin(n, 4)
  const gather = gatherInto(skin, J)
  for (let v = 0; v < n; v++) {
    for (let j = 0; j < J; j++) {
      const x = d[v * J + j] / size
      if (x < Infinity) gather.add(j, 1 / ((1 - alpha) * x + alpha * x * x) ** 2)
    }
    gather.settle(v)
  }
  return skin
}
