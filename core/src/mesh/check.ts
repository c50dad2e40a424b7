import { ChiraxisError } from '../math'
import type { Mesh } from './mesh'

/** Most vertices and triangles a body may have. */
export const MESH_LIMITS = { vertices: 6_000_000, triangles: 8_000_000 } as const

/**
 * Refuses arrays no computation could trust.
 * @throws ChiraxisError `no-triangles`, `too-large`, `not-finite`, `index-range`
 */
export function checkMesh(mesh: Mesh): void {
  const { positions, indices } = mesh
  const vertices = positions.length / 3
  if (indices.length < 3 || vertices < 3) {
    throw new ChiraxisError('no-triangles', 'The file holds no triangles, so there is no body to rig.')
  }
  if (vertices > MESH_LIMITS.vertices || indices.length / 3 > MESH_LIMITS.triangles) {
    throw new ChiraxisError(
      'too-large',
      `The body has ${Math.round(indices.length / 3).toLocaleString('en')} triangles; at most ${MESH_LIMITS.triangles.toLocaleString('en')} can be read. Reduce it and bring it in again.`,
    )
  }
  for (let i = 0; i < positions.length; i++) {
    if (!Number.isFinite(positions[i])) {
      throw new ChiraxisError(
        'not-finite',
        `Vertex ${Math.floor(i / 3)} has a position that is not a number; the file is damaged.`,
        { vertex: Math.floor(i / 3) },
      )
    }
  }
  for (let i = 0; i < indices.length; i++) {
    if (indices[i] >= vertices) {
      throw new ChiraxisError(
        'index-range',
        `Triangle ${Math.floor(i / 3)} names vertex ${indices[i]}, but there are only ${vertices}; the file is damaged.`,
        { triangle: Math.floor(i / 3) },
      )
    }
  }
}
