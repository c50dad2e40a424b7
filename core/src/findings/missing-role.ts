import { REQUIRED_ROLES, roleLabel } from '../body'
import type { Rule } from './finding'

/** Parts of a body that no joint of the skeleton stands for. */
export const missingRole: Rule = {
  id: 'missing-role',
  detect: ({ skeleton, source }) => {
    if (!skeleton || source !== 'received') return []
    const missing = REQUIRED_ROLES.filter(r => !skeleton.roles.includes(r))
    if (missing.length === 0 || skeleton.roles.some(r => r?.includes('Hind'))) return []
    const known = REQUIRED_ROLES.length - missing.length
    return [
      {
        rule: 'missing-role',
        severity: known < 5 ? 'error' : 'warning',
        value: missing.length,
        unit: 'roles',
        where: 'skeleton',
        message:
          known < 5
            ? 'The skeleton does not read as that of a body with arms and legs; motions from other skeletons cannot be carried onto it.'
            : `No joint stands for ${missing.map(r => roleLabel(r).toLowerCase()).join(', ')}. Choose a joint and set its role.`,
        mendable: false,
      },
    ]
  },
}
