import { emptySkin, gatherInto, type Skin } from '../skin'

/** Where every vertex of a new surface lies on the one it was made from: three corners and their shares. */
export interface SurfaceLineage {
  /** 3·V vertices of the source */
  readonly corners: Uint32Array
  /** 3·V, summing to one a vertex */
  readonly shares: Float32Array
}

/** Values of the source's vertices, carried over. @param size how many a vertex has */
export function carried(
  { corners, shares }: SurfaceLineage,
  values: ArrayLike<number>,
  size: number,
): Float32Array<ArrayBuffer> {
  const n = corners.length / 3
  const out = new Float32Array(size * n)
  for (let v = 0; v < n; v++)
    for (let c = 0; c < 3; c++) {
      const from = size * corners[3 * v + c],
        share = shares[3 * v + c]
      if (share !== 0) for (let k = 0; k < size; k++) out[size * v + k] += share * values[from + k]
    }
  return out
}

/** Weights carried over; as many joints a vertex as the source has at most. */
export function carriedSkin({ corners, shares }: SurfaceLineage, skin: Skin, joints: number): Skin {
  const n = corners.length / 3
  const k = skin.influences
  const out = emptySkin(n, k)
  const gather = gatherInto(out, joints)
  for (let v = 0; v < n; v++) {
    for (let c = 0; c < 3; c++) {
      const row = k * corners[3 * v + c],
        share = shares[3 * v + c]
      for (let i = row; share > 0 && i < row + k && skin.weights[i] > 0; i++)
        gather.add(skin.joints[i], share * skin.weights[i])
    }
    gather.settle(v)
  }
  return out
}
