import { boundsOf, type Mesh } from '../mesh'
import { seededRandom } from '../math'
import type { Received } from '../formats'
import { sampleSurface } from '../shape'
import { recogniseRoles } from '../skeleton'

/** What a file with a body can be to a figure that is open. */
export const ARRIVALS = ['version', 'figure', 'clips', 'piece', 'appendage', 'skeleton'] as const
export type Arrival = (typeof ARRIVALS)[number]

export interface ArrivalGuess {
  readonly likely: Arrival
  /** 0..1 */
  readonly confidence: number
  /** What told it, a sentence. */
  readonly why: string
}

interface Arrived {
  readonly name: string
  readonly received: Received
}

/**
 * What a file most likely is to the figure that is open: a new version of its body (the same name but for a number, the same
 * skeleton, a like shape), motions for it, a piece to be worn, or somebody else.
 */
export function guessArrival(open: Arrived, came: Arrived): ArrivalGuess {
  const stem = stemOf(open.name) === stemOf(came.name)
  const { mesh: a, skeleton: s } = open.received
  const { mesh: b, skeleton: t, takes } = came.received
  if (!a || !b) return { likely: 'figure', confidence: 0.5, why: 'It holds a body of its own.' }
  const same = s && t ? shared(s.names, t.names) : undefined
  const alike = likeness(a, b)
  const moving = takes.length > 0
  if (moving && !stem && same !== undefined && same > 0.8)
    return {
      likely: 'clips',
      confidence: 0.8,
      why: `It holds ${count(takes.length, 'take')} on the skeleton of this figure.`,
    }
  if (moving && !stem && alike < ALIKE)
    return {
      likely: 'clips',
      confidence: 0.6,
      why: `It holds ${count(takes.length, 'take')} and a body like this one.`,
    }
  if (stem && alike < BODYLIKE)
    return {
      likely: 'version',
      confidence: 0.95,
      why: 'It has the same name but for its number, and much the same shape.',
    }
  if (same !== undefined && same > 0.9 && alike < BODYLIKE)
    return { likely: 'version', confidence: 0.9, why: 'It has the same skeleton and much the same shape.' }
  if (alike < ALIKE) return { likely: 'version', confidence: 0.75, why: 'It has much the same shape.' }
  if (!t && alike > BODYLIKE && within(a, b))
    return { likely: 'piece', confidence: 0.7, why: 'It is smaller than the body and lies where that is.' }
  // a small thing whose joints are nobody's body
  if (t && !moving && within(a, b) && recogniseRoles(t).missing.length > 0)
    return {
      likely: 'appendage',
      confidence: 0.7,
      why: 'It is smaller than the body, lies where that is and has joints of its own.',
    }
  if (stem) return { likely: 'version', confidence: 0.6, why: 'It has the same name but for its number.' }
  if (moving && t)
    return { likely: 'clips', confidence: 0.5, why: `It holds ${count(takes.length, 'take')} and another body.` }
  return { likely: 'figure', confidence: 0.7, why: 'Its shape is another one.' }
}

const count = (n: number, what: string): string => `${n === 1 ? 'a' : n} ${what}${n === 1 ? '' : 's'}`

/** A file's name without its ending and whatever tells one version from the next. */
export function stemOf(name: string): string {
  let stem = name
    .replace(/^.*[\\/]/, '')
    .replace(/\.[^.]*$/, '')
    .toLowerCase()
  for (let before = ''; before !== stem;) {
    before = stem
    stem = stem
      .replace(/[\s_.-]*\(?(copy|final|new|fixed|wip|latest|edit(ed)?|rev(ision)?|ver(sion)?|v)?[\s_.-]*\d*\)?$/, '')
      .trim()
  }
  return stem || name.toLowerCase()
}

/** Share of names two skeletons have in common. */
function shared(a: readonly string[], b: readonly string[]): number {
  const other = new Set(b)
  const both = a.filter(n => other.has(n)).length
  return both / Math.max(1, Math.min(a.length, b.length))
}

/** Edits of one body lie within this; two different people are seldom nearer than half as much again. */
const ALIKE = 0.009
/** Whatever stands on legs and has arms is within this of any other such body, dressed or not. */
const BODYLIKE = 0.08

/**
 * How unlike two shapes are, whatever their axes and units: the distance between how far apart two points on each are, told in
 * shares of its size. Method: shape distributions D2, Osada, Funkhouser, Chazelle and Dobkin 2002.
 */
export function likeness(a: Mesh, b: Mesh): number {
  const [x, y] = [spread(a), spread(b)]
  let sum = 0
  for (let i = 0; i < x.length; i++) sum += Math.abs(x[i] - y[i])
  return sum / x.length
}

/** Distances of many pairs of points, in rising order, as shares of their middle one. */
function spread(mesh: Mesh): Float64Array {
  const points = sampleSurface(mesh.positions, mesh.indices, 4000)
  const n = points.length / 3
  const random = seededRandom(7)
  const out = new Float64Array(PAIRS)
  for (let i = 0; i < PAIRS; i++) {
    const p = 3 * Math.floor(random() * n)
    const q = 3 * Math.floor(random() * n)
    out[i] = Math.hypot(points[p] - points[q], points[p + 1] - points[q + 1], points[p + 2] - points[q + 2])
  }
  out.sort()
  const middle = out[PAIRS >> 1] || 1
  return out.map(d => d / middle)
}
const PAIRS = 20_000

/** Whether a body is much smaller than another and within the room around it. */
function within(whole: Mesh, part: Mesh): boolean {
  const [a, b] = [boundsOf(whole.positions), boundsOf(part.positions)]
  const size = Math.hypot(...[0, 1, 2].map(k => a.max[k] - a.min[k]))
  const own = Math.hypot(...[0, 1, 2].map(k => b.max[k] - b.min[k]))
  const room = 0.15 * size
  return (
    own < 0.7 * size &&
    own > 0.005 * size &&
    [0, 1, 2].every(k => b.min[k] > a.min[k] - room && b.max[k] < a.max[k] + room)
  )
}
