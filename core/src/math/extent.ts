/**
 * Largest and smallest of any number of values. Spreading a list into `Math.max` puts every value on the stack and fails
 * for long ones.
 */
export function maxOf(values: Iterable<number>, least = -Infinity): number {
  let most = least
  for (const v of values) if (v > most || v !== v) most = v
  return most
}

export function minOf(values: Iterable<number>, most = Infinity): number {
  let least = most
  for (const v of values) if (v < least || v !== v) least = v
  return least
}
