import { type Quat, type WorkOptions } from '../math'
import type { Mesh } from '../mesh'
import { bodyPart } from '../body'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import { clothOf } from './cloth'
import { bodyRadiiOf, type BodyRadii } from './limb-radii'
import { outermostOf, outermostOfRadii, type Outermost } from './outermost'
import { posedSurface, type PosedSurface } from './posed-distance'
import { usualRadii } from './usual-radii'

/** What is known of the surface around a skeleton. */
export interface BodySurface {
  /** How thick the body is around its bones: a quick look at what is near. */
  readonly radii: BodyRadii
  readonly outermost: Outermost
  /** The skinned surface of all but the arms, where there is one. */
  readonly exact?: PosedSurface
}

/** Measures the surface of a skinned figure. @param joints joint by role */
export async function bodySurfaceOf(
  mesh: Mesh,
  skeleton: Skeleton,
  skin: Skin,
  joints: Readonly<Record<string, number>>,
  work: WorkOptions = {},
): Promise<BodySurface> {
  const radii = await bodyRadiiOf(mesh, skeleton, skin, joints, work)
  const arms = armJoints(skeleton, joints)
  return {
    radii,
    outermost: outermostOf(mesh, skeleton, skin, joints, await knownCloth(mesh, work)),
    exact: posedSurface(mesh, skeleton, skin, j => !arms[j]),
  }
}

/** Cloth by surface: a stroke changes the skin and not the surface. */
const cloth = new WeakMap<Uint32Array, Uint8Array>()
async function knownCloth(mesh: Mesh, work: WorkOptions): Promise<Uint8Array> {
  const known = cloth.get(mesh.indices)
  if (known) return known
  const found = await clothOf(mesh, work)
  cloth.set(mesh.indices, found)
  return found
}

/** The surface a performer usually has around such bones. @param frame from the skeleton's space to Y up, facing +Z */
export function usualSurface(skeleton: Skeleton, joints: Readonly<Record<string, number>>, frame: Quat): BodySurface {
  // many takes are carried from one performer
  const known = usual.get(skeleton)
  if (known && known.joints === joints) return known.surface
  const radii = usualRadii(skeleton, joints, frame)
  let outermost: Outermost | undefined
  const surface: BodySurface = {
    radii,
    // asked for only where something lies on the ground
    get outermost() {
      return (outermost ??= outermostOfRadii(radii, skeleton, joints))
    },
  }
  usual.set(skeleton, { joints, surface })
  return surface
}
const usual = new WeakMap<Skeleton, { joints: Readonly<Record<string, number>>; surface: BodySurface }>()

/** Which joints belong to an arm, collar bones and all. */
function armJoints(skeleton: Skeleton, joints: Readonly<Record<string, number>>): Uint8Array {
  const roleAt = new Map(Object.entries(joints).map(([role, j]) => [j, role]))
  return Uint8Array.from(skeleton.names, (_, j) => {
    for (let p = j; p >= 0; p = skeleton.parents[p]) {
      const role = roleAt.get(p)
      if (role === undefined) continue
      const limb = bodyPart(role)?.limb
      return limb === 'arm' || limb === 'hand' ? 1 : 0
    }
    return 0
  })
}
