import {
  add,
  between,
  distance,
  dot,
  inverseOf,
  maxOf,
  pointIn,
  quatAt,
  setQuat,
  setVec3,
  STILL,
  vec3At,
  within,
  type Rigid,
  type Vec3,
} from '../math'
import { SAME_CLOCK, type LayerClock } from '../layers'
import type { Played, Take } from '../motion'
import type { FigurePose } from '../reach'
import { worldPose, type WorldPose } from '../skeleton'
import type { Grip, PropsOnFigure } from './on-figure'
import { GROUND, mirroredCarry, USUAL_OVER, USUAL_PACE, type Carry, type PropKey } from './prop'

/** Where a prop is over a take. */
export interface PropCourse {
  readonly prop: string
  readonly name: string
  /** 3·F, metres in the skeleton's space */
  readonly places: Float32Array
  /** 4·F */
  readonly turns: Float32Array
  /** F: how far a hand that should hold it stays off, metres. */
  readonly off: Float32Array
}

export interface WithProps {
  readonly take: Take
  readonly courses: readonly PropCourse[]
}

/** A stretch in which a prop is carried in one way. */
interface Stretch {
  readonly carry: Carry
  readonly begins: number
  /** Frames in which it comes there. */
  over: number
  /** How it lies to its carrier where it keeps the place it had. */
  stays?: Rigid
  /** How it lay to this carrier when the stretch began. */
  before?: Rigid
  readonly keeps: boolean
  readonly flips: Map<string, boolean>
}

const ease = (t: number): number => (t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t))
/** Which stretch of a line a frame is in. */
const stretchAt = (line: readonly Stretch[], f: number): number =>
  Math.max(
    0,
    line.findLastIndex(s => s.begins <= f),
  )
const gripKey = ({ hand, place }: Grip): string => `${hand.joint} ${place.id}`

/**
 * Props through a take: where each is in every frame, hands brought to them and closed around them.
 * Hands that carry stay as they are; frames in which no hand holds anything are the same, to the bit.
 * @param keys when props are carried otherwise than they are told to be
 * @returns the take itself where no hand was changed
 */
export function propsThroughTake(
  on: PropsOnFigure,
  { skeleton, take }: Pick<Played, 'skeleton' | 'take'>,
  keys: readonly PropKey[] = [],
  clock: LayerClock = SAME_CLOCK,
): WithProps {
  const { fps, frames } = take
  const J = skeleton.names.length
  const lines: Stretch[][] = on.list.map(({ prop }) => [
    {
      carry: clock.mirrored ? mirroredCarry(prop.carry) : prop.carry,
      begins: -Infinity,
      over: 0,
      keeps: false,
      flips: new Map(),
    },
  ])
  const order = keys
    .map(k => ({ k: clock.mirrored ? mirroredCarry(k) : k, t: clock.timeOf(k.at) }))
    .sort((a, b) => a.t - b.t)
  const open: { line: number; stretch: Stretch }[] = []
  for (const { k, t } of order) {
    const line = on.list.findIndex(({ prop }) => prop.id === k.prop)
    if (line < 0) continue
    const begins = Math.round(t * fps)
    if (begins >= frames) continue
    const isAtOnce = begins <= 0
    open.push({
      line,
      stretch: {
        carry: k,
        begins,
        over: isAtOnce ? 0 : k.over === undefined ? NaN : Math.round(k.over * fps),
        keeps: k.stays === true || k.by === GROUND,
        flips: new Map(),
      },
    })
  }

  const R = new Float32Array(4 * J),
    T = new Float32Array(3 * J)
  const pose: FigurePose = { rotations: R, translations: T }
  const world = (): WorldPose => worldPose(skeleton, T, R)
  const places: Rigid[] = on.list.map(() => STILL)
  const offs = new Float64Array(on.list.length)
  let changed = false

  /** Where a prop is in a stretch, apart from how it came there. */
  const own = (line: number, s: Stretch, w: WorldPose): Rigid =>
    s.stays ? within(on.carrier(on.list[line], s.carry, w), s.stays) : on.placeOf(on.list[line], s.carry, w)
  const flipOf = (s: Stretch, grip: Grip, prop: Rigid, w: WorldPose): boolean => {
    if (!grip.place.round) return false
    const key = gripKey(grip)
    let flip = s.flips.get(key)
    if (flip === undefined) s.flips.set(key, (flip = on.agreement(grip, prop, w) < 0))
    return flip
  }
  function hold(line: number, s: Stretch, prop: Rigid, weightOf: (grip: Grip) => number): void {
    for (const grip of on.grips(line, s.carry)) {
      const w = weightOf(grip)
      if (w <= 0) continue
      if (grip.brought) {
        const off = on.bring(pose, grip, prop, w, flipOf(s, grip, prop, world()))
        changed = true
        if (off !== undefined && w >= 1) offs[line] = Math.max(offs[line], off)
      }
      if (grip.closed) {
        on.close(pose, grip, s.carry, w)
        changed = true
      }
    }
  }
  /** One frame: every prop where it is, every hand where it holds. Stretches that begin later count for nothing. */
  function frame(f: number): void {
    R.set(take.rotations.subarray(4 * J * f, 4 * J * (f + 1)))
    T.set(take.translations.subarray(3 * J * f, 3 * J * (f + 1)))
    offs.fill(0)
    changed = false
    lines.forEach((line, p) => {
      const at = stretchAt(line, f)
      const s = line[at]
      const before: Stretch | undefined = line[at - 1]
      const share = s.over > 0 ? ease((f - s.begins) / s.over) : 1
      const holdsToo = (grip: Grip, other: Stretch | undefined): boolean =>
        other !== undefined &&
        on.grips(p, other.carry).some(g => gripKey(g) === gripKey(grip) && g.brought === grip.brought)
      // what is let go is let go softly
      if (before && share < 1) hold(p, before, own(p, before, world()), grip => (holdsToo(grip, s) ? 0 : 1 - share))
      const w = world()
      const there = own(p, s, w)
      places[p] =
        s.before && share < 1 ? between(within(on.carrier(on.list[p], s.carry, w), s.before), there, share) : there
      hold(p, s, places[p], grip => (holdsToo(grip, before) ? 1 : share))
    })
    // what a hand carries that was moved for another prop goes along with it
    const w = world()
    lines.forEach((line, p) => {
      const s = line[stretchAt(line, f)]
      const done = s.over <= 0 || f - s.begins >= s.over
      if (s.carry.aim !== 'between' && done) places[p] = own(p, s, w)
    })
  }
  /** How far a prop goes into a stretch, or a hand that lets go of it or takes hold of it. */
  function wayInto(line: number, before: Stretch, s: Stretch, f: number, w: WorldPose): number {
    const free = worldPose(skeleton, take.translations, take.rotations, f * J)
    const there = own(line, s, w)
    const hand = (pose: WorldPose, g: Grip): Vec3 => vec3At(pose.positions, g.hand.joint)
    const ways = [
      distance(there.at, places[line].at),
      ...on.grips(line, before.carry).map(g => distance(hand(free, g), hand(w, g))),
      ...on.grips(line, s.carry).map(g => (g.brought ? distance(pointIn(there, g.place.at), hand(w, g)) : 0)),
    ]
    return maxOf(ways)
  }
  for (const { line, stretch } of open) {
    const list = lines[line]
    // of several at one moment the last counts
    if (list.length > 1 && list[list.length - 1].begins === stretch.begins) list.pop()
    const f = Math.max(0, stretch.begins)
    frame(f)
    const [known, w] = [on.list[line], world()]
    const c = on.carrier(known, stretch.carry, w)
    stretch.before = within(inverseOf(c), places[line])
    if (stretch.keeps) {
      const { shift, turn, by } = stretch.carry
      if (by === GROUND) {
        const moved: Rigid = {
          at: add(places[line].at, on.lies(known, { by, shift }).at),
          turn: turn ?? places[line].turn,
        }
        stretch.stays = within(inverseOf(c), on.onGround(known, moved))
      } else stretch.stays = stretch.before
    }
    stretch.stays ??= on.takenUp(known, stretch.carry, stretch.before)
    if (Number.isNaN(stretch.over)) {
      const way = wayInto(line, list[list.length - 1], stretch, f, w)
      stretch.over = Math.round(Math.max(USUAL_OVER, way / USUAL_PACE) * fps)
    }
    list.push(stretch)
  }

  const courses = on.list.map(({ prop }) => ({
    prop: prop.id,
    name: prop.name,
    places: new Float32Array(3 * frames),
    turns: new Float32Array(4 * frames),
    off: new Float32Array(frames),
  }))
  let rotations: Float32Array | undefined, translations: Float32Array | undefined
  for (let f = 0; f < frames; f++) {
    frame(f)
    courses.forEach((c, p) => {
      setVec3(c.places, f, places[p].at)
      const d = f > 0 ? dot4(places[p].turn, quatAt(c.turns, f - 1)) : 1
      setQuat(c.turns, f, d < 0 ? (places[p].turn.map(v => -v) as Rigid['turn']) : places[p].turn)
      c.off[f] = offs[p]
    })
    if (!changed) continue
    rotations ??= take.rotations.slice()
    translations ??= take.translations.slice()
    rotations.set(R, 4 * J * f)
    translations.set(T, 3 * J * f)
  }
  return { take: rotations && translations ? { ...take, rotations, translations } : take, courses }
}

/** Where a prop is in a frame. */
export const courseAt = ({ places, turns }: PropCourse, f: number): Rigid => ({
  at: vec3At(places, f),
  turn: quatAt(turns, f),
})

/** A pose with the props in it. */
export function propsInPose(
  on: PropsOnFigure,
  skeleton: Played['skeleton'],
  pose: FigurePose,
): { readonly pose: FigurePose; readonly places: readonly Rigid[]; readonly off: readonly number[] } {
  const take: Take = {
    name: '',
    fps: 30,
    frames: 1,
    rotations: Float32Array.from(pose.rotations),
    translations: Float32Array.from(pose.translations),
  }
  const { take: held, courses } = propsThroughTake(on, { skeleton, take })
  return {
    pose: held === take ? pose : { rotations: held.rotations, translations: held.translations },
    places: courses.map(c => courseAt(c, 0)),
    off: courses.map(c => c.off[0]),
  }
}

const dot4 = (a: readonly number[], b: readonly number[]): number =>
  dot([a[0], a[1], a[2]], [b[0], b[1], b[2]]) + a[3] * b[3]
