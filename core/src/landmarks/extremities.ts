import { cellCentre, neighbourSteps, type Voxels } from '../mesh'
import { breather, dot, normalize, sub, type Vec3, type WorkOptions } from '../math'

/** An end of the body: where geodesic distance from the core peaks, and the limb that hangs on it. */
export interface Extremity {
  readonly cell: number
  readonly tip: Vec3
  /** How far the peak stands out before it merges with a higher one, metres of geodesic way. */
  readonly persistence: number
  /** From the tip to where it joins another limb or the trunk, metres of geodesic way. */
  readonly long: number
  /** Distance from the core at which the limb joins another limb or the trunk. */
  readonly joinsAt: number
  /** Where that is. */
  readonly root: Vec3
  /** Whether this is not the tip but the hand that holds something reaching beyond it. */
  readonly holds: boolean
}

/** The cells a distance is known of, the farthest first, of equally far ones the first. */
function farthestFirst(distance: Float32Array): Uint32Array {
  // whole numbers that sort as distances do: their bits, and the cell below them
  const bits = new Uint32Array(distance.buffer, distance.byteOffset, distance.length)
  const keys = new Float64Array(distance.length)
  let known = 0
  for (let i = 0; i < distance.length; i++)
    if (distance[i] < Infinity) keys[known++] = (0x7fffffff - bits[i]) * CELLS_AT_MOST + i
  const sorted = keys.subarray(0, known).sort()
  return Uint32Array.from(sorted, key => key % CELLS_AT_MOST)
}
const CELLS_AT_MOST = 2 ** 21

/** Cosine between the two ends of a stick, seen from the hand on it: straight within 30 degrees. */
const STRAIGHT = -0.87

/**
 * Ends of a solid as the persistent peaks of a distance field, by the join tree of its super-level
 * sets (Carr, Snoeyink and Axen 2003; persistence after Edelsbrunner and others 2002).
 * Two thin ends that go straight on through where they join, far from the core and off the midline, are those of something
 * held in a hand: the hand is where they join.
 * @param distance S metres from the core  @param least smallest persistence to report, metres
 * @param limb smallest persistence of an end that counts as a limb, so that one which merges with it ends there
 * @param far how far from the core hands are at least, metres  @param thinnest most mean section of what is held, m²
 */
export async function extremities(
  voxels: Voxels,
  distance: Float32Array,
  least: number,
  limb: number,
  { signal, far = Infinity, thinnest = 0 }: WorkOptions & { far?: number; thinnest?: number } = {},
): Promise<Extremity[]> {
  const pulse = breather({ signal })
  const n = voxels.cells.length
  const order = farthestFirst(distance)
  const parent = new Int32Array(n).fill(-1)
  const peak = new Int32Array(n)
  const limbEndsIn = new Int32Array(n).fill(-1)
  const size = new Uint32Array(n)
  const held = new Set<number>()
  const find = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]]
    return i
  }
  const offsets = neighbourSteps(voxels.counts).map(s => s.offset)
  const found: Extremity[] = []
  const report = (p: number, cell: number): void => {
    const persistence = distance[p] - distance[cell]
    if (persistence < least) return
    const end = limbEndsIn[p]
    const root = end >= 0 && distance[end] > distance[cell] ? end : cell
    found.push({
      cell: p,
      tip: cellCentre(voxels, p),
      persistence,
      long: distance[p] - distance[root],
      joinsAt: distance[root],
      root: cellCentre(voxels, root),
      holds: held.has(p),
    })
  }
  // a stick goes straight on through the hand, and hands are off the midline
  const isStick = (a: number, b: number, hand: number): boolean => {
    const [p, q, h] = [a, b, hand].map(c => cellCentre(voxels, c))
    return Math.abs(h[0]) > limb && dot(normalize(sub(p, h)), normalize(sub(q, h))) < STRAIGHT
  }
  let last = -1
  const { slot, cells } = voxels
  for (let i = 0; i < order.length; i++) {
    const cell = order[i]
    if ((i & 4095) === 0) await pulse()
    parent[cell] = cell
    peak[cell] = cell
    size[cell] = 1
    last = cell
    for (const o of offsets) {
      const next = slot[cells[cell] + o]
      if (next < 0 || parent[next] < 0) continue
      const a = find(cell)
      const b = find(next)
      if (a === b) continue
      // by far the most that meet: a cell that was just added, which is no end, and what it lies against
      if (a === cell && size[a] === 1 && distance[peak[b]] > distance[cell]) {
        parent[a] = b
        size[b]++
        continue
      }
      // the lower peak ends here
      const [keep, drop] = distance[peak[a]] >= distance[peak[b]] ? [a, b] : [b, a]
      const thin = (root: number): boolean =>
        (size[root] * voxels.size ** 3) / (distance[peak[root]] - distance[cell]) < thinnest
      if (
        distance[cell] > far &&
        distance[peak[drop]] - distance[cell] >= limb &&
        thin(keep) &&
        thin(drop) &&
        isStick(peak[keep], peak[drop], cell)
      ) {
        size[keep] += size[drop]
        held.add(cell)
        peak[keep] = cell
        parent[drop] = keep
        continue
      }
      // knuckles beyond what a hand holds
      if (held.has(peak[drop]) && distance[peak[keep]] - distance[peak[drop]] < limb) held.add(peak[keep])
      report(peak[drop], cell)
      const winner = peak[keep]
      if (limbEndsIn[winner] < 0 && distance[peak[drop]] - distance[cell] >= limb) limbEndsIn[winner] = cell
      parent[drop] = keep
      size[keep] += size[drop]
    }
  }
  if (last >= 0) report(peak[find(last)], last)
  return found.sort((a, b) => b.persistence - a.persistence)
}
