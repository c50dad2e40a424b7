import { breather, ChiraxisError, distance, partOf, type Vec3, type WorkOptions } from '../math'
import { depthOf, geodesics, nearestSolid, voxelize, type Mesh } from '../mesh'
import { armPoint, elbowShare, readArm, type ArmReading } from './arms'
import { extremities, type Extremity } from './extremities'
import { BIPED_LANDMARKS, type Landmark } from './landmark'
import { findFork, legPoint, readLeg, type Fork } from './legs'
import { largestPiece } from './largest-piece'
import { rowPatches } from './rows'
import { readTrunk } from './trunk'

export interface DetectOptions extends WorkOptions {
  /** Cells along the height of the body. Default 176: about a centimetre on an adult. */
  readonly cells?: number
}
export const DETECT_DEFAULTS = { cells: 176 } as const

/**
 * Finds the biped landmarks of a straightened body from its own solid shape: ends as persistent peaks
 * of geodesic distance from the pelvis, limb centrelines from its levels, cuts across them for the
 * thinnest places and the middle of the limb, rows for the fork of the legs and the neck; where the
 * shape is silent, usual proportions, with a lower confidence.
 * @throws ChiraxisError `not-a-biped` where the body has no head, two arms and two legs to speak of
 */
export async function detectLandmarks(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  options: DetectOptions = {},
): Promise<Landmark[]> {
  const cells = options.cells ?? DETECT_DEFAULTS.cells
  const pulse = breather(options)
  const solid = await voxelize(mesh.positions, mesh.indices, { ...partOf(options, 0, 0.4), cells })
  await pulse(0.4)
  const voxels = largestPiece(solid)
  await pulse(0.4)
  const rows = rowPatches(voxels)
  const filled = rows.filter(r => r.length > 0)
  if (voxels.cells.length < 400 || filled.length < 20) throw notBiped('it encloses too little volume')
  const height = filled[filled.length - 1][0].y - filled[0][0].y
  const fork = findFork(voxels, height)
  const middleZ = voxels.origin[2] + (voxels.counts[2] / 2) * voxels.size
  const core =
    [0, middleZ]
      .map(z => nearestSolid(voxels, [0, fork.y + 0.05 * height, z], Math.ceil(cells * 0.08)))
      .find(c => c >= 0) ?? -1
  if (core < 0) throw notBiped('there is nothing solid where the pelvis should be')
  const field = await geodesics(voxels, [{ cell: core, label: 0 }], partOf(options, 0.4, 0.8))
  const ends = classify(await extremities(voxels, field.distance, 0.07 * height, 0.1 * height, options), height)
  await pulse(0.8)

  const readings = {
    left: await readArm(voxels, field.distance, ends.leftHand, height, mesh.positions, options),
    right: await readArm(voxels, field.distance, ends.rightHand, height, mesh.positions, options),
  }
  const left = readings.left
  const right = readings.right
  if (!left || !right) throw notBiped('an arm could not be followed')
  await pulse(0.9)
  let legs = [readLeg(rows, fork, height, 1), readLeg(rows, fork, height, -1)] as const
  const hidden = hiddenFork(
    legs.map(l => l?.hip[1]),
    (left.shoulder[1] + right.shoulder[1]) / 2,
    height,
  )
  if (hidden) legs = [readLeg(rows, hidden, height, 1), readLeg(rows, hidden, height, -1)]
  if (!legs[0] || !legs[1]) throw notBiped('two legs could not be followed to the ground')
  checkProportions([left, right], [legs[0].hip, legs[1].hip], height)

  // both sides are one body: what one shows clearly helps the other, as shares and never as places
  const wristW = [0.15 + left.wrist.evidence, 0.15 + right.wrist.evidence]
  const wrist = (left.wrist.share * wristW[0] + right.wrist.share * wristW[1]) / (wristW[0] + wristW[1])
  const elbows = [elbowShare(left, wrist), elbowShare(right, wrist)]
  const elbow = (elbows[0].share + elbows[1].share) / 2
  const knee = (legs[0].knee.share + legs[1].knee.share) / 2
  const armsAlike = 1 - Math.min(1, Math.abs(left.length - right.length) / (0.06 * height))
  // hips far from where they usually are may be a hem or a belt; whatever is told from them is less sure too
  const oddness = Math.max(
    0,
    Math.abs(
      (legs[0].hip[1] + legs[1].hip[1]) / 2 / usualHips((left.shoulder[1] + right.shoulder[1]) / 2, height) - 1,
    ) - 0.06,
  )
  const usual = Math.max(0.4, 1 - 2.4 * oddness)
  const found: Landmark[] = readTrunk(rows, height, [left.shoulder, right.shoulder], [legs[0].hip, legs[1].hip]).map(
    l => (l.id === 'hips' || l.id === 'chest' ? { ...l, confidence: l.confidence * usual * (hidden ? 0.7 : 1) } : l),
  )
  await pulse(0.93)
  const depth = depthOf(voxels)
  await pulse(0.97)
  const inside = (p: Vec3): number => {
    const s = nearestSolid(voxels, p, 3)
    return s >= 0 && depth[s] > 0.006 * height ? 1 : 0.75
  }
  const sides: [string, ArmReading, (typeof legs)[0]][] = [
    ['left', left, legs[0]],
    ['right', right, legs[1]],
  ]
  sides.forEach(([side, arm, leg], i) => {
    const put = (part: string, position: Vec3, confidence: number): void => {
      found.push({ id: side + part, position, confidence: Math.max(0.05, Math.min(0.99, confidence)) })
    }
    put('Shoulder', arm.shoulder, arm.shoulderConfidence * inside(arm.shoulder) * (0.7 + 0.3 * armsAlike))
    const e = armPoint(voxels, arm, elbow, height)
    put('Elbow', e, elbows[i].confidence * inside(e) * (0.75 + 0.25 * armsAlike))
    const w = armPoint(voxels, arm, wrist, height)
    put('Wrist', w, (0.62 + 0.35 * arm.wrist.evidence) * (0.75 + 0.25 * armsAlike))
    put('HandTip', arm.tip, 0.95)
    put('Hip', leg!.hip, leg!.confidence * 0.95 * inside(leg!.hip) * usual)
    const k = legPoint(leg!, knee)
    put('Knee', k, leg!.knee.confidence * (leg!.confidence > 0.6 ? 1 : 0.7) * Math.sqrt(usual))
    put('Ankle', leg!.ankle, 0.6 + 0.34 * leg!.ankleEvidence)
    put('Toes', leg!.toes, 0.55 + 0.33 * leg!.ankleEvidence)
    put('ToeTip', leg!.toeTip, 0.93)
  })
  options.onProgress?.(1)
  return BIPED_LANDMARKS.map(kind => found.find(f => f.id === kind.id)!)
}

/**
 * A fork far below where legs can begin is the hem of a skirt or a coat: the legs then start at the usual
 * share of shoulder height, and say that they are a guess.
 */
function hiddenFork(hips: readonly (number | undefined)[], shoulderY: number, height: number): Fork | undefined {
  const known = hips.filter(y => y !== undefined)
  const hipY = known.reduce((s, y) => s + y, 0) / Math.max(1, known.length)
  const usual = usualHips(shoulderY, height)
  if (known.length > 0 && hipY > 0.8 * usual) return undefined
  return { y: usual - 0.05 * height, clear: false }
}

/** Height of the hip joints as bodies usually have them: big heads go with short legs. */
const usualHips = (shoulderY: number, height: number): number =>
  (0.69 - 0.43 * Math.max(0.1, 0.93 - shoulderY / height)) * shoulderY

interface Ends {
  readonly leftHand: Extremity
  readonly rightHand: Extremity
}

/** Tells hands, feet and head apart by where the ends lie in the straightened body. */
function classify(ends: readonly Extremity[], height: number): Ends {
  const low = ends.filter(e => e.tip[1] < 0.16 * height)
  const side = (s: 1 | -1): Extremity | undefined =>
    ends
      .filter(e => e.tip[0] * s > 0.09 * height && e.tip[1] >= 0.16 * height)
      .sort((a, b) => b.persistence - a.persistence)[0]
  const leftHand = side(1)
  const rightHand = side(-1)
  const feet = [1, -1].map(s => low.some(e => e.tip[0] * s > 0.005 * height))
  if (low.length > 4) throw notBiped(`it stands on ${low.length} legs`)
  if (!feet[0] || !feet[1]) throw notBiped('two feet on the ground were not found')
  if (!leftHand || !rightHand) throw notBiped(leftHand || rightHand ? 'only one arm was found' : 'no arms were found')
  // hands of a standing figure end about as far from the core on either side
  if (
    Math.min(leftHand.persistence, rightHand.persistence) <
    0.35 * Math.max(leftHand.persistence, rightHand.persistence)
  ) {
    throw notBiped('the two arms are of very different length')
  }
  const head = ends.some(e => Math.abs(e.tip[0]) < 0.12 * height && e.tip[1] > 0.75 * height)
  if (!head) throw notBiped('no head was found above the shoulders')
  return { leftHand, rightHand }
}

function checkProportions(arms: readonly ArmReading[], hips: readonly Vec3[], height: number): void {
  const arm = (arms[0].length + arms[1].length) / 2 / height
  if (arm < 0.14 || arm > 0.8) throw notBiped(`its arms are ${Math.round(arm * 100)} % of its height`)
  const leg = (hips[0][1] + hips[1][1]) / 2 / height
  if (leg < 0.14 || leg > 0.75) throw notBiped(`its legs are ${Math.round(leg * 100)} % of its height`)
  const apart = Math.abs(distance(arms[0].shoulder, arms[1].shoulder)) / height
  if (apart > 0.6) throw notBiped('its shoulders are wider than its legs are long')
}

function notBiped(why: string): ChiraxisError {
  return new ChiraxisError(
    'not-a-biped',
    `This body does not look like a standing figure with two arms and two legs: ${why}. If it lies or stands on its head, settle its up axis in Shape.`,
  )
}
