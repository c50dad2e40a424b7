import { angleOf, ChiraxisError, conjugate, multiply, quatAt, type Quat, type Vec3 } from '../math'
import { twistSegments, type TwistSegment } from '../motion'
import { recogniseRoles, worldPose, type ReadingChoice, type RoleReading, type Skeleton } from '../skeleton'
import { requiredRoles } from '../body'
import { bodyFrame, framedPositions } from './body-frame'
import { chainShares, type ChainShare } from './chain-shares'
import { matchRests, restStance, type RestStance } from './rest-match'
import { stanceOf, type Stance } from './travel'

export interface PrepareOptions {
  /** Joint names of performer and figure by role, in place of what is recognised; an empty name leaves a role to nobody. */
  readonly map?: {
    readonly performer?: Readonly<Record<string, string>>
    readonly figure?: Readonly<Record<string, string>>
  }
  /** How the performer is to be read, where somebody said so. */
  readonly reading?: ReadingChoice
  /** `auto` brings the two rest poses together limb by limb; `none` takes them as they are. Default auto. */
  readonly rest?: 'auto' | 'none'
  /** Corrections of the rest match by hand: by role, a turn of the performer's limb in the body's own frame. */
  readonly restTurns?: Readonly<Record<string, Quat>>
}

/**
 * Everything about a pair of skeletons that a transfer needs, worked out once for any number of takes.
 *
 * World turns follow W_figure = C · W_performer · K with K = W_performer(rest)⁻¹ C⁻¹ M⁻¹ W_figure(rest),
 * C between the two body frames and M the rest match. Where a figure joint and its parent follow
 * performer joints on one line, that folds into local turns: L · (performer's own local turns) · K,
 * with L and K constant, and no kinematics are needed at all. The rest goes through world turns.
 */
export interface TransferPlan {
  readonly performer: RoleReading
  readonly figure: RoleReading
  readonly performerSkeleton: Skeleton
  readonly figureSkeleton: Skeleton
  readonly performerFrame: Quat
  readonly figureFrame: Quat
  /** From the performer's space to the figure's. */
  readonly toFigure: Quat
  readonly performerHips: Vec3
  readonly figureHips: Vec3
  readonly performerStance: Stance
  readonly figureStance: Stance
  readonly match: Readonly<Record<string, Quat>>
  /** Performer joint name for every figure joint that was given one. */
  readonly roleMap: Readonly<Record<string, string>>
  /** By role, the angle in degrees between the two rest poses that was taken out. */
  readonly restMatch: Readonly<Record<string, number>>
  /** What each figure joint follows; undefined keeps its rest turn. */
  readonly follow: readonly (ChainShare | undefined)[]
  /** Joints that follow one local turn of the performer's: joint, performer joint, and what L · q · K does to q as a matrix, 16 numbers row by row. */
  readonly single: { readonly joints: Int32Array; readonly from: Int32Array; readonly matrices: Float64Array }
  /** Joints that follow several local turns: joint, first and end place in `path`, constants 8 numbers each. */
  readonly direct: {
    readonly joints: Int32Array
    readonly from: Int32Array
    readonly to: Int32Array
    readonly path: Int32Array
    readonly constants: Float64Array
  }
  /** Joints solved through world turns, parents first: joint, both performer joints, share, constants 8 numbers each. */
  readonly world: {
    readonly joints: Int32Array
    readonly a: Int32Array
    readonly b: Int32Array
    readonly t: Float64Array
    readonly constants: Float64Array
    readonly writes: Uint8Array
  }
  /**
   * Joints that go along when the performer's own slides on what it hangs on: joint, performer joint, and the turn from the
   * space of the one's parent to that of the other's, 4 numbers each. Hips are not among them, their travel is scaled.
   */
  readonly slides: { readonly joints: Int32Array; readonly from: Int32Array; readonly turns: Float64Array }
  /** The figure's joints are called as the performer's, so that what has no role follows too and lengths are taken as they are. */
  readonly alike: boolean
  /** Long bones of the figure along which twist is shared. */
  readonly twists: readonly TwistSegment[]
  /** Performer joints whose world turn is needed, parents first. */
  readonly needed: Int32Array
}

/**
 * Reads both skeletons and lays out the transfer between them.
 * @throws ChiraxisError `no-roles` where performer or figure cannot be read, or one stands on two legs and the other on four
 */
export function prepareTransfer(performer: Skeleton, figure: Skeleton, options: PrepareOptions = {}): TransferPlan {
  const pr = readRoles(performer, options.map?.performer, 'performer', options.reading)
  const fr = readRoles(figure, options.map?.figure, 'figure')
  if (pr.kind !== fr.kind)
    throw new ChiraxisError(
      'no-roles',
      `The ${pr.kind === 'fourleg' ? 'performer' : 'figure'} stands on four legs and the ${pr.kind === 'fourleg' ? 'figure' : 'performer'} on two, so the take cannot be carried over.`,
    )
  for (const [who, r] of [
    ['performer', pr],
    ['figure', fr],
  ] as const) {
    if (r.missing.length > 0)
      throw new ChiraxisError(
        'no-roles',
        `The ${who}'s skeleton lacks ${list(r.missing)}; name these joints in the role map and try again.`,
        { missing: r.missing },
      )
  }
  const performerFrame = bodyFrame(performer, pr.joints)
  const figureFrame = bodyFrame(figure, fr.joints)
  const none: RestStance = { stance: {}, follows: {} }
  const matched = options.rest !== 'none'
  const own = matched ? restStance(figure, fr.joints, figureFrame) : none,
    theirs = matched ? restStance(performer, pr.joints, performerFrame) : none
  const match = matchRests(own, theirs, options.restTurns)
  const pRest = worldPose(performer)
  const fRest = worldPose(figure)
  const F = figure.names.length
  const toFigure = multiply(conjugate(figureFrame), performerFrame)

  const follow: (ChainShare | undefined)[] = new Array<ChainShare | undefined>(F).fill(undefined)
  for (const [role, j] of Object.entries(fr.joints)) {
    if (pr.joints[role] !== undefined) follow[j] = { a: pr.joints[role], b: pr.joints[role], t: 0 }
  }
  for (const share of chainShares(figure, fr.joints, performer, pr.joints)) follow[share.joint] = share
  const alike = calledAlike(figure, performer)
  if (alike) for (const [j, p] of namesakes(figure, fr, performer, pr)) follow[j] = { a: p, b: p, t: 0 }
  const roleMap: Record<string, string> = {}
  follow.forEach((share, j) => {
    if (share) roleMap[figure.names[j]] = performer.names[share.t > 0.5 ? share.b : share.a]
  })
  const restMatch = Object.fromEntries(Object.entries(match).map(([role, q]) => [role, (angleOf(q) * 180) / Math.PI]))
  const roleOf = new Map(Object.entries(fr.joints).map(([r, j]) => [j, r]))
  // what has no role goes along with the limb it hangs on
  figure.parents.forEach((p, j) => {
    if (!roleOf.has(j) && roleOf.has(p)) roleOf.set(j, roleOf.get(p)!)
  })
  const theirRole = new Map(Object.entries(pr.joints).map(([r, j]) => [j, r]))
  const constant = (p: number, j: number): Quat => {
    const role = roleOf.get(j) ?? '',
      other = theirRole.get(p) ?? role
    // where a joint follows one of another role, the two are matched
    const m =
      other !== role && own.stance[role] && theirs.stance[other]
        ? multiply(own.stance[role], conjugate(theirs.stance[other]))
        : match[role]
    let k: Quat = multiply(conjugate(quatAt(pRest.rotations, p)), conjugate(performerFrame))
    if (m) k = multiply(k, conjugate(m))
    return multiply(multiply(k, figureFrame), quatAt(fRest.rotations, j))
  }

  // per figure joint, the one performer joint and constant its world turn comes from, where there is one
  const simple: ({ joint: number; k: Quat } | undefined)[] = []
  const direct: { joint: number; path: number[]; left: Quat; right: Quat }[] = []
  const world: { joint: number; share?: ChainShare; ka: Quat; kb: Quat }[] = []
  const throughWorld = new Set<number>()
  for (let j = 0; j < F; j++) {
    const share = follow[j]
    const parent = figure.parents[j]
    const above = parent >= 0 ? simple[parent] : undefined
    if (!share) {
      // keeps its rest turn on its parent, so it follows whatever its parent follows
      simple.push(above && { joint: above.joint, k: multiply(above.k, quatAt(figure.restRotations, j)) })
      continue
    }
    const k = constant(share.a, j)
    simple.push(share.t === 0 ? { joint: share.a, k } : undefined)
    const path =
      share.t > 0
        ? undefined
        : parent < 0
          ? lineOf(performer, -1, share.a)
          : above && lineOf(performer, above.joint, share.a)
    if (path) direct.push({ joint: j, path, left: parent < 0 ? toFigure : conjugate(above!.k), right: k })
    else throughWorld.add(j)
  }
  // a joint through world turns needs its ancestors' world turns too
  const wanted = new Set<number>()
  for (const j of throughWorld) for (let p = j; p >= 0; p = figure.parents[p]) wanted.add(p)
  const needed = new Set<number>()
  const need = (p: number): void => {
    for (let q = p; q >= 0; q = performer.parents[q]) needed.add(q)
  }
  for (let j = 0; j < F; j++) {
    if (!wanted.has(j)) continue
    const share = follow[j]
    if (!share) {
      world.push({ joint: j, ka: quatAt(figure.restRotations, j), kb: [0, 0, 0, 1] })
      continue
    }
    need(share.a)
    need(share.b)
    world.push({ joint: j, share, ka: constant(share.a, j), kb: constant(share.b, j) })
  }
  const slides = follow.flatMap((share, j): { joint: number; from: number; turn: Quat }[] => {
    if (!share || share.t > 0 || j === fr.joints.hips) return []
    const parent = figure.parents[j],
      theirs = performer.parents[share.a]
    if (parent < 0 || theirs < 0) return parent < 0 && theirs < 0 ? [{ joint: j, from: share.a, turn: toFigure }] : []
    // only where what it hangs on follows what the other hangs on
    const above = simple[parent]
    return above?.joint === theirs ? [{ joint: j, from: share.a, turn: conjugate(above.k) }] : []
  })
  const single = direct.filter(d => d.path.length === 1)
  const several = direct.filter(d => d.path.length !== 1)
  const paths = several.flatMap(d => d.path)
  let end = 0
  const starts = several.map(d => (end += d.path.length) - d.path.length)
  return {
    performer: pr,
    figure: fr,
    performerSkeleton: performer,
    figureSkeleton: figure,
    performerFrame,
    figureFrame,
    toFigure,
    match,
    roleMap,
    restMatch,
    follow,
    performerHips: framedPositions(performer, performerFrame)[pr.joints.hips],
    figureHips: framedPositions(figure, figureFrame)[fr.joints.hips],
    performerStance: stanceOf(performer, pr.joints, performerFrame),
    figureStance: stanceOf(figure, fr.joints, figureFrame),
    single: {
      joints: Int32Array.from(single, d => d.joint),
      from: Int32Array.from(single, d => d.path[0]),
      matrices: Float64Array.from(single.flatMap(d => sandwich(d.left, d.right))),
    },
    direct: {
      joints: Int32Array.from(several, d => d.joint),
      from: Int32Array.from(starts),
      to: Int32Array.from(several, (d, i) => starts[i] + d.path.length),
      path: Int32Array.from(paths),
      constants: Float64Array.from(several.flatMap(d => [...d.left, ...d.right])),
    },
    world: {
      joints: Int32Array.from(world, w => w.joint),
      a: Int32Array.from(world, w => w.share?.a ?? -1),
      b: Int32Array.from(world, w => w.share?.b ?? -1),
      t: Float64Array.from(world, w => w.share?.t ?? 0),
      constants: Float64Array.from(world.flatMap(w => [...w.ka, ...w.kb])),
      writes: Uint8Array.from(world, w => (throughWorld.has(w.joint) ? 1 : 0)),
    },
    slides: {
      joints: Int32Array.from(slides, s => s.joint),
      from: Int32Array.from(slides, s => s.from),
      turns: Float64Array.from(slides.flatMap(s => [...s.turn])),
    },
    alike,
    twists: twistSegments(figure, fr.joints, new Set(follow.flatMap((share, j) => (share ? [j] : [])))),
    needed: Int32Array.from([...needed].sort((x, y) => x - y)),
  }
}

/** How alike two skeletons' names must be before joints without a role follow those of the same name. */
const ALIKE = 0.8

function calledAlike(figure: Skeleton, performer: Skeleton): boolean {
  const theirs = new Set(performer.names)
  return figure.names.filter(n => theirs.has(n)).length >= ALIKE * figure.names.length
}

/** Joints without a role on skeletons of one make: each follows the performer's joint of its own name, so that nothing is lost. */
function namesakes(figure: Skeleton, fr: RoleReading, performer: Skeleton, pr: RoleReading): [number, number][] {
  const theirs = new Map(performer.names.map((n, p) => [n, p]))
  const taken = new Set([...Object.values(pr.joints)])
  const own = new Set([...Object.values(fr.joints)])
  return figure.names.flatMap((n, j): [number, number][] => {
    const p = theirs.get(n)
    return p === undefined || own.has(j) || taken.has(p) ? [] : [[j, p]]
  })
}

/** The matrix of q ↦ left · q · right, row by row. */
function sandwich(left: Quat, right: Quat): number[] {
  const columns = (
    [
      [1, 0, 0, 0],
      [0, 1, 0, 0],
      [0, 0, 1, 0],
      [0, 0, 0, 1],
    ] as Quat[]
  ).map(q => multiply(multiply(left, q), right))
  return [0, 1, 2, 3].flatMap(row => columns.map(c => c[row]))
}

/** The joints on the way from below `ancestor` (-1: from the root) down to `joint`, or undefined where it is no ancestor. */
function lineOf(skeleton: Skeleton, ancestor: number, joint: number): number[] | undefined {
  const line: number[] = []
  for (let j = joint; j !== ancestor; j = skeleton.parents[j]) {
    if (j < 0) return undefined
    line.unshift(j)
  }
  return line
}

/** Roles as recognised, with those a map names in their place. */
export function readRoles(
  skeleton: Skeleton,
  map: Readonly<Record<string, string>> | undefined,
  who: string,
  choice?: ReadingChoice,
): RoleReading {
  const found = recogniseRoles(skeleton, choice)
  if (!map) return found
  const joints: Record<string, number> = { ...found.joints }
  for (const [role, name] of Object.entries(map)) {
    if (name === '') {
      delete joints[role]
      continue
    }
    const j = skeleton.names.indexOf(name)
    if (j < 0)
      throw new ChiraxisError(
        'no-roles',
        `The role map names the joint ${name}, which the ${who}'s skeleton does not have.`,
      )
    joints[role] = j
  }
  return {
    ...found,
    joints,
    missing: requiredRoles(found.kind).filter(r => joints[r] === undefined),
    extra: found.extra.filter(j => !Object.values(joints).includes(j)),
  }
}

const list = (roles: readonly string[]): string =>
  roles.length > 4 ? `${roles.slice(0, 4).join(', ')} and ${roles.length - 4} more` : roles.join(', ')
