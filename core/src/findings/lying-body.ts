import type { Rule } from './finding'
import { stance } from './stance'

/** The body does not stand along the file's Y axis. */
export const lyingBody: Rule = {
  id: 'lying-body',
  detect: context => {
    const up = context.straightened?.up
    if (!up || up === '+y') return []
    const words =
      up === '+z' ? 'The file has Z up.' : up === '-y' ? 'The body stands on its head.' : 'The body lies on its side.'
    return [
      stance(context, 'lying-body', up === '-y' ? 180 : 90, 'degrees', 'up axis', words, 'It was turned to Y up.'),
    ]
  },
  mend: () => ({}),
}
