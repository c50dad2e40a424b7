import { worldPose, type WorldPose } from './kinematics'
import {
  compose,
  conjugate,
  multiply,
  quatAt,
  rotate,
  setQuat,
  setVec3,
  sub,
  vec3At,
  add,
  type Quat,
  type Vec3,
  maxOf,
} from '../math'

/** Joints in packed arrays, parents before children. Metres and unit quaternions, all relative to the parent. */
export interface Skeleton {
  readonly names: readonly string[]
  /** J: index of the parent, -1 for a root. */
  readonly parents: Int16Array
  /** 3·J */
  readonly restTranslations: Float32Array
  /** 4·J, x y z w */
  readonly restRotations: Float32Array
  /** J: VRM humanoid role of each joint, or undefined. */
  readonly roles: readonly (string | undefined)[]
  /** J: what each joint is known by whatever it is called; left out where role and name tell it. See {@link jointId}. */
  readonly ids?: readonly string[]
  /** 3·J: where each bone without children ends, in the joint's own space; zeros where not known. */
  readonly tips?: Float32Array
  /** Where the joints stood when the skin was bound, where that is not the rest pose. */
  readonly bind?: BoundPose
}

/** Where joints stood when the skin was bound, with their own values to the last bit where they are known. */
export interface BoundPose extends WorldPose {
  readonly locals?: { readonly translations: Float32Array; readonly rotations: Float32Array }
}

export interface WorldJoint {
  readonly name: string
  readonly parent: number
  readonly position: Vec3
  readonly rotation: Quat
  readonly role?: string
  readonly tip?: Vec3
}

/** A skeleton from joints given in world space, parents first. */
export function skeletonFromWorld(joints: readonly WorldJoint[]): Skeleton {
  const n = joints.length
  const skeleton = {
    names: joints.map(j => j.name),
    roles: joints.map(j => j.role),
    parents: Int16Array.from(joints, j => j.parent),
    restTranslations: new Float32Array(3 * n),
    restRotations: new Float32Array(4 * n),
    tips: new Float32Array(3 * n),
  }
  joints.forEach((joint, j) => {
    const parent = joint.parent >= 0 ? joints[joint.parent] : undefined
    const inverse = parent ? conjugate(parent.rotation) : undefined
    setVec3(
      skeleton.restTranslations,
      j,
      parent && inverse ? rotate(inverse, sub(joint.position, parent.position)) : joint.position,
    )
    setQuat(skeleton.restRotations, j, inverse ? multiply(inverse, joint.rotation) : joint.rotation)
    if (joint.tip) setVec3(skeleton.tips, j, rotate(conjugate(joint.rotation), sub(joint.tip, joint.position)))
  })
  return skeleton
}

/** The joints of a skeleton in world space, at rest. */
export function jointsInWorld(skeleton: Skeleton): WorldJoint[] {
  const world = worldPose(skeleton)
  return skeleton.names.map((name, j) => {
    const position = vec3At(world.positions, j)
    const rotation = quatAt(world.rotations, j)
    const t = skeleton.tips ? vec3At(skeleton.tips, j) : undefined
    const tip = t && (t[0] !== 0 || t[1] !== 0 || t[2] !== 0) ? add(position, rotate(rotation, t)) : undefined
    return { name, parent: skeleton.parents[j], position, rotation, role: skeleton.roles[j], tip }
  })
}

export function childrenOf(skeleton: Skeleton): number[][] {
  const children: number[][] = skeleton.names.map(() => [])
  skeleton.parents.forEach((p, j) => {
    if (p >= 0) children[p].push(j)
  })
  return children
}

/** Where the joints stood when the skin was bound: the place the body's own vertices belong to. */
export const bindPose = (skeleton: Skeleton): WorldPose => skeleton.bind ?? worldPose(skeleton)

/** The same skeleton standing as it was bound. */
export function atBind(skeleton: Skeleton): Skeleton {
  if (!skeleton.bind) return skeleton
  const { positions, rotations, locals } = skeleton.bind
  if (locals) {
    const { bind: _, ...rest } = skeleton
    return { ...rest, restTranslations: locals.translations, restRotations: locals.rotations }
  }
  const own = skeleton.tips
  const tipped = skeletonFromWorld(
    skeleton.names.map((name, j) => ({
      name,
      parent: skeleton.parents[j],
      role: skeleton.roles[j],
      position: vec3At(positions, j),
      rotation: quatAt(rotations, j),
    })),
  )
  return { ...tipped, tips: own, ...(skeleton.ids && { ids: skeleton.ids }) }
}

/**
 * The joint a bone leads to: the only child, else the one that goes on along the trunk or limb.
 * @returns undefined for a joint that ends its chain, or that only branches
 */
export function nextJoint(skeleton: Skeleton, children: readonly number[][], j: number): number | undefined {
  const list = children[j]
  // a bone whose end is known goes on only to what ends there too
  if (list.length > 0 && hasTip(skeleton, j)) return list.find(c => carriesOn(skeleton, children, j, c))
  if (list.length <= 1) return list[0]
  const told = NEXT_ROLE[skeleton.roles[j] ?? '']
  const next = told?.map(r => list.find(c => skeleton.roles[c] === r)).find(c => c !== undefined)
  if (next !== undefined) return next
  // twist and mount joints end soon; the limb goes on with the longest run
  const run = (c: number): number => 1 + maxOf(children[c].map(run), 0)
  const runs = list.map(run)
  const most = maxOf(runs)
  return runs.filter(r => r === most).length === 1 ? list[runs.indexOf(most)] : undefined
}

export const hasTip = ({ tips }: Skeleton, j: number): boolean =>
  tips !== undefined && (tips[3 * j] !== 0 || tips[3 * j + 1] !== 0 || tips[3 * j + 2] !== 0)

/** Ends nearer to each other than this share of a bone are one end. */
const SAME_END = 0.35

/**
 * Whether a child goes on along a bone whose end is known: it, or what hangs below it first, ends where that bone does. A jaw or a
 * mount on a head does not.
 */
export function carriesOn(skeleton: Skeleton, children: readonly number[][], j: number, child: number): boolean {
  const { tips, restTranslations, restRotations } = skeleton
  const end = vec3At(tips!, j)
  const near = SAME_END * Math.hypot(...end)
  let at = vec3At(restTranslations, child)
  let turn = quatAt(restRotations, child)
  for (let c = child; ; c = children[c][0]) {
    if (hasTip(skeleton, c) || children[c].length === 0) {
      const tip = add(at, rotate(turn, vec3At(tips!, c)))
      if (Math.hypot(tip[0] - end[0], tip[1] - end[1], tip[2] - end[2]) < near) return true
    }
    if (children[c].length === 0) return false
    const next = children[c][0]
    at = add(at, rotate(turn, vec3At(restTranslations, next)))
    turn = multiply(turn, quatAt(restRotations, next))
  }
}

const NEXT_ROLE: Readonly<Record<string, readonly string[]>> = {
  hips: ['spine', 'chest'],
  spine: ['chest', 'upperChest', 'neck'],
  chest: ['upperChest', 'neck'],
  upperChest: ['neck', 'head'],
  neck: ['head'],
  ...Object.fromEntries(
    ['left', 'right'].flatMap(s => [
      [`${s}Shoulder`, [`${s}UpperArm`]],
      [`${s}UpperArm`, [`${s}LowerArm`]],
      [`${s}LowerArm`, [`${s}Hand`]],
      [`${s}Hand`, [`${s}MiddleProximal`, `${s}IndexProximal`]],
      [`${s}UpperLeg`, [`${s}LowerLeg`]],
      [`${s}LowerLeg`, [`${s}Foot`]],
      [`${s}Foot`, [`${s}Toes`]],
    ]),
  ),
}

/** What a joint stays known by when it is renamed, moved or given another role: its role or name when it was made. */
export const jointId = (skeleton: Skeleton, j: number): string =>
  skeleton.ids?.[j] ?? skeleton.roles[j] ?? skeleton.names[j]

/** Ids of all joints, each of its own even where names are not. */
export function jointIds(skeleton: Skeleton): readonly string[] {
  if (skeleton.ids) return skeleton.ids
  const taken = new Set<string>()
  return skeleton.names.map((name, j) => freshId(taken, skeleton.roles[j] ?? name))
}

/** An id that no other has, after a wish; it is taken from then on. */
export function freshId(taken: Set<string>, wish: string): string {
  let id = wish
  for (let i = 2; taken.has(id); i++) id = `${wish} ~${i}`
  taken.add(id)
  return id
}

/** Joint whose role or, failing that, id or name is `ref`; -1 where there is none. */
export function findJoint(skeleton: Skeleton, ref: string): number {
  const byRole = skeleton.roles.indexOf(ref)
  if (byRole >= 0) return byRole
  const byId = skeleton.ids?.indexOf(ref) ?? -1
  return byId >= 0 ? byId : skeleton.names.indexOf(ref)
}

/** How a joint is told in records: by its role, which other bodies have too, else by what it is known by. */
export const jointRef = (skeleton: Skeleton, j: number): string => skeleton.roles[j] ?? jointId(skeleton, j)

export const jointByRole = (skeleton: Skeleton, role: string): number => skeleton.roles.indexOf(role)

/** Matrices that carry rest-pose space into each joint's own space: 16·J, column-major. */
export function inverseBindMatrices(skeleton: Skeleton): Float32Array<ArrayBuffer> {
  const world = bindPose(skeleton)
  const out = new Float32Array(16 * skeleton.names.length)
  for (let j = 0; j < skeleton.names.length; j++) {
    const q = conjugate(quatAt(world.rotations, j))
    const t = rotate(q, vec3At(world.positions, j))
    out.set(compose([-t[0], -t[1], -t[2]], q), 16 * j)
  }
  return out
}
