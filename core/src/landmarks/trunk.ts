import { lerp, type Vec3, maxOf } from '../math'
import type { Patch } from './rows'
import type { Landmark } from './landmark'

/** Head, neck and trunk from the patches about the midline, given shoulders and hips. */
export function readTrunk(
  rows: readonly Patch[][],
  height: number,
  shoulders: readonly [Vec3, Vec3],
  hips: readonly [Vec3, Vec3],
): Landmark[] {
  const shoulderY = (shoulders[0][1] + shoulders[1][1]) / 2
  const hipJointY = (hips[0][1] + hips[1][1]) / 2
  const column: Patch[] = []
  for (const row of rows) {
    const middle = row.filter(p => p.minX < 0.01 * height && p.maxX > -0.01 * height)
    if (middle.length > 0) column.push(middle.reduce((a, b) => (b.count > a.count ? b : a)))
  }
  const crownPatch = column[column.length - 1]
  const crownY = crownPatch.y
  // the very top may be a tuft or a corner; its depth is that of the whole top of the head
  const topRows = column.filter(p => p.y > crownY - 0.035 * height)
  const topZ = topRows.reduce((s, p) => s + p.z * p.count, 0) / topRows.reduce((s, p) => s + p.count, 0)
  const above = column.filter(p => p.y > shoulderY - 0.01 * height)
  // arms held high widen the row at the shoulders; the neck is the least patch below the widest of the head
  const span = crownY - shoulderY
  const headPart = above.filter(p => p.y > shoulderY + 0.4 * span)
  const headMax = headPart.reduce((a, b) => (b.count > a.count ? b : a))
  const neckPart = above.filter(p => p.y < headMax.y)
  const neckRow = neckPart.reduce((a, b) => (b.count < a.count ? b : a), neckPart[0])
  const neckSeen = neckRow.count < 0.75 * headMax.count

  // the chin: going up from the neck, where the front comes forward the most
  const face = column.filter(p => p.y >= neckRow.y && p.y <= neckRow.y + 0.55 * (crownY - neckRow.y))
  const frontMost = maxOf(face.map(p => p.maxZ))
  const half = neckRow.maxZ + 0.22 * (frontMost - neckRow.maxZ)
  const chinRow = face.find(p => p.maxZ > half) ?? neckRow
  const chinY = chinRow.y
  const headSize = crownY - chinY

  const neckY = shoulderY + 0.62 * (chinY - shoulderY)
  const skullY = chinY + 0.08 * headSize
  const at = (y: number): Patch => column.reduce((a, b) => (Math.abs(b.y - y) < Math.abs(a.y - y) ? b : a))
  const around = (y: number): number => {
    const near = column.filter(p => Math.abs(p.y - y) < 0.012 * height)
    return near.length > 0 ? near.reduce((s, p) => s + (p.minZ + p.maxZ) / 2, 0) / near.length : at(y).z
  }
  const hipsY = hipJointY + 0.07 * (neckY - hipJointY)
  const hipsPoint: Vec3 = [0, hipsY, (around(hipsY) + hips[0][2] + hips[1][2]) / 3]
  const neckZ = around(neckRow.y) - 0.05 * (neckRow.maxZ - neckRow.minZ)
  const neck: Vec3 = [0, neckY, neckZ]
  const chestY = lerp(hipsPoint, neck, 0.42)[1]
  const chestPatch = at(chestY)
  const chest: Vec3 = [
    0,
    chestY,
    (around(chestY) + lerp(hipsPoint, neck, 0.42)[2]) / 2 - 0.03 * (chestPatch.maxZ - chestPatch.minZ),
  ]
  const sure = neckSeen ? 0.93 : 0.55
  return [
    { id: 'crown', position: [0, crownY, topZ], confidence: 0.98 },
    {
      id: 'chin',
      position: [0, chinY, chinRow.maxZ],
      confidence: neckSeen && frontMost > neckRow.maxZ + 0.01 * height ? 0.9 : 0.5,
    },
    { id: 'skullBase', position: [0, skullY, neckZ], confidence: sure },
    { id: 'neckBase', position: neck, confidence: sure - 0.02 },
    { id: 'chest', position: chest, confidence: 0.85 },
    { id: 'hips', position: hipsPoint, confidence: 0.88 },
  ]
}
