import type { Rule } from './finding'

/** Content of a received file that was not kept. */
export const notKept: Rule = {
  id: 'not-kept',
  detect: ({ dropped = [] }) =>
    dropped.map(message => ({
      rule: 'not-kept',
      severity: 'note',
      value: 0,
      unit: '',
      where: 'file',
      message,
      mendable: false,
    })),
}
