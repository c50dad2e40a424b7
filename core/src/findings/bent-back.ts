import { bendFindings } from './limb-bends'
import type { Rule } from './finding'

/** A knee or an elbow that bends the wrong way at rest. */
export const bentBack: Rule = {
  id: 'bent-back',
  detect: context =>
    bendFindings(
      'bent-back',
      context,
      d => d < -0.3,
      (b, d) =>
        `${b.word} is bent backwards by ${Math.abs(d).toFixed(1)} degrees at rest; a solver will fold it the wrong way.`,
      'error',
    ),
  mend: finding => ({ rig: [{ kind: 'bend', joint: finding.target!, degrees: 2 }] }),
}
