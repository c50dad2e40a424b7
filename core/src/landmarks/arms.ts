import { addScaled, breather, distance, dot, normalize, sub, type Vec3, type WorkOptions, maxOf } from '../math'
import { nearestSolid, type Voxels } from '../mesh'
import type { Extremity } from './extremities'
import {
  bendOf,
  cutLimb,
  fitLine,
  levelCentres,
  lineLength,
  pointOn,
  resampleLine,
  smoothLine,
  type LimbCut,
} from './limb'
import { limbCells } from './limb-cells'
import type { Cue } from './likely-figure'

/** What one arm tells before both sides are weighed together. */
export interface ArmReading {
  readonly tip: Vec3
  /** Even points from the tip to the shoulder, with their cuts. */
  readonly line: readonly Vec3[]
  readonly cuts: readonly (LimbCut | undefined)[]
  readonly length: number
  readonly shoulder: Vec3
  /** How far off the shoulder may be, metres. */
  readonly shoulderSpread: number
  /** Whether the cut opened into the trunk: else the arm goes on beyond where its shoulder is told. */
  readonly opened: boolean
  /** Along the upper arm, from the elbow to the shoulder, unit. */
  readonly upperArm: Vec3
  /** Whether the hand holds something that reaches beyond it. */
  readonly holds: boolean
  /** Share of the arm's length from the tip, and how clearly the shape shows it. */
  readonly wrist: { readonly share: number; readonly evidence: number }
}

const POINTS = 60
/** The thickest an arm can be, radius over length: an ogre's is about 0.17. */
const STOUTEST = 0.27

/** A shoulder is no farther off the midline than this share of height, an ogre's neither. */
const BROADEST = 0.16

/** Share of the whole arm, as seen on people and on stylised figures. */
const HAND_SHARE = { mean: 0.262, deviation: 0.04 }

/** Reads the arm that ends in `end`. `side` is +1 for the left. */
export async function readArm(
  voxels: Voxels,
  distanceField: Float32Array,
  end: Extremity,
  height: number,
  positions: Float32Array,
  { signal }: WorkOptions = {},
): Promise<ArmReading | undefined> {
  const pulse = breather({ signal })
  const cells = limbCells(voxels, distanceField, end)
  if (cells.length < 20) return undefined
  let line = levelCentres(voxels, distanceField, cells, 2 * voxels.size)
  if (line.length < 6) return undefined
  line = smoothLine([end.tip, ...line.slice(1)], 4)
  const reach = 0.1 * height
  const hilt = bladeEnd(voxels, line, height)
  const holds = end.holds || hilt > 0
  if (hilt > 0) line = line.slice(hilt)

  // the upper arm's straight line, carried inwards to where cuts open into the trunk
  const forearm = line[Math.floor(line.length * 0.5)],
    hand = line[Math.floor(line.length * 0.24)]
  const tip = holds ? line[0] : reachOf(positions, end.tip, normalize(sub(hand, forearm)), voxels.size, height)
  line[0] = tip
  await pulse()
  const total = lineLength(line)
  const dense = resampleLine(line, POINTS)
  const upper = dense.slice(Math.floor(POINTS * 0.55), Math.floor(POINTS * 0.88))
  let axis = fitLine(upper)
  const centred = upper.map(p => cutLimb(voxels, p, axis.direction, reach)?.centre ?? p)
  axis = fitLine(centred)
  const areas = centred.map(p => cutLimb(voxels, p, axis.direction, reach)?.area ?? 0).sort((x, y) => x - y)
  let typical = areas[areas.length >> 1]
  const walk = walkInwards(voxels, centred[0], axis.direction, 0.75 * total, height, () => typical)
  await pulse()
  let { opened } = walk
  // the more an arm hangs, the farther from its joint it meets the trunk
  const girth = Math.sqrt(typical / Math.PI)
  const hang = hangOf(axis.direction)
  const top = exitOf(voxels, addScaled(centred[0], axis.direction, walk.inward), axis.direction, 0.3 * height)
  const deep = girth * (0.58 + 0.75 * hang)
  let shoulder = addScaled(
    centred[0],
    axis.direction,
    walk.inward + (hang > 0.4 && top > 0 ? Math.max(0.58 * girth, Math.min(deep, top - 1.1 * girth)) : deep),
  )
  // an arm that hangs beside the trunk touches it far below its joint: the top of the shoulder then lies well ahead
  const above = axis.direction[1] > 0.8 ? exitOf(voxels, shoulder, axis.direction, 0.6 * height) : 0
  if (above > 0.12 * height) {
    const hanging = readHanging(voxels, centred, axis.direction, total, height)
    if (hanging) {
      opened = true
      typical = hanging.typical
      axis = hanging.axis
      shoulder = hanging.shoulder
    } else {
      opened = false
      shoulder = addScaled(shoulder, axis.direction, above - 1.25 * girth)
    }
  }
  // nobody is so broad: an arm that meets the rest of the body out there goes into a sleeve or a coat
  if (Math.abs(shoulder[0]) > BROADEST * height) opened = false
  await pulse()
  const radius = Math.sqrt(typical / Math.PI)

  const outside = line.filter(p => dot(sub(p, shoulder), axis.direction) < -0.5 * radius)
  // all of it lies beyond where its shoulder would be
  if (outside.length < 2) return undefined
  const whole = resampleLine([...outside, shoulder], POINTS)
  let cuts: (LimbCut | undefined)[] = []
  let centres = whole
  for (let round = 0; round < 2; round++) {
    await pulse()
    cuts = centres.map((p, i) => {
      const d = normalize(sub(centres[Math.min(POINTS - 1, i + 2)], centres[Math.max(0, i - 2)]))
      return cutLimb(voxels, p, d, reach)
    })
    // a cut that runs into the trunk tells nothing of the middle of the arm
    const sound = (i: number): boolean => i > 0 && i <= POINTS * 0.92 && (cuts[i]?.area ?? Infinity) < 1.9 * typical
    centres = centres.map((p, i) => (sound(i) ? cuts[i]!.centre : p))
    centres = resampleLine(smoothLine(centres, 2), POINTS)
  }
  const length = lineLength(centres)
  // a corner of something stout is no arm
  if (radius > STOUTEST * length) return undefined
  return {
    tip,
    line: centres,
    cuts,
    length,
    shoulder,
    shoulderSpread: (opened ? 0.014 * stanceDoubt(axis.direction[1]) : 0.05) * height + 0.35 * radius * hang,
    opened,
    upperArm: axis.direction,
    holds,
    wrist: thinnest(cuts),
  }
}

/**
 * Where something long and thin that a hand holds ends, as an index into the line from its tip; 0 where an arm ends in a hand.
 * No hand is so much thinner than its arm over such a stretch.
 */
function bladeEnd(voxels: Voxels, line: readonly Vec3[], height: number): number {
  const n = line.length
  const area = (i: number): number =>
    cutLimb(voxels, line[i], normalize(sub(line[Math.min(n - 1, i + 1)], line[Math.max(0, i - 1)])), 0.1 * height)
      ?.area ?? 0
  const arm = middleOf(line.flatMap((_, i) => (i > 0.5 * n && i < 0.9 * n ? [area(i)] : [])))
  let i = 0
  while (i < 0.75 * n && area(i) < Math.min(BLADE * arm, THIN * height * height)) i++
  return lineLength(line.slice(0, i + 1)) > 0.15 * height ? i : 0
}
/** How thin a blade is beside the arm that holds it, area over area; and beside the body, area over height squared. */
const BLADE = 0.25
const THIN = 0.0006

/** How far a point in the body can go before it comes out, at most `reach` metres. */
function exitOf(voxels: Voxels, from: Vec3, direction: Vec3, reach: number): number {
  for (let s = 2 * voxels.size; s < reach; s += 0.5 * voxels.size)
    if (nearestSolid(voxels, addScaled(from, direction, s), 1) < 0) return s
  return 0
}

/** How steeply an arm hangs: 0 where it is level or raised, 1 at 45 degrees, 3 at most. */
const hangOf = (direction: Vec3): number =>
  Math.min(3, Math.max(0, direction[1]) / Math.max(0.05, Math.hypot(direction[0], direction[2])))

/**
 * Raised and hanging arms open into the trunk away from their joint: measured on made bodies, shoulders are then
 * off by more than 4 % of height in one of three, against one of fifty with arms out or a little down.
 */
const stanceDoubt = (rise: number): number => (rise > 0.8 || (rise < -0.2 && rise > -0.6) ? 2 : 1)

interface Walk {
  readonly opened: boolean
  readonly inward: number
  readonly stretch: readonly { at: number; centre: Vec3; area: number }[]
}

/**
 * Follows a limb inwards until a cut opens into the trunk: to more than two thirds as much again as `reference` says.
 * @param reference area of the limb, from the areas seen so far
 */
function walkInwards(
  voxels: Voxels,
  start: Vec3,
  direction: Vec3,
  most: number,
  height: number,
  reference: (seen: readonly number[]) => number,
): Walk {
  const stretch: { at: number; centre: Vec3; area: number }[] = []
  let inward = 0
  for (; inward < most; inward += 0.5 * voxels.size) {
    const cut = cutLimb(voxels, addScaled(start, direction, inward), direction, 0.2 * height)
    if (!cut) return { opened: false, inward, stretch }
    if (cut.area > 1.68 * reference(stretch.map(s => s.area))) return { opened: true, inward, stretch }
    stretch.push({ at: inward, centre: cut.centre, area: cut.area })
  }
  return { opened: false, inward, stretch }
}

const middleOf = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1] ?? 1

/**
 * The upper part of an arm that hangs against the trunk. Only its forearm stands free, so it is followed until a
 * cut suddenly grows (forearms that swell towards the elbow grow slowly), and the joint is told from the top of
 * the shoulder, where the arm's line leaves the body.
 */
function readHanging(
  voxels: Voxels,
  from: readonly Vec3[],
  direction: Vec3,
  total: number,
  height: number,
): { axis: { point: Vec3; direction: Vec3 }; shoulder: Vec3; typical: number } | undefined {
  const first = from.map(p => cutLimb(voxels, p, direction, 0.1 * height)?.area ?? 0).filter(a => a > 0)
  const lately = (seen: readonly number[]): number => {
    const all = [...first.slice(0, 4), ...seen]
    return middleOf(all.slice(Math.max(0, all.length - 11), Math.max(4, all.length - 3)))
  }
  const most = Math.max(0.75 * total, distance(from[0], from[from.length - 1]) + 0.3 * height)
  let axis = { point: from[0], direction }
  let walk = walkInwards(voxels, from[0], direction, most, height, lately)
  const last = (w: Walk): Walk['stretch'] =>
    w.stretch.filter(s => s.at > w.inward - 0.13 * height && s.at < w.inward - 0.01 * height)
  // the first opening shows which stretch is the upper arm, and its own line leads to the shoulder
  if (last(walk).length >= 4) {
    axis = fitLine(last(walk).map(s => s.centre))
    walk = walkInwards(voxels, last(walk)[0].centre, axis.direction, most, height, lately)
    if (walk.stretch.length > 0) axis = { point: walk.stretch[0].centre, direction: axis.direction }
  }
  if (!walk.opened || walk.stretch.length < 3) return undefined
  const typical = middleOf(last(walk).map(s => s.area))
  const radius = Math.sqrt(typical / Math.PI)
  const armpit = addScaled(axis.point, axis.direction, walk.inward)
  const out = exitOf(voxels, armpit, axis.direction, 0.6 * height)
  return {
    axis,
    typical,
    shoulder: addScaled(armpit, axis.direction, out > 1.25 * radius ? out - 1.25 * radius : 0.58 * radius),
  }
}

/**
 * The end of the hand on the surface: fingers may be too thin for the cells, which end up to a palm short
 * of them or in the thumb; the farthest point in the direction of the forearm is the longest finger's.
 */
function reachOf(positions: Float32Array, tip: Vec3, ahead: Vec3, cell: number, height: number): Vec3 {
  let along = 0.75 * cell
  let best: Vec3 | undefined
  for (let i = 0; i < positions.length; i += 3) {
    const x = positions[i] - tip[0],
      y = positions[i + 1] - tip[1],
      z = positions[i + 2] - tip[2]
    const t = x * ahead[0] + y * ahead[1] + z * ahead[2]
    if (t <= along || t > 0.1 * height || x * x + y * y + z * z - t * t > (0.06 * height) ** 2) continue
    // never inwards: what lies ahead of a hanging hand nearer the midline is the leg
    if ((tip[0] + x) * Math.sign(tip[0]) < Math.abs(tip[0]) - 0.03 * height) continue
    along = t
    best = [tip[0] + x, tip[1] + y, tip[2] + z]
  }
  return best ?? addScaled(tip, ahead, along)
}

/** Where the limb is thinnest between hand and forearm, weighed against where wrists usually are. */
function thinnest(cuts: readonly (LimbCut | undefined)[]): { share: number; evidence: number } {
  const n = cuts.length
  const size = cuts.map(c => c?.area ?? 0)
  const smooth = size.map((_, i) => {
    let s = 0,
      w = 0
    for (let d = -2; d <= 2; d++) {
      const v = size[i + d]
      if (v === undefined || v === 0) continue
      const g = Math.exp((-d * d) / 2)
      s += v * g
      w += g
    }
    return w > 0 ? s / w : 0
  })
  const median =
    [...smooth.slice(Math.floor(n * 0.35), Math.floor(n * 0.85))].sort((a, b) => a - b)[Math.floor(n * 0.25)] || 1
  let share = HAND_SHARE.mean
  let best = Infinity
  for (let i = Math.floor(n * 0.13); i < n * 0.42; i++) {
    const s = i / (n - 1)
    const cost = 1.1 * (smooth[i] / median) + 0.5 * ((s - HAND_SHARE.mean) / HAND_SHARE.deviation) ** 2 * 0.35
    if (cost < best) {
      best = cost
      share = s
    }
  }
  // a palm wider than the wrist is the sign that the wrist was seen
  const palm = maxOf(smooth.slice(Math.floor(n * (share - 0.16)), Math.floor(n * share)), 0)
  const at = smooth[Math.round(share * (n - 1))] || 1
  return { share, evidence: Math.min(1, Math.max(0, (palm / at - 1) / 0.6)) }
}

/** Where the elbow is between wrist and shoulder, as a share from the tip, and how far off that may be: from the bend. */
function elbowShare(reading: ArmReading, wristShare: number): { share: number; doubt: number } {
  const from = Math.round(wristShare * (POINTS - 1))
  const line = reading.line.slice(from)
  const length = lineLength(line)
  const bend = bendOf(line, 0.3, 0.66)
  // the place of a bend is known the better the sharper it is against the noise of the centreline
  const doubt = Math.min(
    0.25,
    0.02 + (2.2 * Math.max(bend.deviation, 0.0012 * length)) / (Math.max(1e-3, Math.sin(bend.angle)) * length),
  )
  return { share: wristShare + (1 - wristShare) * bend.share, doubt: doubt * (1 - wristShare) }
}

/** The point at a share of the way from the tip to the shoulder, centred in the limb. */
function armPoint(voxels: Voxels, reading: ArmReading, share: number, height: number): { at: Vec3; along: Vec3 } {
  const i = Math.max(0, Math.min(POINTS - 2, Math.floor(share * (POINTS - 1))))
  const p = pointOn(reading.line, share)
  const along = normalize(sub(reading.line[Math.min(POINTS - 1, i + 3)], reading.line[Math.max(0, i - 2)]))
  const cut = cutLimb(voxels, p, along, 0.1 * height)
  return { at: cut && distance(cut.centre, p) < 0.03 * height ? cut.centre : p, along }
}

/**
 * What one arm says of its landmarks. Both arms belong to one body: what one shows clearly helps the other, as shares
 * and never as places.
 */
export function armCues(
  voxels: Voxels,
  own: ArmReading,
  other: ArmReading | undefined,
  side: 'left' | 'right',
  height: number,
): Cue[] {
  const cues: Cue[] = []
  const whole = other && !own.holds && !other.holds ? other : undefined
  const weights = [own, ...(whole ? [whole] : [])].map(r => ({ r, w: 0.15 + r.wrist.evidence }))
  const wrist = weights.reduce((s, { r, w }) => s + w * r.wrist.share, 0) / weights.reduce((s, { w }) => s + w, 0)
  const evidence = maxOf(weights.map(({ r }) => r.wrist.evidence))
  // lengths that disagree say that one of them is no whole arm
  const odd = whole ? 1 + 2 * Math.min(1, Math.abs(own.length - whole.length) / (0.06 * height)) : 1.5
  cues.push({
    id: `${side}Shoulder`,
    at: own.shoulder,
    spread: own.shoulderSpread * Math.sqrt(odd),
    along: own.upperArm,
    alongSpread: 1.4 * own.shoulderSpread * odd,
    beyondSpread: own.opened ? undefined : 0.25 * height,
  })
  const e = elbowShare(own, wrist)
  const elbow = armPoint(voxels, own, e.share, height)
  cues.push({
    id: `${side}Elbow`,
    at: elbow.at,
    spread: (own.opened ? 0.008 : 0.03) * height,
    along: elbow.along,
    alongSpread: e.doubt * own.length * odd,
    beyondSpread: own.opened ? undefined : e.doubt * own.length * odd + 0.12 * height,
  })
  if (own.holds) {
    // what is held hides the fingers; the fist is where it joins
    cues.push({ id: `${side}HandTip`, at: own.tip, spread: 0.05 * height })
    return cues
  }
  const w = armPoint(voxels, own, wrist, height)
  cues.push({
    id: `${side}Wrist`,
    at: w.at,
    spread: (own.opened ? 0.008 : 0.016) * height,
    along: w.along,
    alongSpread: (0.012 + 0.025 * (1 - evidence)) * odd * height,
    // a share of an arm that is not seen whole is too small
    beyondSpread: own.opened ? undefined : 0.08 * height,
  })
  cues.push({ id: `${side}HandTip`, at: own.tip, spread: 0.012 * odd * height })
  return cues
}
