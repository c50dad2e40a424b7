import type { Mesh } from '../mesh'

/** How a body's triangles were changed by a pose, each F long. */
export interface TriangleStrain {
  /** Longest principal stretch less one: 0.2 is a fifth longer. */
  readonly stretch: Float32Array
  /** One less the shortest principal stretch: 0.2 is a fifth shorter. */
  readonly squeeze: Float32Array
  /** Largest change of a right angle, radians. */
  readonly shear: Float32Array
}

/**
 * Strain of every triangle against rest: singular values of the map from the rest triangle to the posed one within
 * their planes; the shear is the largest change of any right angle, asin((λ1² − λ2²) / (λ1² + λ2²)).
 * Follows finite strain theory as in Bonet and Wood 2008, "Nonlinear continuum mechanics", for membranes.
 * Triangles without area at rest have none.
 * @param rest 3·V  @param posed 3·V
 */
export function triangleStrain(rest: Float32Array, posed: Float32Array, indices: Mesh['indices']): TriangleStrain {
  const n = indices.length / 3
  const stretch = new Float32Array(n),
    squeeze = new Float32Array(n),
    shear = new Float32Array(n)
  for (let f = 0; f < n; f++) {
    const a = 3 * indices[3 * f],
      b = 3 * indices[3 * f + 1],
      c = 3 * indices[3 * f + 2]
    // metric of the triangle's two edges at rest and posed
    const e = metric(rest, a, b, c),
      g = metric(posed, a, b, c)
    const det = e[0] * e[2] - e[1] * e[1]
    if (!(det > 1e-20)) continue
    // eigenvalues of E⁻¹G are the squared principal stretches
    const trace = (e[2] * g[0] - 2 * e[1] * g[1] + e[0] * g[2]) / det
    const product = Math.max(0, (g[0] * g[2] - g[1] * g[1]) / det)
    const root = Math.sqrt(Math.max(0, (trace * trace) / 4 - product))
    const most = trace / 2 + root,
      least = Math.max(0, trace / 2 - root)
    stretch[f] = Math.max(0, Math.sqrt(most) - 1)
    squeeze[f] = Math.max(0, 1 - Math.sqrt(least))
    shear[f] = most + least > 0 ? Math.asin(Math.min(1, (most - least) / (most + least))) : 0
  }
  return { stretch, squeeze, shear }
}

const out: [Float64Array, Float64Array] = [new Float64Array(3), new Float64Array(3)]
let turn = 0
function metric(p: Float32Array, a: number, b: number, c: number): Float64Array {
  const m = out[(turn ^= 1)]
  const ux = p[b] - p[a],
    uy = p[b + 1] - p[a + 1],
    uz = p[b + 2] - p[a + 2]
  const vx = p[c] - p[a],
    vy = p[c + 1] - p[a + 1],
    vz = p[c + 2] - p[a + 2]
  m[0] = ux * ux + uy * uy + uz * uz
  m[1] = ux * vx + uy * vy + uz * vz
  m[2] = vx * vx + vy * vy + vz * vz
  return m
}

/** Area of every triangle, F. */
export function triangleAreas(positions: Float32Array, indices: Mesh['indices']): Float32Array {
  const n = indices.length / 3
  const areas = new Float32Array(n)
  for (let f = 0; f < n; f++) {
    const m = metric(positions, 3 * indices[3 * f], 3 * indices[3 * f + 1], 3 * indices[3 * f + 2])
    areas[f] = 0.5 * Math.sqrt(Math.max(0, m[0] * m[2] - m[1] * m[1]))
  }
  return areas
}
