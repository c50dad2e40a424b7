import { ANY, VALUES, type Condition, type Rule } from './document'

/** A condition in words. */
export function conditionWords(c: Condition): string {
  if ('value' in c) {
    const known = VALUES[c.value as keyof typeof VALUES] as { label: string; unit: string } | undefined
    const unit = known ? (known.unit.startsWith('°') ? known.unit : ` ${known.unit}`) : ''
    return `${known?.label.toLowerCase() ?? c.value} ${c.is} ${c.than}${unit}`
  }
  if ('ground' in c) return c.ground ? 'on the ground' : 'in the air'
  if ('key' in c) return c.is === 'free' ? `${keyWord(c.key)} let go` : `${keyWord(c.key)} ${c.is}`
  if ('left' in c) return `${c.left} s left`
  return `${c.cue} passed`
}
export const keyWord = (key: string): string => (key.length === 1 ? key.toUpperCase() : key)
/** When a rule is taken, in words. */
export const whenWords = ({ when, after }: Pick<Rule, 'when' | 'after'>): string =>
  [
    ...(after >= 1 ? ['at its end'] : after > 0 ? [`after ${Math.round(100 * after)} %`] : []),
    ...when.map(conditionWords),
  ].join(' and ') || 'at once'
export const stateWord = (name: string): string => (name === ANY ? 'any state' : name)
