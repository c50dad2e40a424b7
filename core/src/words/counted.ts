/**
 * A number with its word, singular or plural.
 * @param n how many
 * @param one the word for one
 * @param many the word for more or none; `one` with an s unless told
 */
export const counted = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`
