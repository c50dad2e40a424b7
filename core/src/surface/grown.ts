import { vertexNormals, type Mesh } from '../mesh'
import { jointRef, type Skeleton } from '../skeleton'
import type { Skin } from '../skin'

/** How much larger a body counts than it is drawn, by joint (role, else what it is known by), metres. */
export type Grown = Readonly<Record<string, number>>

/** Metres by joint; an extra joint within a bone counts as the bone does. */
export function marginsOf(skeleton: Skeleton, grown: Grown): Float64Array {
  const out = new Float64Array(skeleton.names.length)
  for (let j = 0; j < out.length; j++) {
    const p = skeleton.parents[j]
    out[j] = grown[jointRef(skeleton, j)] ?? (skeleton.roles[j] || p < 0 ? 0 : out[p])
  }
  return out
}

/** A body pushed out along its normals by what is told of the joints that move it; itself where nothing is. */
export function grownMesh(mesh: Mesh, skeleton: Skeleton, skin: Skin, grown: Grown = {}): Mesh {
  const margins = marginsOf(skeleton, grown)
  if (margins.every(m => m === 0)) return mesh
  const normals = mesh.normals ?? vertexNormals(mesh.positions, mesh.indices)
  const positions = mesh.positions.slice()
  const k = skin.influences
  for (let v = 0; v < positions.length / 3; v++) {
    let by = 0,
      sum = 0
    for (let i = k * v; i < k * (v + 1); i++) {
      by += skin.weights[i] * margins[skin.joints[i]]
      sum += skin.weights[i]
    }
    if (by === 0) continue
    for (let c = 0; c < 3; c++) positions[3 * v + c] += (by / (sum || 1)) * normals[3 * v + c]
  }
  return { ...mesh, positions }
}
