/** Known mismatches, one rule a file: found, explained, and mended where that is safe. */
import type { Finding, FindingContext, Remedy, Rule } from './finding'
import { extraJoints } from './extra-joints'
import { footSkateRule } from './foot-skate'
import { guessedLandmark } from './guessed-landmark'
import { notKept } from './not-kept'
import { offCentre } from './off-centre'
import { stoodOff } from './stood-off'
import { unsureStance } from './unsure-stance'

export type { Finding, FindingContext, Remedy, Rule } from './finding'

export const RULES: readonly Rule[] = [unsureStance, stoodOff, guessedLandmark, offCentre, footSkateRule, extraJoints, notKept]

const ORDER = { error: 0, warning: 1, note: 2 }

/** Everything the rules find, the gravest first. */
export const findAll = (context: FindingContext): Finding[] =>
  RULES.flatMap(rule => rule.detect(context)).sort((a, b) => ORDER[a.severity] - ORDER[b.severity])

/** The change that mends one finding, or undefined where nothing can be done for it. */
export const mendOne = (finding: Finding, context: FindingContext): Remedy | undefined =>
  RULES.find(r => r.id === finding.rule)?.mend?.(finding, context)
