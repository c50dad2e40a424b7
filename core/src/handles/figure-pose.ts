import { conjugate, quatAt, rotate, setVec3, vec3At, type Vec3 } from '../math'
import type { FigurePose } from '../reach'
import { atBind, posed, turnsOf, worldPose, type Skeleton } from '../skeleton'
import type { StoredPose } from './choices'

/** The joint that is shifted, and how high it stands as bound: what shifts are told in. */
export function carrierOf(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
): { joint: number; height: number } {
  const joint = joints.hips ?? 0
  const { positions } = worldPose(atBind(skeleton))
  let low = Infinity
  for (let i = 1; i < positions.length; i += 3) low = Math.min(low, positions[i])
  const height = positions[3 * joint + 1] - Math.min(0, low)
  return { joint, height: height > 1e-6 ? height : 1 }
}

/** A kept pose on a figure. */
export function poseOn(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  { turns, shift }: StoredPose,
): FigurePose {
  const rotations = posed(skeleton, turns)
  const translations = skeleton.restTranslations.slice()
  if (shift) {
    const { joint, height } = carrierOf(skeleton, joints)
    const p = skeleton.parents[joint]
    const outer = p < 0 ? undefined : quatAt(worldPose(skeleton, translations, rotations).rotations, p)
    const moved: Vec3 = [height * shift[0], height * shift[1], height * shift[2]]
    const own = outer ? rotate(conjugate(outer), moved) : moved
    setVec3(translations, joint, [0, 1, 2].map(k => translations[3 * joint + k] + own[k]) as Vec3)
  }
  return { translations, rotations }
}

/** A pose told so that it fits other bodies: the way back from {@link poseOn}. */
export function storedPose(skeleton: Skeleton, joints: Readonly<Record<string, number>>, pose: FigurePose): StoredPose {
  const { joint, height } = carrierOf(skeleton, joints)
  const p = skeleton.parents[joint]
  const outer = p < 0 ? undefined : quatAt(worldPose(skeleton, pose.translations, pose.rotations).rotations, p)
  const still = vec3At(skeleton.restTranslations, joint)
  const own = vec3At(pose.translations, joint).map((v, k) => (v - still[k]) / height) as Vec3
  const shift = outer ? rotate(outer, own) : own
  return {
    turns: turnsOf(skeleton, pose.rotations),
    ...(Math.hypot(...shift) > 1e-6 && { shift }),
  }
}
