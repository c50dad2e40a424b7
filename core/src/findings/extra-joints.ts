import type { Rule } from './finding'

/** The performer has joints that drive nothing on the figure. */
export const extraJoints: Rule = {
  id: 'extra-joints',
  detect: ({ performed = [] }) =>
    performed.flatMap(p =>
      p.performer.extra.length === 0
        ? []
        : [
            {
              rule: 'extra-joints',
              severity: 'note' as const,
              value: p.performer.extra.length,
              unit: 'joints',
              where: p.take.name,
              message: `The performer of ${p.take.name} has ${p.performer.extra.length} joints without a role of their own; spine and neck joints among them still shape the motion.`,
              mendable: false,
              target: p.take.name,
            },
          ],
    ),
}
