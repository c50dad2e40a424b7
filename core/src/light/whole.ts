export const even = (n: number): number => 2 * Math.round(n / 2)
export const clamp = (n: number, low: number, high: number): number => Math.min(high, Math.max(low, n))
/** The whole number nearest to `n` that differs from `like` by an even one. */
export const alike = (n: number, like: number): number => like + even(n - like)
/** A whole number taken round. */
export const mod = (a: number, n: number): number => ((Math.round(a) % n) + n) % n
