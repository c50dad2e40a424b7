import { decompose, invertAffine, multiplyMat4, setQuat, setVec3, type Mat4, maxOf, minOf } from '../math'
import type { WorldPose } from '../skeleton'

/** One skin of a file in plain numbers. */
export interface BindSkin {
  readonly name: string
  /** Joints of the skin, by their place among all. */
  readonly joints: readonly number[]
  /** One matrix a joint, from the mesh's space to the joint's own; none where the file gives none. */
  readonly inverse?: readonly Mat4[]
}

/** Where the skinned meshes of a file belong. */
export interface BindReading {
  /** Carries the vertices of a skin's meshes to where they belong, bound; undefined where they must be shown at rest. */
  readonly place: ReadonlyMap<BindSkin, Mat4>
  /** Where the joints stood when bound, when that is not the rest pose. */
  readonly bind?: WorldPose
  readonly dropped: readonly string[]
}

const TOLERANCE = 1e-4

/**
 * Reads the bind pose out of inverse bind matrices. Joint scales cancel between bind and pose; skins that
 * cannot be told as turns and shifts of one pose are left to be shown as they stand at rest.
 * @param world each joint's matrix at rest  @param parents parent of each joint, -1 for none
 */
export function readBind(skins: readonly BindSkin[], world: readonly Mat4[], parents: readonly number[]): BindReading {
  const bound: (Mat4 | undefined)[] = world.map(() => undefined)
  const place = new Map<BindSkin, Mat4>()
  const dropped: string[] = []
  let differs = false
  let whole = true
  for (const skin of skins) {
    const { joints, inverse } = skin
    if (!inverse || inverse.length < joints.length || joints.length === 0) {
      // without matrices the vertices already are in the joints' own space at rest: the identity by the standard
      whole = false
      continue
    }
    if (!inverse.every(m => Array.from(m).every(Number.isFinite) && invertAffine(m) !== undefined)) {
      dropped.push(`Bind matrices of ${skin.name || 'a skin'} cannot be inverted; its vertices were taken as they lie.`)
      place.set(skin, identity())
      continue
    }
    const shared = joints.findIndex(j => bound[j] !== undefined)
    const anchor = shared >= 0 ? shared : rootMost(joints, parents)
    const anchorWorld = shared >= 0 ? bound[joints[shared]]! : world[joints[anchor]]
    const atAnchor = multiplyMat4(anchorWorld, inverse[anchor])
    const atRest = joints.every((j, i) => near(multiplyMat4(world[j], inverse[i]), atAnchor))
    const toWorld = shared >= 0 || atRest ? atAnchor : wholeTurn(atAnchor)
    place.set(skin, toWorld)
    joints.forEach((j, i) => {
      const b = multiplyMat4(toWorld, invertAffine(inverse[i])!)
      const known = bound[j]
      if (known && !near(known, b)) whole = false
      bound[j] = known ?? b
      if (!near(world[j], b)) differs = true
      if (!evenScale(b, world[j])) whole = false
    })
  }
  if (!differs) return { place: whole ? place : new Map([...place].filter(([s]) => s.inverse)), dropped }
  if (!whole) return { place: new Map(), dropped }
  const positions = new Float64Array(3 * world.length)
  const rotations = new Float64Array(4 * world.length)
  world.forEach((_, j) => {
    const { translation, rotation } = decompose(bound[j] ?? world[j])
    setVec3(positions, j, translation)
    setQuat(rotations, j, rotation)
  })
  return { place, bind: { positions, rotations }, dropped }
}

const identity = (): Mat4 => Float64Array.from({ length: 16 }, (_, i) => (i % 5 === 0 ? 1 : 0))

const near = (a: Mat4, b: Mat4): boolean => {
  const size = Math.max(1, Math.abs(a[12]), Math.abs(a[13]), Math.abs(a[14]))
  for (let i = 0; i < 16; i++)
    if (
      Math.abs(a[i] - b[i]) >
      TOLERANCE * (i >= 12 ? size : Math.max(1, Math.abs(a[0]) + Math.abs(a[1]) + Math.abs(a[2])))
    )
      return false
  return true
}

/**
 * Where joints rest elsewhere than bound, the root may have moved too. Mesh and scene then share their
 * space, unless they clearly differ by unit or by whole quarter turns.
 */
function wholeTurn(m: Mat4): Mat4 {
  const { scale: s } = decompose(m)
  if (Math.abs(s[0] - 1) > 2e-3) return m
  const turned = Array.from({ length: 9 }, (_, i) => Math.abs(m[(i % 3) + 4 * Math.floor(i / 3)])).every(
    v => v < 0.02 || v > 0.9998,
  )
  return turned && !near(m, identity()) && Math.abs(m[0]) + Math.abs(m[5]) + Math.abs(m[10]) < 2.9 ? m : identity()
}

/** Both matrices scale alike in all directions, so that the scale cancels. */
function evenScale(a: Mat4, b: Mat4): boolean {
  const s = decompose(a).scale,
    t = decompose(b).scale
  const all = [...s, ...t]
  return maxOf(all) - minOf(all) < 2e-3 * maxOf(all)
}

/** Place in the list of the joint that hangs on none of the others. */
function rootMost(joints: readonly number[], parents: readonly number[]): number {
  const set = new Set(joints)
  const i = joints.findIndex(j => {
    for (let p = parents[j]; p >= 0; p = parents[p]) if (set.has(p)) return false
    return true
  })
  return Math.max(0, i)
}
