import { cross, fromAxisAngle, multiply, normalize, scale, sub, vec3At, type Quat, type Vec3 } from '../math'
import { FINGERS, fingerJoints, type Side } from '../body'
import { atBind, withTurn, worldPose, type Skeleton } from '../skeleton'

/** How a hand is shaped as a whole, 0..1 each; spread from -1 (closed) to 1. */
export interface HandShape {
  readonly curl: number
  readonly spread: number
  /** The loose curl of a hand at rest, more towards the little finger. */
  readonly relax: number
}

/** Degrees of each bone of a finger in a fist, and of a thumb. */
const FIST = [80, 100, 65] as const
const THUMB = [25, 35, 50] as const
const LOOSE = [14, 20, 12] as const
/** Degrees of each finger to the side in a spread hand, from the thumb outwards. */
const SPREAD = [25, 12, 2, -9, -18] as const
/** Fingers towards the little one are looser. */
const LOOSER = [0.6, 0.8, 1, 1.2, 1.4] as const

/**
 * A pose with one hand shaped; its fingers are told from how they were bound, everything else stays.
 * @param only one finger; left out, all
 * @param rotations 4·J, local
 */
export function shapeHand(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  side: Side,
  shape: HandShape,
  rotations: Float32Array,
  only?: string,
): Float32Array {
  const bind = worldPose(atBind(skeleton))
  const at = (j: number): Vec3 => vec3At(bind.positions, j)
  const hand = joints[`${side}Hand`]
  if (hand === undefined) return rotations
  const first = (f: string): number | undefined => joints[`${side}${f}Proximal`] ?? joints[`${side}${f}Metacarpal`]
  const index = first('Index') ?? first('Middle'),
    little = first('Little') ?? first('Ring') ?? first('Middle')
  const middle = first('Middle') ?? index
  if (middle === undefined) return rotations
  const along = normalize(sub(at(middle), at(hand)), [0, -1, 0])
  const across: Vec3 =
    index !== undefined && little !== undefined && index !== little ? sub(at(index), at(little)) : [0, 0, 1]
  // the way the palm looks
  const palm = scale(normalize(cross(along, normalize(across, [0, 0, 1])), [0, -1, 0]), side === 'left' ? 1 : -1)
  let out = rotations
  FINGERS.forEach((finger, f) => {
    if (only !== undefined && only !== finger) return
    const bones = fingerJoints(finger)
    bones.forEach((part, i) => {
      const j = joints[side + finger + part]
      if (j === undefined) return
      const next = joints[side + finger + bones[i + 1]]
      const tip = skeleton.tips ? vec3At(skeleton.tips, j) : undefined
      const way: Vec3 =
        next !== undefined
          ? sub(at(next), at(j))
          : tip && Math.hypot(...tip) > 1e-6
            ? sub(at(j), at(skeleton.parents[j]))
            : along
      const dir = normalize(way, along)
      const bend = (finger === 'Thumb' ? THUMB : FIST)[i]
      const angle = (shape.curl * bend + shape.relax * LOOSER[f] * LOOSE[i] * (1 - shape.curl)) * (Math.PI / 180)
      const curl = fromAxisAngle(normalize(cross(dir, palm), [0, 0, 1]), angle)
      const aside: Quat =
        i === 0
          ? fromAxisAngle(
              palm,
              (side === 'left' ? 1 : -1) * shape.spread * SPREAD[f] * (1 - shape.curl) * (Math.PI / 180),
            )
          : [0, 0, 0, 1]
      out = withTurn(skeleton, out, j, multiply(aside, curl))
    })
  })
  return out
}
