import { armsDown } from '../rig'
import { rounded, type Rule } from './finding'

/** The rest pose is neither arms out nor arms a little down. */
export const unusualRest: Rule = {
  id: 'unusual-rest',
  detect: ({ skeleton, source }) => {
    if (!skeleton || source !== 'received') return []
    const down = armsDown(skeleton)
    if (down === undefined || (down > -15 && down < 65)) return []
    return [
      {
        rule: 'unusual-rest',
        severity: 'warning',
        value: rounded(down),
        unit: 'degrees',
        where: 'arms',
        message:
          down >= 65
            ? `The arms hang ${down.toFixed(0)} degrees down at rest, close to the body: skin and handles are hard to judge there.`
            : `The arms are raised ${(-down).toFixed(0)} degrees at rest.`,
        mendable: true,
        remedy: 'Makes arms 45 degrees down the rest pose. The body, the skin and all takes look as before.',
        target: 'leftUpperArm',
      },
    ]
  },
  mend: () => ({ rig: [{ kind: 'rest', pose: 'arms-down', degrees: 45 }] }),
}
