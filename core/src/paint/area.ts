import { ChiraxisError } from '../math'
import { findJoint, mirroredName } from '../skeleton'
import type { Canvas } from './canvas'
import type { SkinEditOf } from './edit'
import { lockOf, mixRow, noJoint } from './row'
import { verticesOfPieces } from './pieces-mask'
import { underDab } from './reach'

type AreaEdit = SkinEditOf<'area'>
export type Area = AreaEdit['area']

/**
 * Welded vertices of a marked area, with how much each belongs to it, 0..1: everything in reach of one of its dabs that
 * looks the same way, or any way where it was marked through the body.
 * @param flip the area on the other side of the midplane in its place
 */
export function areaOf(canvas: Canvas, { dabs, falloff, through }: Area, flip = false): Map<number, number> {
  const s = flip ? -1 : 1
  const { size } = canvas
  const out = new Map<number, number>()
  for (const [x, y, z, nx, ny, nz, radius] of dabs)
    underDab(
      canvas,
      { radius: radius * size, falloff, through },
      [s * x * size, y * size, z * size],
      [s * nx, ny, nz],
      (v, share) => {
        if (share > (out.get(v) ?? 0)) out.set(v, share)
      },
    )
  return out
}

/** Mean weights of an area, as joints and shares that sum to one; those of an eighth of a percent and less are left out. */
export function meanOf({ skin }: Canvas, area: ReadonlyMap<number, number>): Map<number, number> {
  const k = skin.influences
  const sums = new Map<number, number>()
  let all = 0
  for (const [v, f] of area)
    for (let i = v * k; i < v * k + k; i++)
      if (skin.weights[i] > 0) {
        sums.set(skin.joints[i], (sums.get(skin.joints[i]) ?? 0) + f * skin.weights[i])
        all += f * skin.weights[i]
      }
  const told = [...sums].map(([joint, w]) => [joint, w / (all || 1)] as const).filter(([, w]) => w > 0.00125)
  const sum = told.reduce((s, [, w]) => s + w, 0)
  return new Map(told.map(([joint, w]) => [joint, w / (sum || 1)]))
}

/**
 * Does something to all of a marked area, and to its mirror image where it was marked on both sides.
 * @throws ChiraxisError `lost-edit` where the body has no surface there any more or the skeleton lacks a joint
 */
export function applyToArea(canvas: Canvas, edit: AreaEdit): void {
  const inside = edit.pieces && verticesOfPieces(canvas, edit.pieces)
  let any = false
  for (const flip of edit.area.mirror ? [false, true] : [false]) {
    const area = areaOf(canvas, edit.area, flip)
    if (inside) for (const v of [...area.keys()]) if (!inside[v]) area.delete(v)
    if (area.size === 0) continue
    any = true
    const locked = lockOf(canvas.skeleton, flip ? edit.locked.map(mirroredName) : edit.locked)
    const row = edit.does === 'average' ? meanOf(canvas, area) : rowTold(canvas, edit, flip)
    for (const [v, f] of area) mixRow(canvas, v, row, edit.amount * f, locked)
  }
  if (!any) throw new ChiraxisError('lost-edit', 'the body no longer has a surface there.')
}

/** The weights a paste brings, on either side. */
function rowTold({ skeleton }: Canvas, edit: AreaEdit, flip: boolean): Map<number, number> {
  const row = new Map<number, number>()
  for (const { joint, weight } of edit.weights ?? []) {
    let j = findJoint(skeleton, joint)
    if (j < 0) throw noJoint(joint)
    if (flip) {
      const other = findJoint(skeleton, mirroredName(joint))
      if (other >= 0) j = other
    }
    row.set(j, (row.get(j) ?? 0) + weight)
  }
  const sum = [...row.values()].reduce((a, b) => a + b, 0)
  if (!(sum > 0)) throw new ChiraxisError('bad-weights', 'the weights to paste are all zero.')
  return new Map([...row].map(([j, w]) => [j, w / sum]))
}
