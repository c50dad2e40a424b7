/** Rings along a limb: where each is. */

/**
 * Places of rings between two ends: at each joint one, with one at least close before and behind it, wider apart between.
 * @param joints places of bends, rising  @param spacing wanted between rings  @param close how near to a joint its neighbours are
 */
export function stationsAlong(
  from: number,
  to: number,
  joints: readonly number[],
  spacing: number,
  close: (joint: number) => number,
): number[] {
  const inner = joints.filter(j => j > from + 1e-4 && j < to - 1e-4)
  const zones = inner.map((j, i) => {
    const before = j - (i > 0 ? inner[i - 1] : from)
    const after = (i + 1 < inner.length ? inner[i + 1] : to) - j
    const reach = Math.min(close(j), 0.38 * before, 0.38 * after)
    return { low: j - reach, middle: j, high: j + reach }
  })
  const out = [from]
  const fill = (upTo: number, tight: number): void => {
    const start = out[out.length - 1]
    const length = upTo - start
    if (length <= 1e-6) return
    const n = Math.max(1, Math.round(length / (spacing * tight)))
    for (let k = 1; k <= n; k++) out.push(start + (length * k) / n)
  }
  for (const zone of zones) {
    fill(zone.low, 1)
    fill(zone.middle, 0.8)
    fill(zone.high, 0.8)
  }
  fill(to, 1)
  return out
}
