import type { WorkOptions } from '../math'
import type { Mesh } from '../mesh'
import { mendFaces, readFaces } from './face-faults'

/** Faces turned alike patch by patch and outwards, those without area taken out. Vertices stay as they are. */
export async function cleanFaces(mesh: Mesh, work: WorkOptions = {}): Promise<Mesh> {
  const { solid, turned } = await readFaces(mesh, work)
  return mendFaces(
    mesh,
    f => !solid[f],
    f => turned[f] < 0,
  )
}
