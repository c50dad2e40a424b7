import { addScaled, distance, dot, lerp, normalize, sub, type Vec3 } from '../math'
import type { Voxels } from '../mesh'
import type { Extremity } from './extremities'
import { bendOf, cutLimb, fitLine, levelCentres, lineLength, resampleLine, smoothLine, type LimbCut } from './limb'
import { limbCells } from './limb-cells'

/** What one arm tells before both sides are weighed together. */
export interface ArmReading {
  readonly tip: Vec3
  /** Even points from the tip to the shoulder, with their cuts. */
  readonly line: readonly Vec3[]
  readonly cuts: readonly (LimbCut | undefined)[]
  readonly length: number
  readonly shoulder: Vec3
  readonly shoulderConfidence: number
  /** Share of the arm's length from the tip, and how clearly the shape shows it. */
  readonly wrist: { readonly share: number; readonly evidence: number }
}

const POINTS = 60

/** Shares of the whole arm seen on people and on stylised figures. */
const HAND_SHARE = { mean: 0.262, deviation: 0.04 }
const ELBOW_SHARE = { mean: 0.53, deviation: 0.025 }

/** Reads the arm that ends in `end`. `side` is +1 for the left. */
export function readArm(voxels: Voxels, distanceField: Float32Array, end: Extremity, height: number, positions: Float32Array): ArmReading | undefined {
  const cells = limbCells(voxels, distanceField, end)
  if (cells.length < 20) return undefined
  let line = levelCentres(voxels, distanceField, cells, 2 * voxels.size)
  if (line.length < 6) return undefined
  line = smoothLine([end.tip, ...line.slice(1)], 4)
  const reach = 0.1 * height

  // the upper arm's straight line, carried inwards to where cuts open into the trunk
  const forearm = line[Math.floor(line.length * 0.5)], hand = line[Math.floor(line.length * 0.24)]
  const tip = reachOf(positions, end.tip, normalize(sub(hand, forearm)), voxels.size, height)
  line[0] = tip
  const total = lineLength(line)
  const dense = resampleLine(line, POINTS)
  const upper = dense.slice(Math.floor(POINTS * 0.55), Math.floor(POINTS * 0.88))
  let axis = fitLine(upper)
  const centred = upper.map(p => cutLimb(voxels, p, axis.direction, reach)?.centre ?? p)
  axis = fitLine(centred)
  const areas = centred.map(p => cutLimb(voxels, p, axis.direction, reach)?.area ?? 0).sort((a, b) => a - b)
  const typical = areas[areas.length >> 1]
  const start = centred[0]
  let inward = 0
  let opened = false
  const step = voxels.size * 0.5
  for (; inward < 0.75 * total; inward += step) {
    const cut = cutLimb(voxels, addScaled(start, axis.direction, inward), axis.direction, 0.2 * height)
    if (!cut) break
    if (cut.area > 1.68 * typical) {
      opened = true
      break
    }
  }
  const radius = Math.sqrt(typical / Math.PI)
  const armpit = addScaled(start, axis.direction, inward)
  const shoulder = addScaled(armpit, axis.direction, 0.58 * radius)

  const whole = resampleLine([...line.filter(p => dot(sub(p, shoulder), axis.direction) < -0.5 * radius), shoulder], POINTS)
  let cuts: (LimbCut | undefined)[] = []
  let centres = whole
  for (let round = 0; round < 2; round++) {
    cuts = centres.map((p, i) => {
      const d = normalize(sub(centres[Math.min(POINTS - 1, i + 2)], centres[Math.max(0, i - 2)]))
      return cutLimb(voxels, p, d, reach)
    })
    centres = centres.map((p, i) => (i === 0 || i > POINTS * 0.92 ? p : cuts[i]?.centre ?? p))
    centres = resampleLine(smoothLine(centres, 2), POINTS)
  }
  const length = lineLength(centres)
  return {
    tip, line: centres, cuts, length, shoulder,
    shoulderConfidence: opened ? 0.93 : 0.45,
    wrist: thinnest(cuts),
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
    const x = positions[i] - tip[0], y = positions[i + 1] - tip[1], z = positions[i + 2] - tip[2]
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
    let s = 0, w = 0
    for (let d = -2; d <= 2; d++) {
      const v = size[i + d]
      if (v === undefined || v === 0) continue
      const g = Math.exp(-d * d / 2)
      s += v * g
      w += g
    }
    return w > 0 ? s / w : 0
  })
  const median = [...smooth.slice(Math.floor(n * 0.35), Math.floor(n * 0.85))].sort((a, b) => a - b)[Math.floor(n * 0.25)] || 1
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
  const palm = Math.max(...smooth.slice(Math.floor(n * (share - 0.16)), Math.floor(n * share)), 0)
  const at = smooth[Math.round(share * (n - 1))] || 1
  return { share, evidence: Math.min(1, Math.max(0, (palm / at - 1) / 0.6)) }
}

/** The elbow between wrist and shoulder: from the bend where there is one, else from proportion. */
export function elbowShare(reading: ArmReading, wristShare: number): { share: number; confidence: number } {
  const from = Math.round(wristShare * (POINTS - 1))
  const line = reading.line.slice(from)
  const length = lineLength(line)
  const bend = bendOf(line, 0.34, 0.62)
  // the place of a bend is known the better the sharper it is against the noise of the centreline
  const doubt = Math.min(0.2, (2.2 * Math.max(bend.deviation, 0.0012 * length)) / (Math.max(1e-3, Math.sin(bend.angle)) * length))
  const wBend = 1 / (doubt * doubt + 0.0004)
  const wUsual = 1 / ELBOW_SHARE.deviation ** 2
  // measured from the wrist; proportion is told from the shoulder
  const share = (bend.share * wBend + (1 - ELBOW_SHARE.mean) * wUsual) / (wBend + wUsual)
  return { share: wristShare + (1 - wristShare) * share, confidence: 0.7 + 0.27 * Math.min(1, wBend / (wBend + wUsual)) }
}

/** The point at a share of the way from the tip to the shoulder, centred in the limb. */
export function armPoint(voxels: Voxels, reading: ArmReading, share: number, height: number): Vec3 {
  const at = share * (POINTS - 1)
  const i = Math.min(POINTS - 2, Math.floor(at))
  const p = lerp(reading.line[i], reading.line[i + 1], at - i)
  const d = normalize(sub(reading.line[Math.min(POINTS - 1, i + 3)], reading.line[Math.max(0, i - 2)]))
  const cut = cutLimb(voxels, p, d, 0.1 * height)
  return cut && distance(cut.centre, p) < 0.03 * height ? cut.centre : p
}
