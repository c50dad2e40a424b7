import { roleLabel } from '../body'
import { readChannel } from '../layers'
import type { Rule } from './finding'

const partOfChannel = (name: string): string => roleLabel(readChannel(name)?.joint ?? name).toLowerCase()

/** Edits by hand that no longer fit the skeleton, repairs of the skin, choices and layers that no longer fit the body. */
export const lostEdit: Rule = {
  id: 'lost-edit',
  detect: ({ lost = [], lostSkin = [], lostChoices = [], performed = [] }) =>
    [
      ...lost.map(l => ({ edit: l.edit as object, reason: l.reason, elsewhere: 'skeleton' })),
      ...lostSkin.map(l => ({ edit: l.edit as object, reason: l.reason, elsewhere: 'skin' })),
      ...lostChoices.map(c => ({ edit: {}, reason: c.reason, elsewhere: c.where })),
      ...performed.flatMap(({ take, lostChannels = [] }) =>
        lostChannels.map(({ layer, channel }) => ({
          edit: {},
          reason: `${layer}, a layer of ${take.name}, has keys for ${partOfChannel(channel)}, and this figure has no such part. They are kept and left out.`,
          elsewhere: take.name,
        })),
      ),
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
