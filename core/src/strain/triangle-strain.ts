import type { Mesh } from '../mesh'

/** How a body's triangles were changed by a pose, each F long. */
export interface TriangleStrain {
  /** Longest principal stretch less one: 0.2 is a fifth longer. */
  readonly stretch: Float32Array
  /** One less the shortest principal stretch: 0.2 is a fifth shorter. */
  readonly squeeze: Float32Array
  /** Largest change of any right angle, radians; empty where it was not asked for. */
  readonly shear: Float32Array
}

/** A body at rest, prepared for measuring any number of its poses. */
export interface RestTriangles {
  readonly indices: Mesh['indices']
  /** F */
  readonly areas: Float32Array
  /** 3·F: the inverse of every triangle's metric, as xx, xy, yy; nothing but zeros where it has no area. */
  readonly inverse: Float64Array
}

/** @param rest 3·V */
export function restTriangles(rest: Float32Array, indices: Mesh['indices']): RestTriangles {
  const n = Math.floor(indices.length / 3)
  const areas = new Float32Array(n)
  const inverse = new Float64Array(3 * n)
  for (let f = 0, q = 0; f < n; f++, q += 3) {
    const a = 3 * indices[q],
      b = 3 * indices[q + 1],
      c = 3 * indices[q + 2]
    const ux = rest[b] - rest[a],
      uy = rest[b + 1] - rest[a + 1],
      uz = rest[b + 2] - rest[a + 2],
      vx = rest[c] - rest[a],
      vy = rest[c + 1] - rest[a + 1],
      vz = rest[c + 2] - rest[a + 2]
    const xx = ux * ux + uy * uy + uz * uz,
      xy = ux * vx + uy * vy + uz * vz,
      yy = vx * vx + vy * vy + vz * vz
    const det = xx * yy - xy * xy
    areas[f] = 0.5 * Math.sqrt(Math.max(0, det))
    if (!(det > 1e-20)) continue
    inverse[q] = yy / det
    inverse[q + 1] = -xy / det
    inverse[q + 2] = xx / det
  }
  return { indices, areas, inverse }
}

/**
 * Strain of every triangle against rest: singular values of the map from the rest triangle to the posed one within
 * their planes; the shear is the largest change of any right angle, asin((λ1² − λ2²) / (λ1² + λ2²)). Follows finite strain theory as in Bonet and Wood 2008, "Nonlinear continuum mechanics", for membranes.
 * Triangles without area at rest have none.
 * @param posed 3·V  @param out written over, where many poses are measured
 * @param triangles those to measure; all where left out
 */
export function triangleStrain(
  rest: RestTriangles,
  posed: Float32Array,
  out?: TriangleStrain,
  triangles?: Uint32Array,
): TriangleStrain {
  const { indices, inverse, areas } = rest
  const n = areas.length
  const { stretch, squeeze, shear } = out ?? strainRoom(n)
  const isSheared = shear.length > 0
  const count = triangles ? triangles.length : n
  for (let i = 0; i < count; i++) {
    const f = triangles ? triangles[i] : i
    const q = 3 * f
    const ixx = inverse[q],
      ixy = inverse[q + 1],
      iyy = inverse[q + 2]
    if (ixx === 0) {
      stretch[f] = 0
      squeeze[f] = 0
      if (isSheared) shear[f] = 0
      continue
    }
    const a = 3 * indices[q],
      b = 3 * indices[q + 1],
      c = 3 * indices[q + 2]
    const px = posed[a],
      py = posed[a + 1],
      pz = posed[a + 2]
    const ux = posed[b] - px,
      uy = posed[b + 1] - py,
      uz = posed[b + 2] - pz,
      vx = posed[c] - px,
      vy = posed[c + 1] - py,
      vz = posed[c + 2] - pz
    const xx = ux * ux + uy * uy + uz * uz,
      xy = ux * vx + uy * vy + uz * vz,
      yy = vx * vx + vy * vy + vz * vz
    // eigenvalues of E⁻¹G are the squared principal stretches
    const half = 0.5 * (ixx * xx + 2 * ixy * xy + iyy * yy)
    const product = (xx * yy - xy * xy) * (ixx * iyy - ixy * ixy)
    const gap = half * half - (product > 0 ? product : 0)
    const root = gap > 0 ? Math.sqrt(gap) : 0
    const most = half + root,
      least = half - root
    const long = Math.sqrt(most) - 1,
      short = 1 - (least > 0 ? Math.sqrt(least) : 0)
    stretch[f] = long > 0 ? long : 0
    squeeze[f] = short > 0 ? short : 0
    if (isSheared) shear[f] = half > 0 ? Math.asin(Math.min(1, root / half)) : 0
  }
  return { stretch, squeeze, shear }
}

/** Room for the strain of so many triangles. */
export const strainRoom = (triangles: number, shear = true): TriangleStrain => ({
  stretch: new Float32Array(triangles),
  squeeze: new Float32Array(triangles),
  shear: new Float32Array(shear ? triangles : 0),
})
