/** Where a figure stands, seen from above: corners in turn, x and z of each. */
export type Outline = readonly (readonly [x: number, z: number])[]

/** The smallest outline without dents around points (Andrew 1979, "Another efficient algorithm for convex hulls"), counter-clockwise. */
export function outlineAround(points: Outline): Outline {
  const sorted = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1])
  if (sorted.length < 3) return sorted
  const half = (list: Outline): (readonly [number, number])[] => {
    const out: (readonly [number, number])[] = []
    for (const p of list) {
      while (out.length > 1 && turn(out[out.length - 2], out[out.length - 1], p) <= 0) out.pop()
      out.push(p)
    }
    out.pop()
    return out
  }
  return [...half(sorted), ...half([...sorted].reverse())]
}
const turn = (a: readonly [number, number], b: readonly [number, number], c: readonly [number, number]): number =>
  (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])

/** How far a place lies within an outline, metres; negative outside. Undefined where there is no outline. */
export function roomWithin(outline: Outline, x: number, z: number): number | undefined {
  if (outline.length === 0) return undefined
  let nearest = Infinity
  let within = outline.length > 2
  for (let i = 0; i < outline.length; i++) {
    const a = outline[i],
      b = outline[(i + 1) % outline.length]
    const dx = b[0] - a[0],
      dz = b[1] - a[1]
    const long = dx * dx + dz * dz
    const t = long > 0 ? Math.min(1, Math.max(0, ((x - a[0]) * dx + (z - a[1]) * dz) / long)) : 0
    nearest = Math.min(nearest, Math.hypot(x - a[0] - t * dx, z - a[1] - t * dz))
    if (turn(a, b, [x, z]) < 0) within = false
  }
  return within ? nearest : -nearest
}

/** The place within an outline, so far from its rim where there is room, that is nearest to another. */
export function nearestWithin(outline: Outline, x: number, z: number, margin: number): readonly [number, number] {
  if (outline.length === 0) return [x, z]
  const middle: [number, number] = [0, 0]
  for (const p of outline) for (const k of [0, 1] as const) middle[k] += p[k] / outline.length
  const room = roomWithin(outline, x, z)!
  if (room >= margin) return [x, z]
  // towards the middle until there is room enough; there it stays where an outline is too small
  let from = 0,
    to = 1
  const at = (t: number): [number, number] => [x + t * (middle[0] - x), z + t * (middle[1] - z)]
  if (roomWithin(outline, ...middle)! < margin) return middle
  for (let i = 0; i < 40; i++) {
    const t = 0.5 * (from + to)
    if (roomWithin(outline, ...at(t))! >= margin) to = t
    else from = t
  }
  return at(to)
}
