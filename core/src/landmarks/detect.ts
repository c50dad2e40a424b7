import { breather, ChiraxisError, maxOf, minOf, partOf, type WorkOptions } from '../math'
import { geodesics, nearestSolid, voxelize, type Mesh, type Voxels } from '../mesh'
import { armCues, readArm, type ArmReading } from './arms'
import { landmarksByProportion } from './by-proportion'
import { extremities, type Extremity } from './extremities'
import type { Landmark } from './landmark'
import { largestPiece } from './largest-piece'
import { findFork, legCues, readLeg, type LegReading } from './legs'
import { likelyFigure, type Figure } from './likely-figure'
import { rowPatches, type Patch } from './rows'
import { findNeck, midColumn, trunkCues, type ShoulderHeight } from './trunk'
import { hiddenArmCues, twinArmCues } from './unseen-arms'

export interface DetectOptions extends WorkOptions {
  /** Cells along the height of the body. Default 176: about a centimetre on an adult. */
  readonly cells?: number
}
export const DETECT_DEFAULTS = { cells: 176 } as const

/** A limb counts as seen from this share of height on. */
const LEAST_ARM = 0.1
/** How much less deep than a large head the trunk under it is, at most. */
const TRUNK_DEPTH = 0.5
/** How much narrower than head and shoulders a neck is that tells ends on the head from arms. */
const SURE_NECK = 1.5
/** How many times narrower than head and shoulders a neck that is surely one is. */
const CLEAR_NECK = 1.2
/** Shoulders that are told so well, as a share of height, are taken as known. */
const SURE_SHOULDER = 0.03
/** From this slope of the thighs on a body crouches. */
const CROUCH = 0.35

/**
 * Finds the biped landmarks of a straightened body from its own solid shape: ends as persistent peaks of geodesic
 * distance from the pelvis, limb centrelines from its levels, cuts across them for the thinnest places and the middle
 * of the limb, rows for the fork of the legs and the neck. All that is told is joined with usual proportions into the
 * likeliest figure, so that what cannot be seen is proposed, with little confidence.
 * @throws ChiraxisError `not-a-biped` where nothing of a standing figure is seen
 */
export async function detectFigure(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  options: DetectOptions = {},
): Promise<Figure> {
  const cells = options.cells ?? DETECT_DEFAULTS.cells
  const pulse = breather(options)
  const solid = await voxelize(mesh.positions, mesh.indices, { ...partOf(options, 0, 0.4), cells })
  await pulse(0.4)
  const voxels = largestPiece(solid)
  await pulse(0.4)
  const rows = rowPatches(voxels)
  const filled = rows.filter(r => r.length > 0)
  if (voxels.cells.length < 400 || filled.length < 20) throw notBiped('it encloses too little volume')
  const ground = filled[0][0].y
  const height = filled[filled.length - 1][0].y - ground
  const fork = findFork(voxels, height)
  const core = coreCell(voxels, rows, Math.min(0.6 * height, fork.sure + 0.05 * height))
  if (core < 0) throw notBiped('there is nothing solid where the pelvis should be')
  const { distance: field } = await geodesics(voxels, [{ cell: core, label: 0 }], partOf(options, 0.4, 0.75))
  const ends = await extremities(voxels, field, 0.07 * height, 0.1 * height, {
    ...options,
    far: 0.25 * height,
    thinnest: 0.0015 * height * height,
  })
  await pulse(0.78)

  const column = midColumn(rows, height)
  const seen = findNeck(column, height, undefined)
  // what parts from a head is horns, hair or a brim
  const hands = handsOf(
    ends.filter(e => !(seen && seen.clear > SURE_NECK && e.root[1] > seen.row.y && onHead(e, column, fork.y))),
    height,
  )
  const read = async (end: Extremity | undefined): Promise<ArmReading | undefined> =>
    end && readArm(voxels, field, end, height, mesh.positions, options)
  const arms = { left: await read(hands.left), right: await read(hands.right) }
  await pulse(0.9)
  const legs = { left: readLeg(rows, fork, height, 1), right: readLeg(rows, fork, height, -1) }
  const told = shoulderHeight(arms)
  const known = told && told.spread < SURE_SHOULDER * height ? told.y : undefined
  const neck = told === undefined ? seen : findNeck(column, height, told)
  const shoulderY = known ?? (neck ? neck.row.y - 0.045 * height : 0.79 * height)
  const walks = fork.clear && legs.left && legs.right
  const signs = [arms.left, arms.right, neck && neck.clear > CLEAR_NECK]
  if (!walks && signs.filter(Boolean).length < 2 && !standsLikeSomebody(filled, height))
    throw notBiped('neither limbs nor a head were found')

  const cues = trunkCues(
    column,
    neck,
    height,
    { y: shoulderY, told: known !== undefined || neck !== undefined },
    crouching(legs),
  )
  for (const [side, sign] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    const arm = arms[side],
      leg = legs[side]
    const twin = arms[sign > 0 ? 'right' : 'left']
    if (arm) cues.push(...armCues(voxels, arm, twin, side, height))
    else {
      const like = twin ? twinArmCues(mesh, twin, armCues(voxels, twin, undefined, side, height), height) : []
      cues.push(...(like.length > 0 ? like : hiddenArmCues(rows, shoulderY, height, sign)))
    }
    if (leg) cues.push(...legCues(leg, fork, side, height))
  }
  await pulse(0.95)
  const usual = landmarksByProportion(mesh.positions, 'biped')
  let found = likelyFigure(cues, usual, height)
  // what stands above the head, hands or horns, is not what proportions are shares of
  const tall = found.landmarks.find(l => l.id === 'crown')!.position[1]
  if (tall > 0.5 * height && tall < 0.94 * height) found = likelyFigure(cues, usual, tall)
  options.onProgress?.(1)
  return found
}

/** The landmarks of that figure alone. */
export const detectLandmarks = async (
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  options: DetectOptions = {},
): Promise<Landmark[]> => (await detectFigure(mesh, options)).landmarks

/** What covers a figure all around still stands as tall as one, and ends in something narrower than the rest. */
function standsLikeSomebody(rows: readonly (readonly Patch[])[], height: number): boolean {
  const widths = rows.map(r => maxOf(r.map(p => Math.max(p.maxX - p.minX, p.maxZ - p.minZ))))
  const head = widths[Math.floor(0.95 * (widths.length - 1))]
  return maxOf(widths) < 0.7 * height && head < 0.8 * maxOf(widths)
}

/** The solid cell the ways through the body are measured from: in the thickest patch near the midline at a height. */
function coreCell(voxels: Voxels, rows: readonly (readonly Patch[])[], y: number): number {
  const row = rows.filter(r => r.length > 0).reduce((a, b) => (Math.abs(b[0].y - y) < Math.abs(a[0].y - y) ? b : a))
  const patch = row.reduce((a, b) => (b.count / (1 + 40 * b.x * b.x) > a.count / (1 + 40 * a.x * a.x) ? b : a))
  return nearestSolid(voxels, [patch.minX * patch.maxX < 0 ? 0 : patch.x, y, patch.z], 14)
}

/** Whether both thighs lean well back from the knees. */
const crouching = ({ left, right }: { left?: LegReading; right?: LegReading }): boolean =>
  left !== undefined && right !== undefined && Math.max(left.slope, right.slope) < -CROUCH

/** How high the shoulder joints are, as far as arms tell it, and how far off that may be. */
function shoulderHeight({ left, right }: { left?: ArmReading; right?: ArmReading }): ShoulderHeight | undefined {
  const arms = [left, right].filter(a => a !== undefined)
  if (arms.length === 0) return undefined
  const weights = arms.map(a => 1 / a.shoulderSpread ** 2)
  const all = weights.reduce((a, b) => a + b, 0)
  return {
    y: arms.reduce((sum, a, i) => sum + weights[i] * a.shoulder[1], 0) / all,
    spread: minOf(arms.map(a => a.shoulderSpread)),
  }
}

/** Whether an end parts from a head far deeper than the trunk below, as horns, hair and brims of drawn figures do. */
function onHead({ root }: Extremity, column: readonly Patch[], fork: number): boolean {
  const deep = (from: number, to: number): number[] =>
    column.filter(p => p.y > from && p.y < to).map(p => p.maxZ - p.minZ)
  const reach = 0.12 * root[1]
  // the least deep there: beside a shoulder that may be a neck, inside a head it is the head
  const head = minOf(deep(root[1] - reach, root[1]))
  const trunk = deep(fork + reach, root[1] - reach).sort((a, b) => a - b)
  return head < Infinity && trunk.length > 0 && trunk[trunk.length >> 2] < TRUNK_DEPTH * head
}

/** The ends that can be hands: the longest on either side above the feet that are not the head or what it wears. */
function handsOf(ends: readonly Extremity[], height: number): { left?: Extremity; right?: Extremity } {
  const head = ends
    .filter(e => e.tip[1] > 0.75 * height && Math.abs(e.tip[0]) < 0.13 * height)
    .sort((a, b) => Math.abs(a.tip[0]) - Math.abs(b.tip[0]))[0]
  const side = (s: 1 | -1): Extremity | undefined => {
    const own = ends.filter(
      e => e !== head && e.tip[0] * s > 0.07 * height && e.tip[1] >= 0.13 * height && e.long > LEAST_ARM * height,
    )
    const most = maxOf(
      own.map(e => e.long),
      0,
    )
    // horns and brims part from the body higher up than arms do
    return own.filter(e => e.long > 0.5 * most).sort((a, b) => a.joinsAt - b.joinsAt)[0]
  }
  const left = side(1),
    right = side(-1)
  if (!left || !right) return { left, right }
  // arms of one body are about as long; a stump beside a whole arm is a sleeve or something worn
  if (left.long < 0.35 * right.long) return { right }
  if (right.long < 0.35 * left.long) return { left }
  return { left, right }
}

function notBiped(why: string): ChiraxisError {
  return new ChiraxisError(
    'not-a-biped',
    `This body does not look like a standing figure with two arms and two legs: ${why}. If it lies or stands on its head, set its up axis in Shape.`,
  )
}
