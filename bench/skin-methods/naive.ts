import { vec3At } from '@chiraxis/core/math'
import type { Mesh } from '@chiraxis/core/mesh'
import { boneSegments, nearestOnBones, type Skeleton } from '@chiraxis/core/skeleton'
import { emptySkin, gatherInto, type Skin } from '@chiraxis/core/skin'

/** Straight distance from every vertex to every joint's bones: V·J. */
export function boneDistances(mesh: Mesh, skeleton: Skeleton): Float32Array {
  const J = skeleton.names.length
  const n = mesh.positions.length / 3
  const out = new Float32Array(n * J).fill(Infinity)
  const bones = boneSegments(skeleton)
  for (let v = 0; v < n; v++) {
    const p = vec3At(mesh.positions, v)
    for (const bone of bones)
      out[v * J + bone.joint] = Math.min(out[v * J + bone.joint], nearestOnBones([bone], p).distance)
  }
  return out
}

/** Weights falling with a power of the straight distance to each bone. */
export function inverseDistanceSkin(mesh: Mesh, skeleton: Skeleton, power = 4): Skin {
  const J = skeleton.names.length
  const d = boneDistances(mesh, skeleton)
  const skin = emptySkin(mesh.positions.length / 3, 4)
  const gather = gatherInto(skin, J)
  for (let v = 0; v < mesh.positions.length / 3; v++) {
    for (let j = 0; j < J; j++) if (d[v * J + j] < Infinity) gather.add(j, 1 / Math.max(1e-6, d[v * J + j]) ** power)
    gather.settle(v)
  }
  return skin
}
