import {
  add,
  breather,
  conjugate,
  dot,
  normalize,
  quatAt,
  rotate,
  scale,
  sub,
  vec3At,
  type Quat,
  type Vec3,
  type WorkOptions,
} from '../math'
import { isFinger, middleWay, limbsOf, sideOf } from '../body'
import { weldByPosition, type Mesh } from '../mesh'
import { bindPose, childrenOf, jointRef, jointSide, nextJoint, type Skeleton } from '../skeleton'
import { verticesByJoint, type Skin } from '../skin'
import { cutAround, flattest, outlineAlong } from './contour'
import { handleId, type Contour, type Handle, type HandleKind } from './handle'

/** A limb of two bones that is driven joint by joint or by its end. */
export interface DrivenLimb {
  readonly upper: number
  readonly lower: number
  readonly end: number
  /** The role of its end, which it is known by. */
  readonly ref: string
  readonly leg: boolean
  /** The way its middle stands out where it is straight, in the skeleton's space as bound. */
  readonly way: Vec3
  /** Its middle stands out that way whatever the limb does: the hinge was set by hand. */
  readonly fixed?: true
  /** The joint of the girdle that carries it, where there is one. */
  readonly girdle?: number
}

/** A chain of joints that is driven by its end: a tail, an ear, hair. */
export interface DrivenChain {
  /** From its base to its end. */
  readonly joints: readonly number[]
  readonly ref: string
}

export interface HandleSet {
  readonly handles: readonly Handle[]
  readonly limbs: readonly DrivenLimb[]
  readonly chains: readonly DrivenChain[]
}

/** Where along its bone the body is cut for a joint's contour: clear of the joint above and before the one below. */
const CUT = 0.3
const CUT_LAST = 0.6
/** A cut that reaches so many times as far as what the joint moves is another part's as well. */
const TOO_FAR = 1.5
/** A bend mark stands this far out, shares of its limb. */
const OUT = 0.35
/** What lies this low in a part is its sole, share of the part. */
const SOLE = 0.3
/** What lies this low of a body is what it stands on, share of its height. */
const STANDING = 0.03
const HANDS_FEW = 8

/**
 * The handles of a figure, whatever it is, with shapes from its own body: a joint's is the body's cut across its bone, the end of
 * a limb's its sole's or palm's outline, the whole figure's the outline of what it stands on.
 * @param joints joint by role  @param frame from the skeleton's space to Y up, facing +Z
 */
export async function handleSet(
  mesh: Mesh,
  skeleton: Skeleton,
  skin: Skin,
  joints: Readonly<Record<string, number>>,
  frame: Quat,
  work: WorkOptions = {},
): Promise<HandleSet> {
  const bind = bindPose(skeleton)
  const children = childrenOf(skeleton)
  const weld = weldByPosition(mesh.positions)
  const breathe = breather(work)
  const at = (j: number): Vec3 => vec3At(bind.positions, j)
  const handles: Handle[] = []
  const minor = (role: string): boolean => isFinger(role) || /^(jaw|leftEye|rightEye)$/.test(role)
  const put = (kind: HandleKind, joint: number, shape: Contour | undefined): void => {
    const ref = jointRef(skeleton, joint)
    handles.push({
      id: handleId(kind, ref),
      kind,
      joint,
      ref,
      side: jointSide(skeleton, joint),
      shape: shape ?? { joint, points: new Float32Array(3), closed: false },
      minor: minor(skeleton.roles[joint] ?? ''),
    })
  }
  const boneOf = (j: number): { from: Vec3; way: Vec3 } => {
    const next = nextJoint(skeleton, children, j)
    if (next !== undefined) return { from: at(j), way: sub(at(next), at(j)) }
    const tip = skeleton.tips ? rotate(quatAt(bind.rotations, j), vec3At(skeleton.tips, j)) : [0, 0, 0]
    if (Math.hypot(...(tip as Vec3)) > 1e-6) return { from: at(j), way: tip as Vec3 }
    const p = skeleton.parents[j]
    return { from: at(j), way: p < 0 ? [0, 1, 0] : scale(sub(at(j), at(p)), 0.5) }
  }
  const owned = verticesByJoint(skin, skeleton.names.length)

  const limbs = limbsOfSet(skeleton, joints, frame, at)
  const ends = new Map(limbs.map(l => [l.end, l]))
  for (let j = 0; j < skeleton.names.length; j++) {
    await breathe(j / skeleton.names.length)
    // a joint that moves nothing and that nothing hangs on has nothing to be held by
    if (owned[j].length === 0 && children[j].length === 0) continue
    const { from, way } = boneOf(j)
    const dir = Math.hypot(...way) > 1e-7 ? normalize(way) : ([0, 1, 0] as Vec3)
    // the hips are cut level, where the body leaves them; what nothing follows is cut farther out
    const share = j === joints.hips ? 0 : nextJoint(skeleton, children, j) === undefined ? CUT_LAST : CUT
    const place = add(from, scale(way, share))
    put('turn', j, cutOf(j, place, dir))
  }
  for (const limb of limbs) {
    put('end', limb.end, limb.leg ? sole(limb) : palm(limb))
    const middle = at(limb.lower)
    const far = Math.hypot(...sub(at(limb.lower), at(limb.upper)))
    const mark = add(middle, scale(limb.way, OUT * far))
    const back = conjugate(quatAt(bind.rotations, limb.lower))
    put('bend', limb.lower, {
      joint: limb.lower,
      points: Float32Array.from(rotate(back, sub(mark, middle))),
      closed: false,
    })
  }
  const chains = chainsOf(skeleton, children, ends, owned)
  for (const chain of chains) {
    const j = chain.joints.at(-1)!
    const { from, way } = boneOf(j)
    put(
      'end',
      j,
      cutAround(
        mesh,
        weld,
        bind,
        j,
        add(from, scale(way, 0.8)),
        Math.hypot(...way) > 1e-7 ? normalize(way) : [0, 1, 0],
      ),
    )
  }
  const carrier = joints.hips ?? 0
  put('move', carrier, handles.find(h => h.id === handleId('turn', jointRef(skeleton, carrier)))?.shape)
  put('figure', carrier, standing())
  return { handles, limbs, chains }

  /** The cut of a joint's part, or, where the plane runs through others as through a trunk at the collar bones, what it moves alone. */
  function cutOf(j: number, place: Vec3, dir: Vec3): Contour | undefined {
    const cut = cutAround(mesh, weld, bind, j, place, dir)
    const own = owned[j].map(v => vec3At(mesh.positions, v))
    if (own.length < HANDS_FEW) return cut
    const across = (p: Vec3): number => {
      const d = sub(p, place)
      return Math.hypot(...sub(d, scale(dir, dot(d, dir))))
    }
    const reach = own.map(across).sort((a, b) => a - b)[Math.floor(0.9 * own.length)]
    let far = 0
    for (let i = 0; cut && i < cut.points.length / 3; i++) {
      const p = add(at(j), rotate(quatAt(bind.rotations, j), vec3At(cut.points, i)))
      far = Math.max(far, across(p))
    }
    return cut && far < TOO_FAR * reach
      ? cut
      : outlineAlong(
          own.filter(p => across(p) <= reach),
          bind,
          j,
          place,
          dir,
        )
  }
  function sole({ end }: DrivenLimb): Contour | undefined {
    const points = below(end)
    if (points.length < 3) return undefined
    let low = Infinity,
      high = -Infinity
    for (const p of points) {
      low = Math.min(low, p[1])
      high = Math.max(high, p[1])
    }
    const flat = points.filter(p => p[1] < low + SOLE * (high - low))
    return outlineAlong(flat, bind, end, [0, low, 0], [0, 1, 0])
  }
  function palm({ end }: DrivenLimb): Contour | undefined {
    const own = owned[end].map(v => vec3At(mesh.positions, v))
    const points = own.length >= HANDS_FEW ? own : below(end)
    if (points.length < 3) return undefined
    const { along, middle } = flattest(points)
    return outlineAlong(points, bind, end, middle, along)
  }
  /** Surface that a joint and all that hangs on it move. */
  function below(joint: number): Vec3[] {
    const list: Vec3[] = []
    for (let j = joint; j < skeleton.names.length; j++) {
      let p = j
      while (p > joint) p = skeleton.parents[p]
      if (p === joint) for (const v of owned[j]) list.push(vec3At(mesh.positions, v))
    }
    return list
  }
  function standing(): Contour | undefined {
    let low = Infinity,
      high = -Infinity
    for (let i = 1; i < mesh.positions.length; i += 3) {
      low = Math.min(low, mesh.positions[i])
      high = Math.max(high, mesh.positions[i])
    }
    const points: Vec3[] = []
    for (let v = 0; v < mesh.positions.length / 3; v++)
      if (mesh.positions[3 * v + 1] < low + STANDING * (high - low)) points.push(vec3At(mesh.positions, v))
    return outlineAlong(points, bind, joints.hips ?? 0, [0, low, 0], [0, 1, 0])
  }
}

/** The limbs of a figure by its roles. */
export function limbsOfSet(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  frame: Quat,
  at: (j: number) => Vec3,
): DrivenLimb[] {
  const back = conjugate(frame)
  return limbsOf(joints).flatMap(([upper, lower, end]): DrivenLimb[] => {
    const [a, b, c] = [joints[upper], joints[lower], joints[end]]
    if (a === undefined || b === undefined || c === undefined) return []
    // a limb of no length is driven joint by joint only
    if (Math.hypot(...sub(at(b), at(a))) < 1e-6 || Math.hypot(...sub(at(c), at(b))) < 1e-6) return []
    const leg = end.endsWith('Foot')
    const shoulder = joints[`${sideOf(end)}Shoulder`]
    return [
      {
        upper: a,
        lower: b,
        end: c,
        ref: end,
        leg,
        way: rotate(back, middleWay(end)),
        ...(!leg && shoulder !== undefined && skeleton.parents[a] === shoulder && { girdle: shoulder }),
      },
    ]
  })
}

/** Chains of two joints and more that end freely and are no limb: tails, ears, hair, tentacles. */
function chainsOf(
  skeleton: Skeleton,
  children: readonly number[][],
  ends: ReadonlyMap<number, DrivenLimb>,
  owned: readonly (readonly number[])[],
): DrivenChain[] {
  const inLimb = new Set<number>()
  for (const { upper, end } of ends.values())
    for (let j = end; j >= 0 && j !== upper; j = skeleton.parents[j]) inLimb.add(j)
  const plain = (j: number): boolean => {
    const role = skeleton.roles[j] ?? ''
    return (
      !inLimb.has(j) &&
      !isFinger(role) &&
      !/^(head|neck|jaw|hips|spine|chest|upperChest)$|Eye$|Toes$|Foot$|Hand$/.test(role)
    )
  }
  return children.flatMap((kids, j): DrivenChain[] => {
    if (kids.length > 0 || !plain(j) || owned[j].length === 0) return []
    const chain = [j]
    for (
      let p = skeleton.parents[j];
      p >= 0 && plain(p) && children[p].length === 1 && skeleton.parents[p] >= 0;
      p = skeleton.parents[p]
    )
      chain.unshift(p)
    return chain.length > 1 ? [{ joints: chain, ref: jointRef(skeleton, j) }] : []
  })
}
