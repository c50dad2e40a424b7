import type { Rule } from './finding'
import { stance } from './stance'

const AHEAD: Readonly<Record<string, string>> = { '+y': '+z', '+z': '-y', '-y': '+z' }

/** The body looks another way than files of its up axis usually do. */
export const facingAway: Rule = {
  id: 'facing-away',
  detect: context => {
    const s = context.straightened
    if (!s || !AHEAD[s.up] || s.facing === AHEAD[s.up]) return []
    const back = s.facing[1] === AHEAD[s.up][1]
    return [
      stance(
        context,
        'facing-away',
        back ? 180 : 90,
        'degrees',
        'facing',
        `The body looks ${back ? 'backwards' : 'to the side'}, along ${s.facing}.`,
        'It was turned to look ahead, along +Z.',
      ),
    ]
  },
  mend: () => ({}),
}
