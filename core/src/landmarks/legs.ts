import { addScaled, distance, dot, lerp, maxOf, minOf, normalize, sub, type Vec3 } from '../math'
import { bendOf, fitLine, pointOn, resampleLine, smoothLine } from './limb'
import type { Voxels } from '../mesh'
import type { Cue } from './likely-figure'
import type { Patch } from './rows'

/** Where the legs part, and how clearly. */
export interface Fork {
  readonly y: number
  /** Up to where they part beyond doubt: the fork or below it. */
  readonly sure: number
  readonly clear: boolean
  /** Whether daylight shows between the legs up to it; where thighs touch or cloth hangs, the true fork lies higher. */
  readonly open: boolean
  /** Whether the body is about as large above it as the legs are below: else it is a hem, and the fork is hidden. */
  readonly flesh: boolean
}

/**
 * The fork of the legs: the highest row in which the body is still waisted at the midline. Thighs that
 * touch make one patch, but their depth at the midline stays well under that of either thigh.
 */
export function findFork(voxels: Voxels, height: number): Fork {
  const [nx, ny, nz] = voxels.counts
  const mid = -voxels.origin[0] / voxels.size
  const columns = (from: number, to: number): number[] => {
    const list: number[] = []
    for (let i = 0; i < nx; i++) {
      const off = (Math.abs(i - mid) * voxels.size) / height
      if (off >= from && off <= to) list.push(i)
    }
    return list
  }
  const centre = columns(0, 0.008)
  const sides = columns(0.025, 0.11)
  const depthAt = (i: number, j: number): number => {
    let n = 0
    for (let k = 0; k < nz; k++) if (voxels.slot[i + nx * (j + ny * k)] >= 0) n++
    return n
  }
  const base = voxels.origin[1]
  const area: number[] = []
  let fork = 0
  let sure = 0
  let daylight = 0
  let parted = 0
  let closed = 0
  for (let j = 1; j < ny; j++) {
    const y = base + j * voxels.size
    if (y < 0.04 * height) continue
    if (y > 0.7 * height) break
    const side = maxOf(sides.map(i => depthAt(i, j)))
    if (side === 0) continue
    area[j] = solidIn(voxels, j)
    const filled = maxOf(centre.map(i => depthAt(i, j)))
    if (filled === 0) daylight = y
    const ratio = filled / side
    if (ratio < PARTED) {
      // a waist high above the first closed rows is a belly button, not a fork
      if (closed > (0.03 * height) / voxels.size) break
      fork = y
      if (ratio < SURELY_PARTED) sure = y
      closed = 0
      parted++
    } else closed++
  }
  if (parted < 5 || fork <= 0.08 * height) {
    const y = 0.46 * height
    return { y, sure: y, clear: false, open: false, flesh: false }
  }
  const row = Math.round((fork - base) / voxels.size)
  const step = Math.max(2, Math.round((0.025 * height) / voxels.size))
  const below = area[row - step] ?? 0,
    above = area[row + step] ?? below
  return {
    y: fork,
    sure: sure || fork,
    clear: true,
    open: fork - daylight < 0.025 * height,
    flesh: above < 1.45 * below,
  }
}

/**
 * How deep a body is at the midline, beside its deepest at either side, where it still counts as parted: thick thighs
 * run into one another far below their fork, and clefts go on a little above it.
 */
const PARTED = 0.8
const SURELY_PARTED = 0.66

/** Solid cells of a row no farther from the midline than legs stand. */
function solidIn({ counts, slot, origin, size }: Voxels, j: number): number {
  const [nx, ny, nz] = counts
  const reach = 0.17 * ny * size
  let n = 0
  for (let k = 0; k < nz; k++)
    for (let i = 0; i < nx; i++) if (Math.abs(origin[0] + i * size) < reach && slot[i + nx * (j + ny * k)] >= 0) n++
  return n
}

/** What one leg tells. */
export interface LegReading {
  readonly hip: Vec3
  readonly ankle: Vec3
  readonly toes: Vec3
  readonly toeTip: Vec3
  /** From hip to ankle. */
  readonly line: readonly Vec3[]
  /** Where it bends, as a share from hip to ankle, and how far off that may be. */
  readonly knee: { readonly share: number; readonly doubt: number; readonly at: Vec3 }
  readonly footSeen: boolean
  /** How far the thigh goes ahead for each metre it rises: below 0 where knees are bent. */
  readonly slope: number
}

/** Reads one leg from its patches. `side` is +1 for the left. */
export function readLeg(rows: readonly Patch[][], fork: Fork, height: number, side: 1 | -1): LegReading | undefined {
  const leg: Patch[] = []
  for (const row of rows) {
    if (row.length === 0 || row[0].y > fork.y) continue
    const mine = row
      .filter(p => p.count > 3)
      .map(p => halfOf(p, side))
      .filter(p => p.x * side > 0)
    if (mine.length === 0) continue
    // arms hanging below the fork are farther out than legs
    leg.push(mine.reduce((a, b) => (Math.abs(b.x) < Math.abs(a.x) && b.count > 0.25 * a.count ? b : a)))
  }
  if (leg.length < 12) return undefined
  const ground = leg[0].y
  const legHeight = fork.y - ground
  const at = (y: number): Patch => leg.reduce((a, b) => (Math.abs(b.y - y) < Math.abs(a.y - y) ? b : a))

  // the instep: where the depth of the row has shrunk from foot to shin
  const shin = at(ground + 0.26 * legHeight)
  const shinDepth =
    median(
      leg.filter(p => p.y > ground + 0.16 * legHeight && p.y < ground + 0.32 * legHeight).map(p => p.maxZ - p.minZ),
    ) || shin.maxZ - shin.minZ
  const foot = leg.filter(p => p.y < ground + 0.05 * legHeight)
  const heelZ = minOf(foot.map(p => p.minZ))
  const toeZ = maxOf(foot.map(p => p.maxZ))
  const footLength = toeZ - heelZ
  const sole = leg
    .filter(p => p.y < ground + 0.2 * legHeight)
    .reduce((a, b) => (b.maxZ - b.minZ > a.maxZ - a.minZ ? b : a))
  let instep = ground + 0.14 * legHeight
  for (const p of leg) {
    if (p.y <= sole.y) continue
    if (p.y > ground + 0.3 * legHeight) break
    instep = p.y
    if (p.maxZ - p.minZ < shinDepth + 0.22 * (footLength - shinDepth)) break
  }
  const seen = footLength > 1.35 * shinDepth
  const usual = ground + 0.31 * footLength
  const ankleY = seen ? 0.5 * usual + 0.5 * (ground + 0.78 * (instep - ground)) : usual
  const low = leg.filter(p => p.y > instep + 0.01 * legHeight && p.y < instep + 0.16 * legHeight)
  const shaft = low.length > 2 ? low : [at(instep)]
  const axis = fitLine(
    shaft.length > 2
      ? shaft.map(p => [p.x, p.y, p.z] as Vec3)
      : [
          [shin.x, instep, shin.z],
          [shin.x, instep + 0.1, shin.z],
        ],
  )
  const slope = (k: 0 | 2): number => Math.max(-0.3, Math.min(0.3, axis.direction[k] / (axis.direction[1] || 1)))
  const ankle: Vec3 = [
    axis.point[0] + slope(0) * (ankleY - axis.point[1]),
    ankleY,
    axis.point[2] + slope(2) * (ankleY - axis.point[1]),
  ]

  // the foot's own direction, from the middle of its back half to that of its front half
  const quarter = footMiddles(leg, ground, ankleY)
  const ballZ = heelZ + 0.74 * footLength
  const slopeX = (quarter.front - quarter.back) / Math.max(1e-6, 0.5 * footLength)
  const footX = (z: number): number => quarter.back + slopeX * (z - (heelZ + 0.25 * footLength))
  const toes: Vec3 = [footX(ballZ), ground + 0.33 * (ankleY - ground), ballZ]
  const toeTip: Vec3 = [footX(toeZ), ground + 0.25 * (ankleY - ground), toeZ - 0.02 * footLength]

  // the hip joint: up the thigh's own line, above the fork
  const thigh = leg.filter(p => p.y > ground + 0.6 * legHeight && p.y < ground + 0.95 * legHeight)
  const thighAxis = fitLine(thigh.map(p => [p.x, p.y, p.z] as Vec3))
  const rise = (k: 0 | 2): number =>
    Math.max(k === 2 ? -BENT_MOST : -0.25, Math.min(0.25, thighAxis.direction[k] / (thighAxis.direction[1] || 1)))
  const bent = Math.hypot(1, Math.min(0, rise(2) + STANDING_SLOPE))
  const hipY = fork.y + HIP_ABOVE_FORK * legHeight * bent
  const hip: Vec3 = [
    thighAxis.point[0] + rise(0) * (hipY - thighAxis.point[1]),
    hipY,
    thighAxis.point[2] + rise(2) * (hipY - thighAxis.point[1]),
  ]

  const middles = leg
    .filter(p => p.y > instep && p.y < fork.y - 0.02 * legHeight)
    .map(p => [p.x, p.y, p.z] as Vec3)
    .reverse()
  const line = resampleLine(smoothLine([hip, ...middles, ankle], 3), 60)
  const bend = kneeBend(line, height)
  const knee = { ...bend, at: bend.angle > CORNER ? cornerOf(line, bend.share) : pointOn(line, bend.share) }
  return {
    hip,
    ankle,
    toes,
    toeTip,
    line,
    knee,
    footSeen: seen,
    slope: rise(2),
  }
}

/** A thigh in a crouch goes back by so much for each metre it rises, at most. */
const BENT_MOST = 1.6
/**
 * The hip joint lies above the fork by this share of the fork's height: about 0.047 of stature (joint centres after
 * de Leva 1996 at 0.525, the crotch at 0.478 in surveys of adults).
 */
const HIP_ABOVE_FORK = 0.098

/** How a thigh may slope and still be that of somebody who stands. */
const STANDING_SLOPE = 0.25
/** From this bend on, radians, a line through the middles of rows cuts the corner of the knee. */
const CORNER = 0.35

/** Where two straight runs of a bent line come nearest to one another. */
function cornerOf(line: readonly Vec3[], share: number): Vec3 {
  const split = Math.round(share * (line.length - 1))
  const gap = Math.round(0.08 * line.length)
  const a = fitLine(line.slice(2, split - gap))
  const b = fitLine(line.slice(split + gap, -2))
  const between = sub(b.point, a.point)
  const [ab, da, db] = [dot(a.direction, b.direction), dot(between, a.direction), dot(between, b.direction)]
  const s = (da - ab * db) / (1 - ab * ab)
  const t = (ab * da - db) / (1 - ab * ab)
  return lerp(addScaled(a.point, a.direction, s), addScaled(b.point, b.direction, t), 0.5)
}

/** The bend of a leg seen from the side, between hip and ankle. */
function kneeBend(line: readonly Vec3[], height: number): { share: number; doubt: number; angle: number } {
  const bend = bendOf(line, 0.36, 0.62)
  const doubt = Math.min(
    0.2,
    0.03 + (3 * Math.max(bend.deviation, 0.0012 * height)) / (Math.max(1e-3, Math.sin(bend.angle)) * 0.45 * height),
  )
  return { share: bend.share, doubt, angle: bend.angle }
}

/** What one leg says of its landmarks. */
export function legCues(leg: LegReading, fork: Fork, side: 'left' | 'right', height: number): Cue[] {
  const thigh = normalize(sub(leg.line[0], leg.line[Math.floor(0.4 * leg.line.length)]))
  const knee = leg.knee.at
  const [upper, next] = [-0.06, 0.06].map(d => pointOn(leg.line, Math.min(1, leg.knee.share + d)))
  const foot = leg.footSeen ? 1 : 2.5
  return [
    {
      id: `${side}Hip`,
      at: leg.hip,
      spread: (!fork.clear ? 0.04 : fork.flesh ? 0.014 : 0.03) * height,
      along: thigh,
      alongSpread: (fork.flesh ? 0.022 : fork.clear ? 0.035 : 0.09) * height,
      // under a hem, and where thighs touch, the fork is higher than it shows
      beyondSpread: (!fork.clear ? 0.09 : !fork.flesh ? 0.5 : fork.open ? 0.03 : 0.08) * height,
    },
    {
      id: `${side}Knee`,
      at: knee,
      spread: (fork.clear ? 0.009 : 0.03) * height,
      along: normalize(sub(next, upper)),
      // a share of a leg as long as they usually are: one read too short knows little of its knee
      alongSpread: Math.max(
        leg.knee.doubt * Math.max(distance(leg.hip, leg.ankle), 0.4 * height),
        (fork.flesh ? 0 : 0.12) * height,
      ),
    },
    {
      id: `${side}Ankle`,
      at: leg.ankle,
      spread: 0.009 * foot * height,
      along: [0, 1, 0],
      alongSpread: 0.012 * foot * height,
    },
    { id: `${side}Toes`, at: leg.toes, spread: 0.013 * foot * height },
    { id: `${side}ToeTip`, at: leg.toeTip, spread: 0.012 * foot * height },
  ]
}

function footMiddles(leg: readonly Patch[], ground: number, ankleY: number): { back: number; front: number } {
  // rows near the ground reach over the whole foot; higher ones only over its back
  const lowRows = leg.filter(p => p.y < ground + 0.5 * (ankleY - ground))
  const mean = (list: readonly number[]): number => list.reduce((a, b) => a + b, 0) / Math.max(1, list.length)
  const whole = mean(lowRows.map(p => p.x))
  const back = leg.filter(p => p.y >= ankleY * 0.9 && p.y < ankleY * 1.4)
  const backX = back.length > 0 ? mean(back.map(p => p.x)) : whole
  // the centre of the low rows lies half way along the foot; the shank stands over its back quarter
  const slope = (whole - backX) / Math.max(1e-6, 0.5 - 0.3)
  return { back: backX - slope * 0.05, front: backX + slope * 0.45 }
}

function median(values: number[]): number {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted[sorted.length >> 1]
}

/** One leg's half of a patch that holds both where the thighs touch. */
function halfOf(p: Patch, side: 1 | -1): Patch {
  if (p.minX >= 0 || p.maxX <= 0 || Math.min(-p.minX, p.maxX) < 0.25 * Math.max(-p.minX, p.maxX)) return p
  return side > 0
    ? { ...p, minX: 0, x: p.maxX / 2, count: p.count / 2 }
    : { ...p, maxX: 0, x: p.minX / 2, count: p.count / 2 }
}
