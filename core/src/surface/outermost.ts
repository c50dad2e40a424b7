import { conjugate, directionsOver, dot, quatAt, rotate, sub, vec3At, type Vec3 } from '../math'
import { SIDES } from '../body'
import type { Mesh } from '../mesh'
import { bindPose, worldPose, type Skeleton, type WorldPose } from '../skeleton'
import type { Skin } from '../skin'
import type { BodyRadii } from './limb-radii'
import { AROUND, rowsOf } from './limb-radii'

/** Places of a body that are outermost in some direction, each riding on one joint: what touches the ground first. */
export interface Outermost {
  /** Role of the part each belongs to, and its joint. */
  readonly roles: readonly string[]
  readonly joints: Int32Array
  /** 3 numbers each, in the joint's own space. */
  readonly places: Float32Array
}

/** What can lie on the ground: fingers count with their hand, toes with their foot. */
const PARTS = [
  'hips',
  'spine',
  'chest',
  'upperChest',
  'head',
  ...['left', 'right'].flatMap(s =>
    ['UpperArm', 'LowerArm', 'Hand', 'UpperLeg', 'LowerLeg', 'Foot', 'Toes'].map(p => s + p),
  ),
] as const

/** The directions that are looked along. */
const DIRECTIONS = directionsOver(64)

/**
 * Takes points joint by joint and keeps those that are outermost in some direction. Of shins only the half at the knee counts:
 * what is near the ankle stands over a sole.
 * @param at where joints are in the pose the points are told in
 */
function gatherer(skeleton: Skeleton, joints: Readonly<Record<string, number>>, at: WorldPose) {
  const own = new Map(PARTS.flatMap(role => (joints[role] === undefined ? [] : [[joints[role], role as string]])))
  const roleAt = skeleton.names.map((_, j) => {
    for (let p = j; p >= 0; p = skeleton.parents[p]) {
      const role = own.get(p)
      if (role) return role
      // a neck touches nothing
      if (p === joints.neck) return undefined
    }
    return undefined
  })
  const ankles = new Map(
    SIDES.flatMap((s): [number, Vec3][] => {
      const [shin, foot] = [joints[`${s}LowerLeg`], joints[`${s}Foot`]]
      if (shin === undefined || foot === undefined) return []
      const way = sub(vec3At(at.positions, foot), vec3At(at.positions, shin))
      return [[shin, rotate(conjugate(quatAt(at.rotations, shin)), way)]]
    }),
  )
  const best: ({ reach: Float64Array; places: Float32Array; ankle?: Vec3 } | undefined)[] = []
  const n = DIRECTIONS.length / 3
  return {
    roleAt,
    put(j: number, x: number, y: number, z: number): void {
      const kept = (best[j] ??= {
        reach: new Float64Array(n).fill(-Infinity),
        places: new Float32Array(3 * n),
        ankle: ankles.get(j),
      })
      const { reach, places, ankle } = kept
      if (ankle && x * ankle[0] + y * ankle[1] + z * ankle[2] > 0.5 * dot(ankle, ankle)) return
      for (let d = 0; d < n; d++) {
        const far = DIRECTIONS[3 * d] * x + DIRECTIONS[3 * d + 1] * y + DIRECTIONS[3 * d + 2] * z
        if (far <= reach[d]) continue
        reach[d] = far
        places[3 * d] = x
        places[3 * d + 1] = y
        places[3 * d + 2] = z
      }
    },
    told(): Outermost {
      const roles: string[] = [],
        list: number[] = [],
        places: number[] = []
      best.forEach((kept, j) => {
        if (!kept) return
        const seen = new Set<string>()
        for (let d = 0; d < n; d++) {
          if (kept.reach[d] === -Infinity) continue
          const place = [...kept.places.subarray(3 * d, 3 * d + 3)]
          const key = place.join()
          if (seen.has(key)) continue
          seen.add(key)
          roles.push(roleAt[j]!)
          list.push(j)
          places.push(...place)
        }
      })
      return { roles, joints: Int32Array.from(list), places: Float32Array.from(places) }
    },
  }
}

/** A joint with as much flesh needs no cloth to tell what lies on the ground, vertices. */
const ENOUGH = 6

/**
 * The outermost places of a skinned body, each on the joint that moves it most. Cloth that hangs about flesh gives way to the
 * ground and is left out.
 * @param cloth one flag a vertex
 */
export function outermostOf(
  mesh: Mesh,
  skeleton: Skeleton,
  skin: Skin,
  joints: Readonly<Record<string, number>>,
  cloth?: Uint8Array,
): Outermost {
  const bind = bindPose(skeleton)
  const { roleAt, put, told } = gatherer(skeleton, joints, bind)
  const back = skeleton.names.map((_, j) => conjugate(quatAt(bind.rotations, j)))
  const at = skeleton.names.map((_, j) => vec3At(bind.positions, j))
  const k = skin.influences
  const flesh = new Uint32Array(skeleton.names.length)
  for (let v = 0; v < mesh.positions.length / 3; v++) if (!cloth?.[v]) flesh[skin.joints[k * v]]++
  for (let v = 0; v < mesh.positions.length / 3; v++) {
    // influences are kept strongest first
    const j = skin.joints[k * v]
    if (roleAt[j] === undefined || (cloth?.[v] && flesh[j] >= ENOUGH)) continue
    put(j, ...rotate(back[j], sub(vec3At(mesh.positions, v), at[j])))
  }
  return told()
}

/** The outermost places of a body that is told by tables around its bones alone. */
export function outermostOfRadii(
  radii: BodyRadii,
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
): Outermost {
  const { put, told } = gatherer(skeleton, joints, worldPose(skeleton))
  for (const limb of Object.values(radii))
    rowsOf(limb).forEach((row, r, all) => {
      AROUND.forEach(([x, z], c) => {
        // tables end square: their ends are rounded off
        const share = r === 0 || r === all.length - 1 ? 0.6 : 1
        const p = rotate(limb.axes, [share * x * row.radii[c], row.y, share * z * row.radii[c]])
        put(limb.joint, ...p)
      })
    })
  return told()
}
