import type { Voxels } from './voxelize'

/**
 * How deep each solid cell lies: Euclidean distance to the nearest empty cell, metres.
 * Method: exact squared distance transform by lower envelopes of parabolas,
 * Felzenszwalb and Huttenlocher 2012, "Distance transforms of sampled functions".
 * @returns S values
 */
export function depthOf(voxels: Voxels): Float32Array {
  const { counts, cells, size } = voxels
  const [nx, ny, nz] = counts
  const d = new Float32Array(nx * ny * nz)
  const far = nx * nx + ny * ny + nz * nz
  for (let i = 0; i < cells.length; i++) d[cells[i]] = far
  const longest = Math.max(nx, ny, nz)
  const f = new Float64Array(longest)
  const hull = new Int32Array(longest)
  const bound = new Float64Array(longest + 1)
  const pass = (start: number, stride: number, n: number): void => {
    for (let q = 0; q < n; q++) f[q] = d[start + q * stride]
    let k = 0
    hull[0] = 0
    bound[0] = -Infinity
    bound[1] = Infinity
    for (let q = 1; q < n; q++) {
      let s = 0
      for (;;) {
        const p = hull[k]
        s = (f[q] + q * q - f[p] - p * p) / (2 * (q - p))
        if (s > bound[k] || k === 0) break
        k--
      }
      if (s <= bound[k]) {
        hull[0] = q
        bound[1] = Infinity
        k = 0
        continue
      }
      k++
      hull[k] = q
      bound[k] = s
      bound[k + 1] = Infinity
    }
    k = 0
    for (let q = 0; q < n; q++) {
      while (bound[k + 1] < q) k++
      d[start + q * stride] = (q - hull[k]) ** 2 + f[hull[k]]
    }
  }
  for (let k = 0; k < nz; k++) for (let j = 0; j < ny; j++) pass(nx * (j + ny * k), 1, nx)
  for (let k = 0; k < nz; k++) for (let i = 0; i < nx; i++) pass(i + nx * ny * k, nx, ny)
  for (let j = 0; j < ny; j++) for (let i = 0; i < nx; i++) pass(i + nx * j, nx * ny, nz)
  const depth = new Float32Array(cells.length)
  for (let i = 0; i < cells.length; i++) depth[i] = Math.sqrt(d[cells[i]]) * size
  return depth
}
