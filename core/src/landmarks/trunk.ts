import { maxOf, type Vec3 } from '../math'
import type { Cue } from './likely-figure'
import type { Patch } from './rows'

/** What trunk, neck and head say, from the patches about the midline, and whether a neck was seen at all. */
export function trunkCues(
  rows: readonly (readonly Patch[])[],
  height: number,
  shoulderY: number,
): { cues: Cue[]; neckSeen: boolean } {
  const column: Patch[] = []
  for (const row of rows) {
    const middle = row.filter(p => p.minX < 0.01 * height && p.maxX > -0.01 * height)
    if (middle.length > 0) column.push(middle.reduce((a, b) => (b.count > a.count ? b : a)))
  }
  const cues: Cue[] = []
  if (column.length < 10) return { cues, neckSeen: false }
  const crownPatch = column[column.length - 1]
  const crownY = crownPatch.y
  // the very top may be a tuft or a corner; its depth is that of the whole top of the head
  const topRows = column.filter(p => p.y > crownY - 0.035 * height)
  const topZ = topRows.reduce((s, p) => s + p.z * p.count, 0) / topRows.reduce((s, p) => s + p.count, 0)
  const above = column.filter(p => p.y > shoulderY - 0.01 * height)
  // arms held high widen the row at the shoulders; the neck is the least patch below the widest of the head
  const span = crownY - shoulderY
  const headPart = above.filter(p => p.y > shoulderY + 0.4 * span)
  const headMax = (headPart.length > 0 ? headPart : [crownPatch]).reduce((a, b) => (b.count > a.count ? b : a))
  const neckPart = above.filter(p => p.y < headMax.y)
  const neckRow = (neckPart.length > 0 ? neckPart : [headMax]).reduce((a, b) => (b.count < a.count ? b : a))
  const neckSeen = neckRow.count < 0.75 * headMax.count

  // the chin: going up from the neck, where the front comes forward the most
  const face = column.filter(p => p.y >= neckRow.y && p.y <= neckRow.y + 0.55 * (crownY - neckRow.y))
  const frontMost = maxOf(face.map(p => p.maxZ))
  const half = neckRow.maxZ + 0.22 * (frontMost - neckRow.maxZ)
  const chinRow = face.find(p => p.maxZ > half) ?? neckRow
  const faceSeen = neckSeen && frontMost > neckRow.maxZ + 0.01 * height
  const up: Vec3 = [0, 1, 0]
  cues.push({
    id: 'crown',
    at: [crownPatch.x, crownY, topZ],
    spread: 0.02 * height,
    along: up,
    alongSpread: 0.012 * height,
  })
  cues.push({
    id: 'chin',
    at: [chinRow.x, chinRow.y, chinRow.maxZ],
    spread: (faceSeen ? 0.014 : 0.04) * height,
    along: up,
    alongSpread: (faceSeen ? 0.014 : 0.05) * height,
  })
  if (neckSeen) {
    const z = (neckRow.minZ + neckRow.maxZ) / 2
    cues.push({
      id: 'neckBase',
      at: [neckRow.x, neckRow.y, z - 0.012 * height],
      spread: 0.014 * height,
      along: up,
      alongSpread: 0.06 * height,
    })
    cues.push({
      id: 'skullBase',
      at: [neckRow.x, chinRow.y, z],
      spread: 0.016 * height,
      along: up,
      alongSpread: 0.06 * height,
    })
  }
  // depth and middle of the trunk; its joints' heights come from their neighbours
  const middleOf = (low: number, high: number): Vec3 | undefined => {
    const own = column.filter(p => p.y > low * shoulderY && p.y < high * shoulderY)
    if (own.length === 0) return undefined
    const mean = (f: (p: Patch) => number): number => own.reduce((s, p) => s + f(p), 0) / own.length
    return [mean(p => p.x), mean(p => p.y), mean(p => (p.minZ + p.maxZ) / 2)]
  }
  const chest = middleOf(0.78, 0.9)
  const hips = middleOf(0.62, 0.72)
  if (chest)
    cues.push({
      id: 'chest',
      at: [chest[0], chest[1], chest[2] - 0.006 * height],
      spread: 0.014 * height,
      along: up,
      alongSpread: 0.5 * height,
    })
  if (hips) cues.push({ id: 'hips', at: hips, spread: 0.016 * height, along: up, alongSpread: 0.5 * height })
  return { cues, neckSeen }
}
