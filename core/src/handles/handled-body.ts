import type { Quat, WorkOptions } from '../math'
import { capsulesOf, touchPlaces, volumesByJoint, type Capsule, type JointVolumes, type TouchPlaces } from '../mass'
import type { Mesh, Voxels } from '../mesh'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import { grownMesh, type Grown } from '../surface'
import { chartOf, type Chart } from './chart'
import { handleSet, type HandleSet } from './set'

/** Everything about a skinned figure that posing it by hand needs. */
export interface HandledBody {
  readonly joints: Readonly<Record<string, number>>
  readonly set: HandleSet
  readonly chart: Chart
  readonly volumes: JointVolumes
  readonly capsules: readonly Capsule[]
  readonly touch: TouchPlaces
}

/** @param joints joint by role  @param solid the body in cells  @param grown how much larger parts count than they are */
export async function handledBody(
  mesh: Mesh,
  skeleton: Skeleton,
  skin: Skin,
  joints: Readonly<Record<string, number>>,
  frame: Quat,
  solid: Voxels,
  grown: Grown = {},
  work: WorkOptions = {},
): Promise<HandledBody> {
  const set = await handleSet(mesh, skeleton, skin, joints, frame, work)
  return {
    joints,
    set,
    chart: chartOf(mesh, skeleton, skin, joints),
    volumes: await volumesByJoint(mesh, skeleton, skin, solid, work),
    capsules: capsulesOf(grownMesh(mesh, skeleton, skin, grown), skeleton, skin),
    touch: touchPlaces(mesh, skeleton, skin),
  }
}
