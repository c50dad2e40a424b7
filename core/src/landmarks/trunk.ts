import { minOf, type Vec3 } from '../math'
import type { Cue } from './likely-figure'
import type { Patch } from './rows'

/** The patches about the midline, from the ground up: legs, trunk, neck and head. */
export function midColumn(rows: readonly (readonly Patch[])[], height: number): Patch[] {
  const column: Patch[] = []
  for (const row of rows) {
    const middle = row.filter(p => p.minX < 0.01 * height && p.maxX > -0.01 * height)
    if (middle.length > 0) column.push(middle.reduce((a, b) => (b.count > a.count ? b : a)))
  }
  return column
}

/** A neck, as the row that is narrow between wider ones above and below. */
export interface Neck {
  readonly row: Patch
  /** How many times narrower than head and shoulders it is. */
  readonly clear: number
}

/** How high shoulder joints are, and how far off that may be, metres. */
export interface ShoulderHeight {
  readonly y: number
  readonly spread: number
}

/** How many times narrower than what is above and below it a neck is at least, and how much more where necks seldom are. */
const LEAST_CLEAR = 1.1
const LOW_CLEAR = 0.9

/**
 * Looks for the neck above the shoulders where those are known, else where necks usually are, and higher or lower
 * where it is much clearer there.
 */
export function findNeck(column: readonly Patch[], height: number, shoulders?: ShoulderHeight): Neck | undefined {
  let best: (Neck & { score: number }) | undefined
  const reach = 0.22 * height
  const lowest = shoulders ? shoulders.y - Math.max(0.01 * height, shoulders.spread) : 0
  // a chin that hangs over the neck fills its rows; from the front it is narrow all the same
  const wide = (p: Patch): number => p.maxX - p.minX
  for (const row of column) {
    const share = row.y / height
    if (share < 0.35 || share > 0.96 || row.y < lowest) continue
    let above = 0,
      below = 0
    for (const p of column) {
      if (p.y > row.y && p.y < row.y + reach) above = Math.max(above, wide(p))
      if (p.y < row.y && p.y > row.y - reach) below = Math.max(below, wide(p))
    }
    const clear = Math.min(above, below) / wide(row)
    // a chest between raised or armoured shoulders and a wide coat is narrow too, but never as narrow as a neck
    const slight = 1 / (1 + (wide(row) / (0.14 * height)) ** 2)
    // heads of drawn figures begin anywhere, if seldom below the middle
    const usual = 0.2 + 0.8 * Math.exp(-(((share - 0.84) / (shoulders ? 0.4 : 0.2)) ** 2))
    // what is hardly narrower than its neighbours is no neck; low down it may be a waist, which is never so narrow
    if (clear < LEAST_CLEAR + LOW_CLEAR * (1 - usual)) continue
    const score = Math.min(1.6, clear) * slight * usual
    if (!best || score > best.score) best = { row, clear, score }
  }
  return best
}

/**
 * The chin: going down from the face, the last row that still comes forward as a face does and not as the throat; on short
 * necks it hangs below them.
 */
function findChin(column: readonly Patch[], neckRow: Patch, height: number): { row: Patch; seen: boolean } {
  const crownY = column[column.length - 1].y
  const share = (s: number): number => neckRow.y + s * (crownY - neckRow.y)
  const face = column.filter(p => p.y >= share(0.2) && p.y <= share(0.55)).map(p => p.maxZ)
  const throat = minOf(column.filter(p => p.y >= neckRow.y - HANGS * height && p.y <= share(0.3)).map(p => p.maxZ))
  if (face.length === 0) return { row: neckRow, seen: false }
  const front = face.sort((a, b) => a - b)[face.length >> 1]
  const half = (throat + front) / 2
  let row = neckRow
  for (let i = column.findLastIndex(p => p.y <= share(0.35)); i > 0; i--) {
    if (column[i].maxZ < half || column[i].y < neckRow.y - HANGS * height) break
    row = column[i]
  }
  return { row, seen: front > throat + 0.01 * height }
}
/** How far below the narrowest row of a neck a chin hangs at most, as a share of height. */
const HANGS = 0.08

/** How many times narrower than head and shoulders a neck is that may be one, and that surely is. */
const LEAST_SURE = 1.15
const SURE = 1.35

/** What trunk, neck and head say. The shoulder joints are at a height that something told, or that is only usual. */
export function trunkCues(
  column: readonly Patch[],
  neck: Neck | undefined,
  height: number,
  { y: shoulderY, told }: { readonly y: number; readonly told: boolean },
  crouching: boolean,
): Cue[] {
  const cues: Cue[] = []
  if (column.length < 10) return cues
  const crownPatch = column[column.length - 1]
  const crownY = crownPatch.y
  // the very top may be a tuft or a corner; its depth is that of the whole top of the head
  const topRows = column.filter(p => p.y > crownY - 0.035 * height)
  const topZ = topRows.reduce((s, p) => s + p.z * p.count, 0) / topRows.reduce((s, p) => s + p.count, 0)
  // a collar all but hides one, and a waist of the head may be taken for one
  const head = neck && {
    neck: neck.row,
    chin: findChin(column, neck.row, height),
    doubt: Math.min(2, Math.max(1, 2 - (neck.clear - LEAST_SURE) / (SURE - LEAST_SURE))),
  }
  const up: Vec3 = [0, 1, 0]
  cues.push({
    id: 'crown',
    at: [crownPatch.x, crownY, topZ + 0.004 * height],
    spread: 0.02 * height,
    along: up,
    alongSpread: 0.012 * height,
  })
  // without a neck nothing tells where the head begins
  if (head) {
    const { row, seen } = head.chin
    const faceSeen = seen && neck.clear > LEAST_SURE
    cues.push({
      id: 'chin',
      at: [row.x, row.y, row.maxZ],
      spread: (faceSeen ? 0.014 * head.doubt : 0.04) * height,
      along: up,
      alongSpread: (faceSeen ? 0.014 * head.doubt ** 2 : 0.05) * height,
    })
  }
  // depth and middle of the trunk; its joints' heights come from their neighbours
  const middleBetween = (low: number, high: number): Vec3 | undefined => {
    const own = column.filter(p => p.y > low && p.y < high)
    if (own.length === 0) return undefined
    const mean = (f: (p: Patch) => number): number => own.reduce((s, p) => s + f(p), 0) / own.length
    return [mean(p => p.x), mean(p => p.y), mean(p => (p.minZ + p.maxZ) / 2)]
  }
  const top = middleBetween(shoulderY - 0.04 * height, shoulderY)
  const back = middleBetween(shoulderY - 0.25 * height, shoulderY - 0.1 * height)
  const lean = top && back ? (top[2] - back[2]) / (top[1] - back[1]) : 0
  // an upright trunk carries the neck over it
  const aboveY = shoulderY + 0.04 * height
  const above: Vec3 | undefined = top && [top[0], aboveY, top[2] + lean * (aboveY - top[1])]
  if (above && told)
    cues.push({
      id: 'neckBase',
      at: above,
      spread: (0.014 + 0.2 * Math.max(0, Math.abs(lean) - 0.05)) * height,
      along: up,
      alongSpread: 0.5 * height,
    })
  if (head) {
    const { x, y, minZ, maxZ } = head.neck
    const z = (minZ + maxZ) / 2
    // a chin that hangs before the neck is taken for it
    const hangs = above && z - above[2] > 0.05 * height ? 2.5 : 1
    cues.push({
      id: 'neckBase',
      at: [x, y - 0.01 * height, z - 0.023 * height],
      spread: 0.014 * head.doubt * hangs * height,
      along: up,
      alongSpread: 0.06 * head.doubt * height,
    })
    cues.push({
      id: 'skullBase',
      at: [x, head.chin.row.y + 0.036 * height, z + 0.004 * height],
      spread: 0.016 * head.doubt * hangs * height,
      along: up,
      alongSpread: 0.06 * head.doubt * height,
    })
  }
  const chest = middleBetween(0.78 * shoulderY, 0.9 * shoulderY)
  const hips = middleBetween(0.62 * shoulderY, 0.72 * shoulderY)
  if (chest)
    cues.push({
      id: 'chest',
      at: [chest[0], chest[1], chest[2] - 0.014 * height],
      spread: 0.014 * height,
      along: up,
      alongSpread: 0.5 * height,
    })
  if (hips)
    cues.push({
      id: 'hips',
      at: hips,
      spread: (crouching ? 0.06 : 0.016) * height,
      along: up,
      alongSpread: 0.5 * height,
    })
  return cues
}
