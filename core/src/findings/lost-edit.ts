import type { Rule } from './finding'

/** Edits by hand that no longer fit the skeleton, repairs of the skin and choices that no longer fit the body. */
export const lostEdit: Rule = {
  id: 'lost-edit',
  detect: ({ lost = [], lostSkin = [], lostChoices = [] }) =>
    [
      ...lost.map(l => ({ edit: l.edit as object, reason: l.reason, elsewhere: 'skeleton' })),
      ...lostSkin.map(l => ({ edit: l.edit as object, reason: l.reason, elsewhere: 'skin' })),
      ...lostChoices.map(c => ({ edit: {}, reason: c.reason, elsewhere: c.where })),
    ].map(({ edit, reason, elsewhere }) => ({
      rule: 'lost-edit',
      severity: 'warning',
      value: 1,
      unit: 'edit',
      where: 'joint' in edit && typeof edit.joint === 'string' ? edit.joint : elsewhere,
      message: reason,
      mendable: false,
    })),
}
