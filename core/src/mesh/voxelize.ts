import { breather, CORNERS_A_LOOK, type Vec3, type WorkOptions } from '../math'
import { boundsOf } from './bounds'

/** A body as solid cells. */
export interface Voxels {
  /** Cells along x, y, z; cell (i, j, k) has index i + nx·(j + ny·k). */
  readonly counts: readonly [number, number, number]
  /** Edge of a cell, metres. */
  readonly size: number
  /** Centre of cell (0, 0, 0). */
  readonly origin: Vec3
  /** nx·ny·nz: position in `cells` of each solid cell, -1 elsewhere. */
  readonly slot: Int32Array
  /** S: grid index of every solid cell, rising. */
  readonly cells: Uint32Array
}

export interface VoxelizeOptions extends WorkOptions {
  /** Cells along the height (y) of the body. */
  readonly cells: number
  /** Only this part of the body, metres; its outermost layer of cells stays empty. */
  readonly box?: { readonly min: Vec3; readonly max: Vec3 }
}

/**
 * Cells at most in the box and in the solid; beyond these the cells grow. A standing figure of 200 cells
 * height fills a tenth of this; what needs more is lying, or no figure, and must not take minutes.
 */
const MOST_CELLS = 6_000_000
const MOST_SOLID = 400_000

/**
 * Solid cells of a possibly unclean body. Along each of the three axes the surface crossings of every
 * column of cell centres are summed with their sign, so that overlapping pieces count as one solid;
 * a column whose sum does not close (a hole, a flipped face) abstains, and the axes vote.
 *
 * Method: parity voting by parallel rays, Nooruddin and Turk 2003, "Simplification and repair of
 * polygonal models using volumetric techniques", with winding sums in place of parity.
 * @param positions 3·V metres  @param indices 3·F
 */
export async function voxelize(
  positions: Float32Array,
  indices: Uint32Array,
  options: VoxelizeOptions,
): Promise<Voxels> {
  const pulse = breather(options)
  const { min, max } = options.box ?? boundsOf(positions)
  const extent = [0, 1, 2].map(k => max[k] - min[k])
  let size = Math.max(extent[1], 1e-9) / options.cells
  const total = (s: number): number => extent.reduce((n, e) => n * (Math.ceil(e / s) + 2), 1)
  while (total(size) > MOST_CELLS) size *= 1.1
  const counts = extent.map(e => Math.ceil(e / size) + 2) as [number, number, number]
  const origin = min.map((m, k) => m + extent[k] / 2 - ((counts[k] - 1) / 2) * size) as Vec3
  const [nx, ny] = counts
  const n = counts[0] * counts[1] * counts[2]
  const inside = new Uint8Array(n)
  /** Axes along which nothing is said of a cell. */
  const abstained = new Uint8Array(n)
  const strides = [1, nx, nx * ny]

  for (let axis = 0; axis < 3; axis++) {
    const u = (axis + 1) % 3
    const v = (axis + 2) % 3
    const columns = await crossingsOf(
      positions,
      indices,
      axis,
      counts[u],
      counts[v],
      size,
      origin[u],
      origin[v],
      share => pulse((axis + 0.5 * share) / 3),
    )
    const na = counts[axis]
    /** The first cell whose centre is not clearly short of a place. */
    const firstFrom = (at: number): number => Math.max(0, Math.ceil((at - origin[axis]) / size) - 1)
    for (let cv = 0; cv < counts[v]; cv++) {
      await pulse((axis + 0.5 + (0.5 * cv) / counts[v]) / 3)
      for (let cu = 0; cu < counts[u]; cu++) {
        const column = cu + counts[u] * cv
        const from = columns.starts[column]
        const to = columns.starts[column + 1]
        sortCrossings(columns.at, columns.sign, from, to)
        let sum = 0
        for (let i = from; i < to; i++) sum += columns.sign[i]
        const base = cu * strides[u] + cv * strides[v]
        if (sum !== 0) {
          for (let a = 0; a < na; a++) abstained[base + a * strides[axis]]++
          continue
        }
        // nothing is to be said before the first crossing and behind the last
        let winding = 0
        let i = from
        for (let a = firstFrom(columns.at[from]); i < to && a < na; a++) {
          const centre = origin[axis] + a * size
          while (i < to && columns.at[i] <= centre) winding += columns.sign[i++]
          if (winding !== 0) inside[base + a * strides[axis]]++
        }
      }
    }
    await pulse((axis + 1) / 3)
  }

  if (options.box) clearBorder(inside, counts)
  await pulse(1)
  const slot = new Int32Array(n).fill(-1)
  const cells = new Uint32Array(n)
  let solid = 0
  for (let c = 0; c < n; c++) {
    if ((c & 0xfffff) === 0xfffff) await pulse(1)
    if (inside[c] > 0 && 2 * inside[c] >= 3 - abstained[c]) {
      slot[c] = solid
      cells[solid++] = c
    }
  }
  if (solid > MOST_SOLID)
    return voxelize(positions, indices, {
      ...options,
      cells: (extent[1] / size) * Math.cbrt(MOST_SOLID / solid) * 0.97,
    })
  return { counts, size, origin, slot, cells: cells.slice(0, solid) }
}

/** Walks from cell to cell must not run off one side of the grid and in at the other. */
function clearBorder(inside: Uint8Array, counts: readonly [number, number, number]): void {
  const [nx, ny, nz] = counts
  for (let k = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) {
        if (i === 0 || j === 0 || k === 0 || i === nx - 1 || j === ny - 1 || k === nz - 1)
          inside[i + nx * (j + ny * k)] = 0
      }
}

/** Where the surface crosses the columns along one axis, with +1 going in and -1 coming out. */
async function crossingsOf(
  positions: Float32Array,
  indices: Uint32Array,
  axis: number,
  nu: number,
  nv: number,
  size: number,
  originU: number,
  originV: number,
  pulse: (share: number) => Promise<void> | undefined,
): Promise<{ starts: Uint32Array; at: Float32Array; sign: Int8Array }> {
  const u = (axis + 1) % 3
  const v = (axis + 2) % 3
  const starts = new Uint32Array(nu * nv + 1)
  let at = new Float32Array(0)
  let sign = new Int8Array(0)
  // shifted by an odd hair, so that columns do not run along edges of bodies modelled on round numbers
  const ou = originU + size * 1.37e-4
  const ov = originV + size * 2.91e-4
  let fill = new Uint32Array(0)
  for (let pass = 0; pass < 2; pass++) {
    if (pass === 1) {
      for (let c = 0; c < nu * nv; c++) starts[c + 1] += starts[c]
      at = new Float32Array(starts[nu * nv])
      sign = new Int8Array(starts[nu * nv])
      fill = starts.slice(0, nu * nv)
    }
    for (let f = 0; f < indices.length; f += 3) {
      if (f % CORNERS_A_LOOK === 0) await pulse((pass + f / indices.length) / 2)
      const a = 3 * indices[f],
        b = 3 * indices[f + 1],
        c = 3 * indices[f + 2]
      const au = positions[a + u],
        av = positions[a + v]
      const bu = positions[b + u],
        bv = positions[b + v]
      const cu = positions[c + u],
        cv = positions[c + v]
      const area = (bu - au) * (cv - av) - (bv - av) * (cu - au)
      if (area === 0) continue
      const u0 = Math.max(0, Math.ceil((Math.min(au, bu, cu) - ou) / size))
      const u1 = Math.min(nu - 1, Math.floor((Math.max(au, bu, cu) - ou) / size))
      const v0 = Math.max(0, Math.ceil((Math.min(av, bv, cv) - ov) / size))
      const v1 = Math.min(nv - 1, Math.floor((Math.max(av, bv, cv) - ov) / size))
      const s = area > 0 ? 1 : -1
      for (let iv = v0; iv <= v1; iv++) {
        const pv = ov + iv * size
        for (let iu = u0; iu <= u1; iu++) {
          const pu = ou + iu * size
          const wa = edge(bu, bv, cu, cv, pu, pv)
          if (s * wa < 0 || (wa === 0 && s < 0)) continue
          const wb = edge(cu, cv, au, av, pu, pv)
          if (s * wb < 0 || (wb === 0 && s < 0)) continue
          const wc = edge(au, av, bu, bv, pu, pv)
          if (s * wc < 0 || (wc === 0 && s < 0)) continue
          const column = iu + nu * iv
          if (pass === 0) starts[column + 1]++
          else {
            const i = fill[column]++
            const w = wa + wb + wc
            at[i] = (wa * positions[a + axis] + wb * positions[b + axis] + wc * positions[c + axis]) / w
            // the area's sign is the sign of the normal along the axis; a face looking back is an entry
            sign[i] = -s
          }
        }
      }
    }
  }
  return { starts, at, sign }
}

/** Edge function with its ends in a fixed order, so that two faces sharing an edge agree to the last bit. */
function edge(au: number, av: number, bu: number, bv: number, pu: number, pv: number): number {
  return au < bu || (au === bu && av < bv)
    ? (bu - au) * (pv - av) - (bv - av) * (pu - au)
    : -((au - bu) * (pv - bv) - (av - bv) * (pu - bu))
}

function sortCrossings(at: Float32Array, sign: Int8Array, from: number, to: number): void {
  for (let i = from + 1; i < to; i++) {
    const a = at[i]
    const s = sign[i]
    let j = i - 1
    while (j >= from && at[j] > a) {
      at[j + 1] = at[j]
      sign[j + 1] = sign[j]
      j--
    }
    at[j + 1] = a
    sign[j + 1] = s
  }
}
