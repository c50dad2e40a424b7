type Point = readonly [number, number]

/** Steps a stretch between two points is measured in. */
const STEPS = 32

/**
 * A smooth way through points on the ground, gone along by its length: centripetal Catmull-Rom stretches (Yuksel, Schaefer and
 * Keyser 2009, "On the parameterization of Catmull-Rom curves"), which never loop or overshoot between points. Beyond
 * its end it goes on in line.
 */
export class CatmullRomWay {
  private readonly places: readonly Point[]
  private readonly lengths: Float64Array

  /** @param points at least two; those that lie on each other count once */
  constructor(points: readonly Point[]) {
    const kept = points.filter((p, i) => i === 0 || Math.hypot(p[0] - points[i - 1][0], p[1] - points[i - 1][1]) > 1e-6)
    const ends = kept.length > 1 ? kept : [kept[0], [kept[0][0], kept[0][1] + 1] as const]
    const last = ends.length - 1
    const mirrored = (a: Point, b: Point): Point => [2 * a[0] - b[0], 2 * a[1] - b[1]]
    const all = [mirrored(ends[0], ends[1]), ...ends, mirrored(ends[last], ends[last - 1])]
    const places: Point[] = [ends[0]]
    for (let i = 0; i < last; i++)
      for (let k = 1; k <= STEPS; k++) places.push(between(all[i], all[i + 1], all[i + 2], all[i + 3], k / STEPS))
    this.places = places
    this.lengths = new Float64Array(places.length)
    for (let i = 1; i < places.length; i++)
      this.lengths[i] =
        this.lengths[i - 1] + Math.hypot(places[i][0] - places[i - 1][0], places[i][1] - places[i - 1][1])
  }

  get length(): number {
    return this.lengths[this.lengths.length - 1]
  }

  /** Where one is after so far, and where one goes there: radians from ahead to its left. */
  at(far: number): { readonly at: Point; readonly heading: number } {
    const { places, lengths } = this
    let low = 0,
      high = lengths.length - 1
    while (high - low > 1) {
      const middle = (low + high) >> 1
      if (lengths[middle] <= far) low = middle
      else high = middle
    }
    const [a, b] = [places[low], places[high]]
    const t = (far - lengths[low]) / (lengths[high] - lengths[low] || 1)
    // the direction changes evenly from the middle of one step to that of the next
    const of = (i: number): Point => {
      const k = Math.min(lengths.length - 2, Math.max(0, i))
      return [places[k + 1][0] - places[k][0], places[k + 1][1] - places[k][1]]
    }
    const inside = Math.min(1, Math.max(0, t))
    const [p, q, w] = inside < 0.5 ? [of(low - 1), of(low), inside + 0.5] : [of(low), of(low + 1), inside - 0.5]
    return {
      at: [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])],
      heading: Math.atan2(p[0] + w * (q[0] - p[0]), p[1] + w * (q[1] - p[1])),
    }
  }
}

/** A place between b and c, by Barry and Goldman's scheme. */
function between(a: Point, b: Point, c: Point, d: Point, t: number): Point {
  const step = (p: Point, q: Point): number => Math.sqrt(Math.hypot(q[0] - p[0], q[1] - p[1])) || 1e-6
  const t1 = step(a, b),
    t2 = t1 + step(b, c),
    t3 = t2 + step(c, d)
  const at = t1 + t * (t2 - t1)
  const mix = (p: Point, q: Point, from: number, to: number): Point => {
    const w = (at - from) / (to - from)
    return [p[0] + w * (q[0] - p[0]), p[1] + w * (q[1] - p[1])]
  }
  const ab = mix(a, b, 0, t1),
    bc = mix(b, c, t1, t2),
    cd = mix(c, d, t2, t3)
  return mix(mix(ab, bc, 0, t2), mix(bc, cd, t1, t3), t1, t2)
}
