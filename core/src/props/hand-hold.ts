import {
  cross,
  dot,
  length,
  multiply,
  normalize,
  quatAt,
  rotate,
  scale,
  sub,
  vec3At,
  conjugate,
  type Quat,
  type Vec3,
} from '../math'
import { FINGERS, fingerJoints, type Side } from '../body'
import type { Mesh } from '../mesh'
import { bindPose, type Skeleton } from '../skeleton'
import { verticesByJoint, type Skin } from '../skin'
import { handTurn } from './thing'

/** How a hand holds something: where its grasp is, in the space of its joint. */
export interface HandHold {
  readonly side: Side
  readonly joint: number
  /** The role of its joint. */
  readonly ref: string
  /** On the palm, where a shaft lies in a closed hand. */
  readonly at: Vec3
  /** x to the thumb, y to the finger tips. */
  readonly turn: Quat
  /** The way the palm looks. */
  readonly palm: Vec3
  /** Half across of a finger, metres. */
  readonly finger: number
}

/** From the wrist to where fingers begin a shaft lies here. */
const GRASP = 0.86
/** The same share of a hand without fingers, to its tip. */
const GRASP_BLUNT = 0.5

/** The hands of a figure and how each would hold something, told from its skin. @param joints joint by role */
export function handHolds(
  mesh: Mesh,
  skeleton: Skeleton,
  skin: Skin,
  joints: Readonly<Record<string, number>>,
): HandHold[] {
  const bind = bindPose(skeleton)
  const at = (j: number): Vec3 => vec3At(bind.positions, j)
  const own = verticesByJoint(skin, skeleton.names.length)
  return (['left', 'right'] as const).flatMap((side): HandHold[] => {
    const hand = joints[`${side}Hand`]
    if (hand === undefined) return []
    const first = (f: string): number | undefined => joints[`${side}${f}Proximal`] ?? joints[`${side}${f}Metacarpal`]
    const fingers = FINGERS.filter(f => f !== 'Thumb').flatMap(f => first(f) ?? [])
    const thumbs = fingerJoints('Thumb').flatMap(part => joints[`${side}Thumb${part}`] ?? [])
    const knuckles =
      fingers.length > 0
        ? scale(
            fingers.reduce((sum, j) => sub(sum, scale(at(j), -1)), [0, 0, 0] as Vec3),
            1 / fingers.length,
          )
        : undefined
    const parent = skeleton.parents[hand]
    const blunt = tipOf(mesh, own[hand], at(hand), parent >= 0 ? sub(at(hand), at(parent)) : [0, -1, 0])
    const end = knuckles ?? blunt
    const along = normalize(sub(end, at(hand)), [0, -1, 0])
    // towards the thumb: from the little finger to the index, else to the thumb, else ahead of the body
    const across =
      fingers.length > 1
        ? sub(at(fingers[0]), at(fingers[fingers.length - 1]))
        : thumbs.length > 0
          ? sub(at(thumbs[thumbs.length - 1]), at(hand))
          : ([0, 0, 1] as Vec3)
    const thumb = normalize(sub(across, scale(along, dot(across, along))), [0, 0, 1])
    const palm = scale(normalize(cross(along, thumb)), side === 'left' ? 1 : -1)
    const middle = sub(at(hand), scale(sub(at(hand), end), knuckles ? GRASP : GRASP_BLUNT))
    const flesh = [...own[hand], ...fingers.flatMap(j => own[j])]
    const reach = 0.5 * length(sub(end, at(hand)))
    const depth = deepest(mesh, flesh, middle, palm, reach)
    const back = conjugate(quatAt(bind.rotations, hand))
    const place = sub(middle, scale(palm, -depth))
    return [
      {
        side,
        joint: hand,
        ref: `${side}Hand`,
        at: rotate(back, sub(place, at(hand))),
        turn: multiply(back, handTurn(thumb, along)),
        palm: rotate(back, palm),
        finger: fingerThickness(mesh, own, fingers, at) ?? depth,
      },
    ]
  })
}

/** The farthest of some vertices along a way, from a joint. */
function tipOf({ positions }: Mesh, list: readonly number[], from: Vec3, way: Vec3): Vec3 {
  const w = normalize(way, [0, -1, 0])
  let far = 0
  for (const v of list) far = Math.max(far, dot(sub(vec3At(positions, v), from), w))
  return sub(from, scale(w, -(far > 1e-4 ? far : 0.5 * length(way))))
}

/** How far flesh near a point reaches along a way. */
function deepest({ positions }: Mesh, list: readonly number[], from: Vec3, way: Vec3, within: number): number {
  let far = 0
  for (const v of list) {
    const d = sub(vec3At(positions, v), from)
    const t = dot(d, way)
    if (length(sub(d, scale(way, t))) < within) far = Math.max(far, t)
  }
  return far
}

/** Half across of fingers, in the middle of what is told around their first bones. */
function fingerThickness(
  { positions }: Mesh,
  own: readonly (readonly number[])[],
  fingers: readonly number[],
  at: (j: number) => Vec3,
): number | undefined {
  const list = fingers.flatMap(j => {
    const flesh = own[j]
    if (flesh.length < 8) return []
    const middle: Vec3 = [0, 0, 0]
    for (const v of flesh) for (let k = 0; k < 3; k++) middle[k] += positions[3 * v + k] / flesh.length
    const way = normalize(sub(middle, at(j)), [0, -1, 0])
    const off = flesh.map(v => {
      const d = sub(vec3At(positions, v), at(j))
      return length(sub(d, scale(way, dot(d, way))))
    })
    return [off.sort((a, b) => a - b)[off.length >> 1]]
  })
  return list.length > 0 ? list.sort((a, b) => a - b)[list.length >> 1] : undefined
}
