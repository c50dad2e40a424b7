import { kindOf, limbsOf, tailOf } from '../body'
import {
  add,
  ChiraxisError,
  cross,
  distance,
  dot,
  fromAxisAngle,
  fromTo,
  IDENTITY,
  lerp,
  minOf,
  multiply,
  normalize,
  quatAt,
  rotate,
  scale,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import { bodyFrame } from '../retarget'
import {
  childrenOf,
  isBelow,
  jointIds,
  readAxes,
  skeletonFromWorld,
  toldRoles,
  withRoles,
  worldPose,
  type RoleReading,
  type Skeleton,
  type WorldPose,
} from '../skeleton'

/** Roles whose joints lie where the spine runs and not at a landmark of their own. */
const ALONG_SPINE = new Set(['spine', 'chest', 'upperChest'])
/** A root no higher than this share of the hips' height stands on the ground. */
const GROUND = 0.08
/** Limbs bent by less than this tell no hinge, radians. */
const STRAIGHT = 0.02

/**
 * A given skeleton laid on a body: its hierarchy, names, roles and joint counts stay, every joint keeps how it is aimed along
 * its bone and hinges, and only where joints are changes. Joints with a role go where the body's plan has that role; what lies
 * between two of them stays at its share of the way; all else keeps its place relative to the bone it hangs on.
 * @param given in any space and unit
 * @param plan the skeleton of a plan on the body's landmarks, Y up, facing +Z, metres
 * @throws ChiraxisError `no-roles` where too little of the skeleton is recognised, or it stands on other legs than the body
 */
export function fitGiven(
  given: Skeleton,
  reading: Pick<RoleReading, 'joints' | 'kind' | 'missing'>,
  plan: Skeleton,
): Skeleton {
  const planJoints = toldRoles(plan)
  if (reading.missing.length > 0)
    throw new ChiraxisError(
      'no-roles',
      `Too little of the given skeleton is known to lay it on a body: ${reading.missing.slice(0, 4).join(', ')} ${reading.missing.length === 1 ? 'is' : 'are'} missing.`,
    )
  if (reading.kind !== kindOf(planJoints))
    throw new ChiraxisError(
      'no-roles',
      `The given skeleton stands on ${reading.kind === 'fourleg' ? 'four legs' : 'two legs'}, and the body does not.`,
    )
  const own = withRoles(given, reading.joints)
  return new Fit(own, reading.joints, plan, planJoints).done()
}

type Joints = Readonly<Record<string, number>>

const STILL: Quat = [...IDENTITY]

class Fit {
  private readonly places: Vec3[]
  private readonly turns: Quat[]
  private readonly children: readonly number[][]
  private readonly planWorld: WorldPose
  private readonly planPlaces: Vec3[]
  /** Joint of the plan for each anchored joint, -1 for others. */
  private readonly anchor: Int32Array
  private readonly out: (Vec3 | undefined)[]
  private readonly swings: (Quat | undefined)[]
  private readonly size: number

  constructor(
    private readonly given: Skeleton,
    private readonly joints: Joints,
    private readonly plan: Skeleton,
    private readonly planJoints: Joints,
  ) {
    const n = given.names.length
    const frame = bodyFrame(given, joints)
    const world = worldPose(given)
    this.places = given.names.map((_, j) => rotate(frame, vec3At(world.positions, j)))
    this.turns = given.names.map((_, j) => multiply(frame, quatAt(world.rotations, j)))
    this.children = childrenOf(given)
    this.planWorld = worldPose(plan)
    this.planPlaces = plan.names.map((_, j) => vec3At(this.planWorld.positions, j))
    this.anchor = this.anchors(n)
    this.out = new Array<Vec3 | undefined>(n).fill(undefined)
    this.swings = new Array<Quat | undefined>(n).fill(undefined)
    this.size = this.bodySize(this.planPlaces, planJoints) / this.bodySize(this.places, joints)
  }

  done(): Skeleton {
    const { given, anchor, out } = this
    anchor.forEach((p, j) => {
      if (p >= 0) out[j] = this.planPlaces[p]
    })
    this.placeBetween()
    this.turnBones()
    this.placeOthers()
    const aimed = readAxes(given).kind !== 'world'
    const swing = (j: number): Quat => (aimed ? (this.swings[j] ?? STILL) : STILL)
    const fitted = skeletonFromWorld(
      given.names.map((name, j) => ({
        name,
        parent: given.parents[j],
        role: given.roles[j],
        position: out[j]!,
        rotation: multiply(swing(j), this.turns[j]),
        tip: this.tipOf(j),
      })),
    )
    return { ...fitted, ids: jointIds(given) }
  }

  /** Joints that go where the plan has their role. */
  private anchors(n: number): Int32Array {
    const anchor = new Int32Array(n).fill(-1)
    const two = kindOf(this.joints) === 'biped'
    for (const [role, j] of Object.entries(this.joints)) {
      const p = this.planJoints[role]
      if (p === undefined || /^(neck|tail)\d+$/.test(role) || (two && ALONG_SPINE.has(role))) continue
      anchor[j] = p
    }
    // tails of different counts begin and end alike
    const [own, planned] = [tailOf(this.joints), tailOf(this.planJoints)]
    if (own.length > 0 && planned.length > 0) {
      anchor[own[0]] = planned[0]
      if (own.length > 1 && planned.length > 1) anchor[own[own.length - 1]] = planned[planned.length - 1]
    }
    return anchor
  }

  private bodySize(places: readonly Vec3[], joints: Joints): number {
    const at = (role: string): Vec3 => places[joints[role]]
    const way = (roles: readonly string[]): number =>
      roles.slice(1).reduce((s, r, i) => s + distance(at(roles[i]), at(r)), 0)
    return kindOf(joints) === 'fourleg'
      ? way(['leftHindFoot', 'leftHindLowerLeg', 'leftHindUpperLeg', 'hips']) + way(['hips', 'leftFrontUpperLeg'])
      : way(['leftFoot', 'leftLowerLeg', 'leftUpperLeg', 'hips', 'head'])
  }

  /** Joints on the way between two anchors keep their share of it, on the plan's own way where that has joints between too. */
  private placeBetween(): void {
    const { given, anchor, out, places } = this
    for (let j = 0; j < anchor.length; j++) {
      if (anchor[j] < 0) continue
      const run = [j]
      let top = given.parents[j]
      while (top >= 0 && anchor[top] < 0) {
        run.unshift(top)
        top = given.parents[top]
      }
      if (top < 0 || run.length < 2) continue
      run.unshift(top)
      const line = this.planLine(anchor[top], anchor[j])
      const way = lengths(run.map(k => places[k]))
      const whole = way[way.length - 1]
      run.slice(1, -1).forEach((k, i) => {
        // joints that hang on one way only once: what two limbs share lies on the first
        out[k] ??= alongLine(line, whole > 0 ? way[i + 1] / whole : (i + 1) / (run.length - 1))
      })
    }
  }

  /** The plan's joints from one down to another; straight where the one is not above the other. */
  private planLine(from: number, to: number): Vec3[] {
    const line: Vec3[] = []
    for (let p = to; p >= 0; p = this.plan.parents[p]) {
      line.unshift(this.planPlaces[p])
      if (p === from) return line
    }
    return [this.planPlaces[from], this.planPlaces[to]]
  }

  /** How every bone that was placed turned, hinges included. */
  private turnBones(): void {
    const { given, out, places, joints, children } = this
    const next = (j: number): number | undefined => {
      const placed = children[j].filter(c => out[c])
      const { roles } = given
      if (placed.length <= 1) return placed[0]
      // the trunk goes on with the trunk, a hand with its middle finger
      return (
        placed.find(c => /^(spine|chest|upperChest|neck|head)/.test(roles[c] ?? '')) ??
        placed.find(c => /Middle|Index/.test(roles[c] ?? '')) ??
        placed.find(c => this.leadsUp(c))
      )
    }
    for (let j = 0; j < given.names.length; j++) {
      if (!out[j]) continue
      const c = next(j)
      const above = given.parents[j] >= 0 ? this.swings[given.parents[j]] : undefined
      const role = given.roles[j] ?? ''
      const flat = /^(head|hips)$|Foot$|Toes$/.test(role)
      if (c === undefined) {
        this.swings[j] = flat ? STILL : (above ?? STILL)
        continue
      }
      const was = sub(places[c], places[j])
      const now = sub(out[c]!, out[j]!)
      this.swings[j] =
        Math.hypot(...was) > 1e-9 && Math.hypot(...now) > 1e-9
          ? fromTo(normalize(was), normalize(now))
          : (above ?? STILL)
    }
    for (const [upper, lower, end] of limbsOf(joints)) {
      const [a, b, c] = [joints[upper], joints[lower], joints[end]]
      if (a === undefined || b === undefined || c === undefined) continue
      const was = hinge(places[a], places[b], places[c])
      const now = hinge(out[a]!, out[b]!, out[c]!)
      if (!was || !now) continue
      for (const [from, to] of [
        [a, b],
        [b, c],
      ] as const) {
        const along = normalize(sub(out[to]!, out[from]!))
        const h = rotate(this.swings[from] ?? STILL, was)
        const flat = (v: Vec3): Vec3 => sub(v, scale(along, dot(v, along)))
        const [p, q] = [flat(h), flat(now)]
        if (Math.hypot(...p) < 0.3 || Math.hypot(...q) < 0.3) continue
        const angle = Math.atan2(dot(along, cross(p, q)), dot(p, q))
        // a hinge that looks the other way says more about a straight limb than about its joints
        if (Math.abs(angle) > Math.PI / 4) continue
        for (let j = to; j !== from; j = given.parents[j]) {
          const k = given.parents[j]
          this.swings[k] = multiply(fromAxisAngle(along, angle), this.swings[k] ?? STILL)
        }
      }
    }
  }

  private leadsUp(j: number): boolean {
    const top = this.joints.neck ?? this.joints.head
    return top === j || isBelow(this.given, top, j)
  }

  /** What hangs beside keeps its place relative to the bone that carries it. */
  private placeOthers(): void {
    const { given, out, places, size } = this
    const hips = this.joints.hips
    const feet = Object.entries(this.joints).filter(([r]) => /Foot$|Toes$/.test(r))
    const level = minOf(feet.map(([, j]) => places[j][1]))
    for (let j = 0; j < given.names.length; j++) {
      if (out[j]) continue
      let carrier = given.parents[j]
      while (carrier >= 0 && !out[carrier]) carrier = given.parents[carrier]
      const low = places[j][1] - level < GROUND * (places[hips][1] - level)
      const aside = Math.hypot(places[j][0] - places[hips][0], places[j][2] - places[hips][2])
      if (carrier < 0 && low && aside < 0.3 * (places[hips][1] - level)) {
        // a root on the ground stays there, below the hips as it was
        const at = out[hips]!
        out[j] = [at[0] + size * (places[j][0] - places[hips][0]), 0, at[2] + size * (places[j][2] - places[hips][2])]
        continue
      }
      // what hangs on a root beside the body (a target, a control) goes with the part it stands at
      if (carrier < 0 || !this.isBody(carrier)) carrier = this.beside(carrier, j)
      const turn = this.swings[carrier] ?? STILL
      this.swings[j] = turn
      out[j] = add(out[carrier]!, this.besideBone(carrier, sub(places[j], places[carrier]), turn))
    }
  }

  /** Whether a joint is one of the body's, or hangs on one. */
  private isBody(j: number): boolean {
    for (let p = j; p >= 0; p = this.given.parents[p]) if (this.anchor[p] >= 0) return true
    return false
  }

  /** What carries a joint beside the body: a joint of its own kind that stands as near, else the nearest part of the body. */
  private beside(carrier: number, j: number): number {
    const part = this.nearest(this.places[j])
    const near = distance(this.places[part], this.places[j])
    return carrier >= 0 && !this.isRoot(carrier) && distance(this.places[carrier], this.places[j]) <= near
      ? carrier
      : part
  }

  private isRoot(j: number): boolean {
    const { hips } = this.joints
    return this.given.parents[j] < 0 || j === hips || isBelow(this.given, hips, j)
  }

  private nearest(p: Vec3): number {
    let best = this.joints.hips
    this.anchor.forEach((a, j) => {
      if (a >= 0 && distance(this.places[j], p) < distance(this.places[best], p)) best = j
    })
    return best
  }

  /** A shift from a joint, longer or shorter along its bone as that is, and across it as the body is. */
  private besideBone(carrier: number, shift: Vec3, turn: Quat): Vec3 {
    const { places, out, children, anchor, size } = this
    const anchored = children[carrier].filter(j => anchor[j] >= 0)
    const [child] = anchored
    if (anchored.length !== 1 || !out[child]) return scale(rotate(turn, shift), size)
    const bone = sub(places[child], places[carrier])
    const long = Math.hypot(...bone)
    if (long < 1e-9) return scale(rotate(turn, shift), size)
    const along = scale(bone, 1 / long)
    const t = dot(shift, along)
    const ratio = distance(out[carrier]!, out[child]) / long
    return rotate(turn, add(scale(along, t * ratio), scale(sub(shift, scale(along, t)), size)))
  }

  private tipOf(j: number): Vec3 | undefined {
    const { given, plan, planWorld, children, anchor, out, turns, size } = this
    if (children[j].length > 0) return undefined
    const planned = anchor[j] >= 0 && plan.tips ? vec3At(plan.tips, anchor[j]) : undefined
    if (planned && Math.hypot(...planned) > 1e-7)
      return add(out[j]!, rotate(quatAt(planWorld.rotations, anchor[j]), planned))
    const own = given.tips ? vec3At(given.tips, j) : undefined
    if (!own || Math.hypot(...own) < 1e-9) return undefined
    return add(out[j]!, scale(rotate(multiply(this.swings[j] ?? STILL, turns[j]), own), size))
  }
}

/** The axis a bent limb hinges about; none where it is straight. */
function hinge(a: Vec3, b: Vec3, c: Vec3): Vec3 | undefined {
  const [u, v] = [sub(b, a), sub(c, b)]
  const axis = cross(u, v)
  const long = Math.hypot(...axis)
  return long > STRAIGHT * Math.hypot(...u) * Math.hypot(...v) && long > 0 ? scale(axis, 1 / long) : undefined
}

function lengths(points: readonly Vec3[]): number[] {
  const out = [0]
  for (let i = 1; i < points.length; i++) out.push(out[i - 1] + distance(points[i - 1], points[i]))
  return out
}

function alongLine(line: readonly Vec3[], share: number): Vec3 {
  const way = lengths(line)
  const at = share * way[way.length - 1]
  let i = 1
  while (i < line.length - 1 && way[i] < at) i++
  const long = way[i] - way[i - 1]
  return lerp(line[i - 1], line[i], long > 0 ? (at - way[i - 1]) / long : 0)
}
