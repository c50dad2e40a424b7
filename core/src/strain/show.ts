import { weldByPosition, type Mesh } from '../mesh'
import type { Skeleton } from '../skeleton'
import { correctedFor, type TurnedShape } from '../corrective'
import { deform, deformKeepingVolume, type Skin } from '../skin'
import type { CheckPose } from './check-poses'
import type { StrainKind } from './assess'
import { overSurface } from './over-surface'
import { standIn, worldOf } from './take-pose'
import { restTriangles, triangleStrain } from './triangle-strain'

/** What each kind of strain is drawn against: the value at the bright end of the ramp, in its unit. */
export const STRAIN_SCALES: Readonly<Record<StrainKind, { readonly most: number; readonly unit: string }>> = {
  stretch: { most: 100, unit: '%' },
  squeeze: { most: 75, unit: '%' },
  shear: { most: 60, unit: '°' },
  volume: { most: 50, unit: '%' },
}

/** How skin is blended for looking: as games run it, or keeping volume for comparison. */
export type Blending = 'linear' | 'volume'
export const bend = (
  positions: Float32Array,
  skeleton: Skeleton,
  skin: Skin,
  pose: CheckPose,
  share: number,
  blending: Blending,
  shapes: readonly TurnedShape[] = [],
): Float32Array => {
  const local = standIn(skeleton, pose, share)
  // shapes are made for the blend that files carry
  if (blending === 'volume') return deformKeepingVolume(positions, skeleton, skin, worldOf(skeleton, local))
  return deform(correctedFor(positions, skeleton, shapes, local.rotations), skeleton, skin, worldOf(skeleton, local))
}

/**
 * One kind of strain over the body in a pose, for drawing.
 * Loss of volume is drawn where the surface itself shrinks, as 1 − λ1·λ2; how much a region loses as a whole is a
 * number of the assessment.
 * @returns V, in the unit of the scale
 */
export async function strainOver(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  bent: Float32Array,
  kind: StrainKind,
): Promise<Float32Array> {
  const rest = restTriangles(mesh.positions, mesh.indices)
  const strain = triangleStrain(rest, bent)
  const spread = await overSurface(mesh, weldByPosition(mesh.positions), rest.areas)
  if (kind === 'volume') {
    const loss = strain.stretch.map((s, f) => Math.max(0, 1 - (1 + s) * (1 - strain.squeeze[f])))
    return spread.toVertices(loss).map(x => 100 * x)
  }
  const values = spread.toVertices(strain[kind])
  return values.map(x => (kind === 'shear' ? (x * 180) / Math.PI : 100 * x))
}

/** How far two skins put each vertex apart in a pose, metres: V. */
export function differenceOver(a: Float32Array, b: Float32Array): Float32Array {
  const out = new Float32Array(a.length / 3)
  for (let v = 0; v < out.length; v++)
    out[v] = Math.hypot(a[3 * v] - b[3 * v], a[3 * v + 1] - b[3 * v + 1], a[3 * v + 2] - b[3 * v + 2])
  return out
}
