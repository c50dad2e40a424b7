import type { Mesh } from './mesh'

/**
 * Fewer triangles over the same vertices, for pictures of many at once: edges are collapsed by what that changes (Garland and
 * Heckbert 1997, quadric error metrics), by the simplifier of the glTF compression library. Where seams keep it from getting there,
 * vertices are clustered instead.
 * @param triangles how many are wanted at the most
 * @returns the mesh's own index where it has no more
 */
export async function lightIndex(mesh: Pick<Mesh, 'positions' | 'indices'>, triangles: number): Promise<Uint32Array> {
  const { positions, indices } = mesh
  if (indices.length <= 3 * triangles) return indices
  const { MeshoptSimplifier } = await import('meshoptimizer/simplifier')
  await MeshoptSimplifier.ready
  const [fewer] = MeshoptSimplifier.simplify(indices, positions, 3, 3 * triangles, 0.05, ['Permissive', 'Prune'])
  if (fewer.length <= 1.3 * 3 * triangles) return fewer
  const [sloppy] = MeshoptSimplifier.simplifySloppy(indices, positions, 3, null, 3 * triangles, 0.1)
  return sloppy.length > 0 ? sloppy : fewer
}
