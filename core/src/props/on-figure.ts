import {
  between,
  conjugate,
  dot,
  fromTo,
  inverseOf,
  length,
  multiply,
  pointIn,
  quatAt,
  rotate,
  rotationVector,
  scale,
  setQuat,
  slerp,
  STILL,
  sub,
  turnedAbout,
  vec3At,
  within,
  type Quat,
  type Rigid,
  type Vec3,
} from '../math'
import { carrierOf, limbReach, limbsOfSet, type DrivenLimb, type LimbReach } from '../handles'
import type { FigurePose } from '../reach'
import { atBind, findJoint, jointPlace, worldPose, type Skeleton, type WorldPose } from '../skeleton'
import { closedHand, type ClosedHand } from './closed-hand'
import type { HandHold } from './hand-hold'
import { GROUND, type Carry, type Prop, type PropPlace } from './prop'
import { lowestOf, type PropThing } from './thing'

/** A prop with what its file comes to. */
export interface KnownProp {
  readonly prop: Prop
  readonly thing: PropThing
}

/** A hand that is held to a place of a prop. */
export interface Grip {
  readonly prop: number
  readonly hand: HandHold
  readonly place: PropPlace
  /** Whether the hand is brought there; else it carries the prop, and only closes around it. */
  readonly brought: boolean
  readonly closed: boolean
}

/** Something told of props that this figure or this prop has no such part for. */
export interface LostPart {
  readonly prop: string
  readonly part: string
}

/** What one figure can do with its props. */
export interface PropsOnFigure {
  readonly list: readonly KnownProp[]
  /** Where what carries a prop is; the ground where nothing does, or what should is not there. */
  carrier(known: KnownProp, carry: Carry, w: WorldPose): Rigid
  /** How a prop lies to its carrier. */
  lies(known: KnownProp, carry: Carry): Rigid
  /** Where a prop is that is carried so in a pose. */
  placeOf(known: KnownProp, carry: Carry, w: WorldPose): Rigid
  /** Carried as before, but lying where it is put. */
  carryAt(known: KnownProp, carry: Carry, w: WorldPose, place: Rigid): Carry
  /**
   * How a prop lies to a hand that takes it up as it comes: around what is round a hand closes whichever way needs the least turn.
   * @param before how it lay to that hand  @returns undefined where its grip tells everything
   */
  takenUp(known: KnownProp, carry: Carry, before: Rigid): Rigid | undefined
  /** Set down where it is: no higher and no lower than the ground bears it. */
  onGround(known: KnownProp, place: Rigid): Rigid
  grips(index: number, carry: Carry): readonly Grip[]
  /** How far a hand's thumb agrees with the way a place points, -1..1. */
  agreement(grip: Grip, prop: Rigid, w: WorldPose): number
  /**
   * Brings a hand to its place on a prop, as strongly as `weight` tells.
   * @param pose is changed  @param flip a thumb points the other way along what is round
   * @returns how far it stays off, metres; undefined where the hand hangs on no limb
   */
  bring(pose: FigurePose, grip: Grip, prop: Rigid, weight: number, flip: boolean): number | undefined
  /** Lays the fingers around what is held. */
  close(pose: FigurePose, grip: Grip, carry: Carry, weight: number): void
  readonly lost: readonly LostPart[]
}

/** @param frame from the skeleton's space to Y up, facing +Z */
export function propsOnFigure(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  frame: Quat,
  hands: readonly HandHold[],
  list: readonly KnownProp[],
): PropsOnFigure {
  const bind = worldPose(atBind(skeleton))
  const long = carrierOf(skeleton, joints).height
  const limbs = limbsOfSet(skeleton, joints, frame, j => vec3At(bind.positions, j))
  const reach: LimbReach = limbReach(skeleton, limbs)
  const limbOf = (hand: HandHold): DrivenLimb | undefined => limbs.find(l => l.end === hand.joint)
  const jointOf = (ref: string): number => (ref === GROUND ? -1 : (joints[ref] ?? findJoint(skeleton, ref)))
  const handOf = (ref: string): HandHold | undefined => hands.find(h => h.ref === ref || h.joint === jointOf(ref))
  const placeNamed = ({ thing }: KnownProp, id: string | undefined): PropPlace | undefined =>
    id === undefined ? undefined : thing.places.find(p => p.id === id)
  /** The grasp of a hand, in the space of its joint, around something so thick. */
  const graspOf = (hand: HandHold, thick: number): Rigid => ({
    at: sub(hand.at, scale(hand.palm, -thick)),
    turn: hand.turn,
  })
  const thickOf = (place: PropPlace | undefined): number => place?.thick ?? 0

  function carrier(known: KnownProp, carry: Carry, w: WorldPose): Rigid {
    const j = jointOf(carry.by)
    if (j < 0) return STILL
    const hand = handOf(carry.by)
    if (hand) return within(jointPlace(w, j), graspOf(hand, thickOf(placeNamed(known, carry.grip))))
    // told in the axes of the body, as the joint was bound
    const own = jointPlace(w, j)
    return { at: own.at, turn: multiply(own.turn, multiply(conjugate(quatAt(bind.rotations, j)), conjugate(frame))) }
  }
  const shiftOf = ({ shift }: Pick<Carry, 'shift'>): Vec3 => (shift ?? [0, 0, 0]).map(v => v * long) as Vec3
  function lies(known: KnownProp, { by, grip, shift, turn }: Carry): Rigid {
    const moved: Rigid = {
      at: shiftOf({ shift }),
      turn: turn ? unit(turn) : STILL.turn,
    }
    const place = jointOf(by) < 0 ? undefined : placeNamed(known, grip)
    return place ? within(moved, inverseOf(frameOf(place))) : moved
  }
  function carryAt(known: KnownProp, carry: Carry, w: WorldPose, place: Rigid): Carry {
    const grip = jointOf(carry.by) < 0 ? undefined : placeNamed(known, carry.grip)
    const lie = within(inverseOf(carrier(known, carry, w)), place)
    const { at, turn } = grip ? within(lie, frameOf(grip)) : lie
    const { shift: _, turn: __, ...plain } = carry
    const turned = length(rotationVector(turn)) > 1e-6
    return {
      ...plain,
      ...(length(at) > 1e-6 * long && { shift: at.map(v => v / long) as Vec3 }),
      ...(turned && { turn }),
    }
  }
  function takenUp(known: KnownProp, carry: Carry, before: Rigid): Rigid | undefined {
    const place = placeNamed(known, carry.grip)
    if (!place?.round || place.hangs || carry.turn || carry.aim === 'between' || !handOf(carry.by)) return undefined
    const is = rotate(multiply(before.turn, unit(place.turn)), [1, 0, 0])
    const turn = multiply(fromTo(is, [is[0] < 0 ? -1 : 1, 0, 0]), before.turn)
    const [x, y, z] = rotate(turn, place.at)
    return { at: sub(shiftOf(carry), [x, y, z]), turn }
  }
  function onGround({ thing }: KnownProp, { at, turn }: Rigid): Rigid {
    return { at: [at[0], -lowestOf(thing, turn), at[2]], turn }
  }
  function placeOf(known: KnownProp, carry: Carry, w: WorldPose): Rigid {
    const c = carrier(known, carry, w)
    const put = within(c, lies(known, carry))
    const grip = placeNamed(known, carry.grip)
    const up = rotate(put.turn, [0, 1, 0])
    const place = grip?.hangs
      ? turnedAbout(put, pointIn(put, grip.at), fromTo(up, rotate(conjugate(frame), [0, 1, 0])))
      : put
    if (jointOf(carry.by) < 0) return onGround(known, place)
    const second = carry.second && handOf(carry.second.by)
    const other = placeNamed(known, carry.second?.grip)
    if (carry.aim !== 'between' || !second || !grip || !other) return place
    // the prop turns about the first grip until it points to the other hand
    const grasp = within(jointPlace(w, second.joint), graspOf(second, thickOf(other)))
    const held = pointIn(place, grip.at)
    const [is, wanted] = [sub(pointIn(place, other.at), held), sub(grasp.at, held)]
    if (length(is) < 1e-6 || length(wanted) < 1e-6) return place
    return turnedAbout(place, held, fromTo(scale(is, 1 / length(is)), scale(wanted, 1 / length(wanted))))
  }

  function grips(index: number, carry: Carry): Grip[] {
    const known = list[index]
    const out: Grip[] = []
    const [hand, place] = [handOf(carry.by), placeNamed(known, carry.grip)]
    const closed = carry.open !== true
    const two = carry.second !== undefined
    if (hand && place)
      out.push({ prop: index, hand, place, brought: two && carry.aim === 'between' && !carry.loose, closed })
    const [second, other] = [carry.second && handOf(carry.second.by), placeNamed(known, carry.second?.grip)]
    if (second && other && second !== hand)
      out.push({ prop: index, hand: second, place: other, brought: !carry.loose, closed })
    return out
  }
  /** Where a place is, as what holds it there sees it. */
  const placed = (prop: Rigid, place: PropPlace, flip: boolean): Rigid => {
    const own = within(prop, frameOf(place))
    return flip ? { at: own.at, turn: multiply(own.turn, HALF) } : own
  }
  function agreement({ hand, place }: Grip, prop: Rigid, w: WorldPose): number {
    const thumb = rotate(multiply(quatAt(w.rotations, hand.joint), hand.turn), [1, 0, 0])
    return dot(thumb, rotate(placed(prop, place, false).turn, [1, 0, 0]))
  }
  function bring(
    pose: FigurePose,
    { hand, place }: Grip,
    prop: Rigid,
    weight: number,
    flip: boolean,
  ): number | undefined {
    const limb = limbOf(hand)
    if (!limb) return undefined
    const w = worldPose(skeleton, pose.translations, pose.rotations)
    const own = jointPlace(w, hand.joint)
    const grasp = graspOf(hand, thickOf(place))
    const goal = placed(prop, place, flip)
    let turn = multiply(goal.turn, conjugate(grasp.turn))
    if (place.round) {
      // around what is round a hand turns no more than its thumb needs
      const is = rotate(multiply(own.turn, grasp.turn), [1, 0, 0])
      turn = multiply(fromTo(is, rotate(goal.turn, [1, 0, 0])), own.turn)
    }
    const wish = sub(goal.at, rotate(turn, grasp.at))
    const there = between(own, { at: wish, turn }, weight)
    return reach.to(pose, limb, { place: there.at, turn: there.turn, firm: true })
  }
  const closedKnown = new Map<string, ClosedHand>()
  function close(pose: FigurePose, { prop, hand, place, brought }: Grip, carry: Carry, weight: number): void {
    const known = list[prop]
    // in a hand that carries it a prop may lie otherwise than its grip; one that is brought meets the grip
    const lie = brought || (!carry.shift && !carry.turn)
    const key = `${prop} ${hand.joint} ${place.id} ${lie ? '' : JSON.stringify([carry.shift, carry.turn])}`
    let closed = closedKnown.get(key)
    if (!closed) {
      const grasp = graspOf(hand, thickOf(place))
      const shaft = lie ? grasp : within(grasp, within(lies(known, carry), frameOf(place)))
      closedKnown.set(key, (closed = closedHand(skeleton, joints, hand, shaft, thickOf(place))))
    }
    closed.joints.forEach((j, i) =>
      setQuat(pose.rotations, j, slerp(quatAt(pose.rotations, j), closed!.turns[i], Math.min(1, weight))),
    )
  }

  const lost: LostPart[] = []
  for (const known of list) {
    const { prop } = known
    for (const by of [prop.carry.by, prop.carry.second?.by])
      if (by !== undefined && by !== GROUND && jointOf(by) < 0) lost.push({ prop: prop.name, part: by })
    for (const grip of [prop.carry.grip, prop.carry.second?.grip])
      if (grip !== undefined && !placeNamed(known, grip)) lost.push({ prop: prop.name, part: grip })
  }
  return { list, carrier, lies, placeOf, carryAt, takenUp, onGround, grips, agreement, bring, close, lost }
}

/** Half a turn about the fingers: the thumb points the other way. */
const HALF: Quat = [0, 1, 0, 0]
const unit = ([x, y, z, w]: readonly [number, number, number, number]): Quat => {
  const l = Math.hypot(x, y, z, w) || 1
  return [x / l, y / l, z / l, w / l]
}
/** A place of a prop as axes in its own space. */
const frameOf = ({ at, turn }: Pick<PropPlace, 'at' | 'turn'>): Rigid => ({ at: [...at], turn: unit(turn) })
