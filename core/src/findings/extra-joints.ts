import { counted } from '../words'
import type { Rule } from './finding'
import { inTakes } from './in-takes'

/** The performer has joints that drive nothing on the figure. */
export const extraJoints: Rule = {
  id: 'extra-joints',
  detect: ({ performed = [] }) =>
    inTakes(
      performed,
      ({ take, performer: { extra } }) =>
        extra.length === 0
          ? undefined
          : {
              rule: 'extra-joints',
              severity: 'note' as const,
              value: extra.length,
              unit: 'joints',
              where: take.name,
              message: `The performer of ${take.name} has ${counted(extra.length, 'joint')} without a role of ${extra.length === 1 ? 'its' : 'their'} own; those of spine and neck still shape the motion.`,
              mendable: false,
              target: take.name,
            },
      (worst, count) =>
        `The performers of ${count} takes have joints without a role of their own, ${worst.value} at the most; those of spine and neck still shape the motion:`,
    ),
}
