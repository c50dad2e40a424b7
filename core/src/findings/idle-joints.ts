import { counted } from '../words'
import type { Rule } from './finding'

/** Joints of a received skeleton that stand for no part of the body. */
export const idleJoints: Rule = {
  id: 'idle-joints',
  detect: ({ skeleton, source }) => {
    if (!skeleton || source !== 'received') return []
    const idle = skeleton.names.filter((_, j) => !skeleton.roles[j])
    if (idle.length === 0) return []
    return [
      {
        rule: 'idle-joints',
        severity: 'note',
        value: idle.length,
        unit: 'joints',
        where: 'skeleton',
        message: `${counted(idle.length, 'joint stands', 'joints stand')} for no part of the body and follow${idle.length === 1 ? 's' : ''} along: ${idle.slice(0, 4).join(', ')}${idle.length > 4 ? ' and more' : ''}.`,
        mendable: false,
        target: idle[0],
      },
    ]
  },
}
