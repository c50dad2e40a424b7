import { vec3At } from '../math'
import type { Mesh } from '../mesh'
import { atBind, boneSegments, nearestOnBones, type Skeleton } from '../skeleton'
import { emptySkin } from './gather'
import type { Skin } from './skin'

/** Every vertex wholly to the bone nearest in a straight line: what any automatic skin must be better than. */
export function nearestBoneSkin(mesh: Pick<Mesh, 'positions'>, skeleton: Skeleton): Skin {
  const bones = boneSegments(atBind(skeleton))
  const n = mesh.positions.length / 3
  const skin = emptySkin(n, 1)
  for (let v = 0; v < n; v++) {
    skin.joints[v] = nearestOnBones(bones, vec3At(mesh.positions, v)).joint
    skin.weights[v] = 1
  }
  return skin
}
