import type { Rule } from './finding'
import { stance } from './stance'

/** The body stands a few degrees off its axes, as scans do. */
export const turnedBody: Rule = {
  id: 'turned-body',
  detect: context => {
    const turn = context.straightened?.turn ?? 0
    return turn > 0
      ? [
          stance(
            context,
            'turned-body',
            turn,
            'degrees',
            'turn',
            `The body stands ${turn.toFixed(1)} degrees off its axes.`,
            'It was turned straight.',
          ),
        ]
      : []
  },
  mend: () => ({}),
}
