import { rounded, type Rule } from './finding'
import { inTakes } from './in-takes'

/** Joints of a performer that slide or stretch and that no joint of the figure follows. */
export const slidingJointsRule: Rule = {
  id: 'sliding-joints',
  detect: ({ performed = [] }) =>
    inTakes(
      performed,
      ({ take, sliding = [] }) => {
        const left = sliding.filter(s => !s.carried)
        if (left.length === 0) return undefined
        const more = left.length > 1 ? ` and ${left.length - 1} more` : ''
        return {
          rule: 'sliding-joints',
          severity: 'note',
          value: rounded(100 * left[0].most),
          unit: '% of a leg',
          where: take.name,
          message: `In ${take.name} the performer's ${left[0].joint}${more} moves away from its parent, and nothing of the figure can follow: that part of the motion is lost.`,
          mendable: false,
          target: take.name,
        }
      },
      (_, count) =>
        `In ${count} takes joints of the performer move away from their parents, and nothing of the figure can follow:`,
    ),
}
