import { bendFindings, LEAST_BEND } from './limb-bends'
import type { Rule } from './finding'

/** A knee or an elbow without any bend at rest. */
export const straightLimb: Rule = {
  id: 'straight-limb',
  detect: context =>
    bendFindings(
      'straight-limb',
      context,
      d => d >= -0.3 && d < LEAST_BEND,
      b => `${b.word} is straight at rest; a solver cannot tell which way it bends.`,
      'warning',
    ),
  mend: finding => ({ rig: [{ kind: 'bend', joint: finding.target!, degrees: 2 }] }),
}
