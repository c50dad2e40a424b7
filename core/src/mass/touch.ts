import { conjugate, directionsOver, quatAt, rotate, rotateAt, sub, vec3At } from '../math'
import type { Mesh } from '../mesh'
import { bindPose, type Skeleton, type WorldPose } from '../skeleton'
import type { Skin } from '../skin'
import { outlineAround, type Outline } from './support'

/** Places of a body that can touch the ground, each riding on the joint that moves it most. */
export interface TouchPlaces {
  readonly joints: Int32Array
  /** 3 numbers each, in the joint's own space. */
  readonly places: Float32Array
}

const DIRECTIONS = directionsOver(48)

/** The outermost places of every joint's surface. */
export function touchPlaces(mesh: Mesh, skeleton: Skeleton, skin: Skin): TouchPlaces {
  const bind = bindPose(skeleton)
  const n = DIRECTIONS.length / 3
  const back = skeleton.names.map((_, j) => conjugate(quatAt(bind.rotations, j)))
  const at = skeleton.names.map((_, j) => vec3At(bind.positions, j))
  const best: ({ reach: Float64Array; vertex: Int32Array } | undefined)[] = []
  for (let v = 0; v < mesh.positions.length / 3; v++) {
    // influences are kept strongest first
    const j = skin.joints[skin.influences * v]
    const kept = (best[j] ??= { reach: new Float64Array(n).fill(-Infinity), vertex: new Int32Array(n).fill(-1) })
    const [x, y, z] = sub(vec3At(mesh.positions, v), at[j])
    for (let d = 0; d < n; d++) {
      const far = DIRECTIONS[3 * d] * x + DIRECTIONS[3 * d + 1] * y + DIRECTIONS[3 * d + 2] * z
      if (far <= kept.reach[d]) continue
      kept.reach[d] = far
      kept.vertex[d] = v
    }
  }
  const joints: number[] = [],
    places: number[] = []
  best.forEach((kept, j) => {
    if (!kept) return
    for (const v of new Set(kept.vertex)) {
      if (v < 0) continue
      joints.push(j)
      places.push(...rotate(back[j], sub(vec3At(mesh.positions, v), at[j])))
    }
  })
  return { joints: Int32Array.from(joints), places: Float32Array.from(places) }
}

/** What of a posed body is on the ground: its outline, and how high the lowest place is. @param within metres over the lowest that still touch */
export function supportOf(
  { joints, places }: TouchPlaces,
  pose: WorldPose,
  within: number,
): { readonly outline: Outline; readonly lowest: number } {
  const n = joints.length
  const world = new Float64Array(3 * n)
  let lowest = Infinity
  for (let i = 0; i < n; i++) {
    const j = joints[i]
    rotateAt(world, 3 * i, pose.rotations, 4 * j, places[3 * i], places[3 * i + 1], places[3 * i + 2])
    for (let k = 0; k < 3; k++) world[3 * i + k] += pose.positions[3 * j + k]
    lowest = Math.min(lowest, world[3 * i + 1])
  }
  const touching: [number, number][] = []
  for (let i = 0; i < n; i++) if (world[3 * i + 1] <= lowest + within) touching.push([world[3 * i], world[3 * i + 2]])
  return { outline: outlineAround(touching), lowest }
}
