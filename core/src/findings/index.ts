/** Known mismatches, one rule a file: found, explained, and mended where that is safe. */
import { breather, type WorkOptions } from '../math'
import type { Finding, FindingContext, Remedy, Rule } from './finding'
import { asymmetricSkeleton } from './asymmetric-skeleton'
import { bentBack } from './bent-back'
import { calibrationPose } from './calibration-pose'
import { duplicateNames } from './duplicate-names'
import { extraJoints } from './extra-joints'
import { facingAway } from './facing-away'
import { footSkateRule } from './foot-skate'
import { noRootJoint } from './no-root-joint'
import { propOutOfReachRule } from './prop-out-of-reach'
import { guessedLandmark } from './guessed-landmark'
import { halfBody } from './half-body'
import { hingeDisagrees } from './hinge-disagrees'
import { idleJoints } from './idle-joints'
import { influenceAcrossGap } from './influence-across-gap'
import { jointOutside } from './joint-outside'
import { lopsidedBody } from './lopsided-body'
import { lostEdit } from './lost-edit'
import { lyingBody } from './lying-body'
import { missingRole } from './missing-role'
import { normalMapAsColour } from './normal-map-as-colour'
import { notKept } from './not-kept'
import { offCentre } from './off-centre'
import { offGround } from './off-ground'
import { offMidline } from './off-midline'
import { openSurface } from './open-surface'
import { prefixMissing } from './prefix-missing'
import { rootTurned } from './root-turned'
import { slidingJointsRule } from './sliding-joints'
import { statesMistake } from './states-mistake'
import { straightLimb } from './straight-limb'
import { turnedBody } from './turned-body'
import { doubtfulReading } from './doubtful-reading'
import { uncleanFaces } from './unclean-faces'
import { unitOff } from './unit-off'
import { unsureStance } from './unsure-stance'
export { SURE_STANCE } from './unsure-stance'
import { unusualRest } from './unusual-rest'
import { looseVertices, tooManyInfluences, weightsNotSumming } from './weights'
import { worldAlignedAxes } from './world-aligned-axes'
import { zeroLengthBone } from './zero-length-bone'

export { doubtfulReading }
export type { Finding, FindingContext, Remedy, Rule } from './finding'

/** In the order in which they are mended: names before what goes by names, places before axes, axes before the rest pose. */
export const RULES: readonly Rule[] = [
  halfBody,
  lyingBody,
  facingAway,
  turnedBody,
  unitOff,
  offGround,
  offMidline,
  unsureStance,
  lopsidedBody,
  uncleanFaces,
  doubtfulReading,
  openSurface,
  normalMapAsColour,
  duplicateNames,
  prefixMissing,
  missingRole,
  idleJoints,
  zeroLengthBone,
  jointOutside,
  asymmetricSkeleton,
  bentBack,
  straightLimb,
  worldAlignedAxes,
  rootTurned,
  hingeDisagrees,
  unusualRest,
  looseVertices,
  weightsNotSumming,
  influenceAcrossGap,
  tooManyInfluences,
  guessedLandmark,
  offCentre,
  footSkateRule,
  propOutOfReachRule,
  noRootJoint,
  calibrationPose,
  slidingJointsRule,
  extraJoints,
  lostEdit,
  notKept,
  statesMistake,
]

const ORDER = { error: 0, warning: 1, note: 2 }

/** Everything the rules find, the gravest first. */
export async function findAll(context: FindingContext, work: WorkOptions = {}): Promise<Finding[]> {
  const pulse = breather(work)
  const found: Finding[] = []
  for (const [i, rule] of RULES.entries()) {
    found.push(...(await rule.detect(context, { signal: work.signal })))
    await pulse(i / RULES.length)
  }
  return found.sort((a, b) => ORDER[a.severity] - ORDER[b.severity])
}

/** The change that mends one finding, or undefined where nothing can be done for it. */
export const mendOne = (finding: Finding, context: FindingContext): Remedy | undefined =>
  RULES.find(r => r.id === finding.rule)?.mend?.(finding, context)
