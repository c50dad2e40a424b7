import { breather, type WorkOptions } from '../math'
import { cellCoordinates, type Voxels } from '../mesh'

/** The weight of one joint in the cells where it has any: parallel arrays, cells rising. */
export interface JointField {
  readonly cells: Uint32Array
  readonly values: Float32Array
}

export interface DiffuseOptions extends WorkOptions {
  readonly firmness: number
}

/** Cells that exchange heat: per cell six neighbours (a zero cell at the end where there is none) and how strongly. */
interface Lattice {
  readonly size: number
  readonly links: Int32Array
  /** Strength of each link; all one on the fine lattice. */
  readonly strengths?: Float32Array
  /** Pull of the nearest bone, and the whole diagonal. */
  readonly pull: Float32Array
  readonly diagonal: Float32Array
}

/** Coarse weights below this leave nothing on the fine lattice that pruning would keep. */
const TRACE = 0.0015
/** Decay lengths after which a joint's weight is nothing. */
const REACH = 3
/** Strength of the pull at firmness 1: a joint lets go within about the radius of its limb. */
const PULL = 2

/**
 * Weights in equilibrium between diffusion and the pull of the nearest bone: (H − Δ) w = H p with
 * H = firmness / d², p one where the joint's bone is nearest (after Baran and Popović 2007, in the volume).
 * Each joint is solved on blocks of 2×2×2 cells first; that answer tells where the joint reaches, and is the
 * first guess for conjugate gradients on the cells (a two-level cascade, Bornemann and Deuflhard 1996).
 * @param label S: nearest joint  @param reach S: way to its bone, metres
 */
export async function diffuse(
  voxels: Voxels,
  label: Int32Array,
  reach: Float32Array,
  joints: number,
  options: DiffuseOptions,
): Promise<JointField[]> {
  const pulse = breather(options)
  const n = voxels.cells.length
  const pull = new Float32Array(n)
  for (let i = 0; i < n; i++) pull[i] = (PULL * options.firmness) / Math.max(reach[i] / voxels.size, 0.5) ** 2
  const fine = fineLattice(voxels, pull)
  const { lattice: coarse, blockOf, starts, members } = blocksOf(voxels, fine)
  const own: number[][] = Array.from({ length: joints }, () => [])
  for (let i = 0; i < n; i++) if (label[i] >= 0) own[label[i]].push(i)
  await pulse(0)

  const fineWork = workspace(n)
  const coarseWork = workspace(coarse.size)
  const fields: JointField[] = []
  for (let j = 0; j < joints; j++) {
    await pulse(j / joints)
    if (own[j].length === 0) {
      fields.push({ cells: new Uint32Array(0), values: new Float32Array(0) })
      continue
    }
    // blocks the joint can reach, and what its bone feeds into them
    const fed = new Map<number, number>()
    const budget = new Map<number, number>()
    for (const c of own[j]) {
      const b = blockOf[c]
      fed.set(b, (fed.get(b) ?? 0) + pull[c])
      budget.set(
        b,
        Math.max(
          budget.get(b) ?? 0,
          (REACH * Math.max(1, reach[c] / voxels.size)) / Math.sqrt(PULL * options.firmness) / 2,
        ),
      )
    }
    const domain = spread(coarse, budget)
    for (const b of domain) {
      coarseWork.right[b] = fed.get(b) ?? 0
      coarseWork.x[b] = coarseWork.right[b] / coarse.pull[b]
    }
    solve(coarse, domain, coarseWork, 1e-4, 40)
    const cells: number[] = []
    for (const b of domain) {
      if (coarseWork.x[b] < TRACE && !fed.has(b)) continue
      for (let e = starts[b]; e < starts[b + 1]; e++) cells.push(members[e])
    }
    const reached = Uint32Array.from(cells).sort()
    for (const c of reached) {
      fineWork.right[c] = label[c] === j ? pull[c] : 0
      fineWork.x[c] = coarseWork.x[blockOf[c]]
    }
    clear(coarseWork, domain)
    solve(fine, reached, fineWork, 2e-5, 30)
    const values = new Float32Array(reached.length)
    for (let i = 0; i < reached.length; i++) values[i] = fineWork.x[reached[i]]
    clear(fineWork, reached)
    fields.push({ cells: reached, values })
  }
  return fields
}

function fineLattice(voxels: Voxels, pull: Float32Array): Lattice {
  const { cells, slot, counts } = voxels
  const n = cells.length
  const offsets = [1, -1, counts[0], -counts[0], counts[0] * counts[1], -counts[0] * counts[1]]
  const links = new Int32Array(6 * n)
  const diagonal = new Float32Array(n)
  for (let i = 0; i < n; i++) {
    let degree = 0
    for (let k = 0; k < 6; k++) {
      const next = slot[cells[i] + offsets[k]]
      links[6 * i + k] = next < 0 ? n : next
      if (next >= 0) degree++
    }
    diagonal[i] = degree + pull[i]
  }
  return { size: n, links, pull, diagonal }
}

/** Blocks of 2×2×2 cells as a lattice of their own, and which cells each is made of. */
function blocksOf(
  voxels: Voxels,
  fine: Lattice,
): { lattice: Lattice; blockOf: Int32Array; starts: Uint32Array; members: Uint32Array } {
  const { counts } = voxels
  const wide = counts.map(c => (c >> 1) + 1)
  const at = new Int32Array(wide[0] * wide[1] * wide[2]).fill(-1)
  const n = fine.size
  const blockOf = new Int32Array(n)
  let size = 0
  const place: number[] = []
  for (let i = 0; i < n; i++) {
    const [x, y, z] = cellCoordinates(voxels, i)
    const cell = (x >> 1) + wide[0] * ((y >> 1) + wide[1] * (z >> 1))
    if (at[cell] < 0) {
      at[cell] = size++
      place.push(cell)
    }
    blockOf[i] = at[cell]
  }
  const links = new Int32Array(6 * size).fill(size)
  const strengths = new Float32Array(6 * size)
  const pull = new Float32Array(size)
  const starts = new Uint32Array(size + 1)
  for (let i = 0; i < n; i++) {
    const b = blockOf[i]
    starts[b + 1]++
    pull[b] += fine.pull[i]
    for (let k = 0; k < 6; k++) {
      const next = fine.links[6 * i + k]
      if (next === n || blockOf[next] === b) continue
      links[6 * b + k] = blockOf[next]
      // between the middles of blocks the way is twice that between cells
      strengths[6 * b + k] += 0.5
    }
  }
  for (let b = 0; b < size; b++) starts[b + 1] += starts[b]
  const members = new Uint32Array(n)
  const fill = starts.slice(0, size)
  for (let i = 0; i < n; i++) members[fill[blockOf[i]]++] = i
  const diagonal = new Float32Array(size)
  for (let b = 0; b < size; b++) {
    diagonal[b] = pull[b]
    for (let k = 0; k < 6; k++) diagonal[b] += strengths[6 * b + k]
  }
  return { lattice: { size, links, strengths, pull, diagonal }, blockOf, starts, members }
}

/** All cells within the step budget of those given; each is taken by whoever comes first. */
function spread(lattice: Lattice, budget: ReadonlyMap<number, number>): Uint32Array {
  const cells = [...budget.keys()]
  const left = [...budget.values()]
  const taken = new Set(cells)
  for (let i = 0; i < cells.length; i++) {
    if (left[i] < 1) continue
    for (let k = 0; k < 6; k++) {
      const o = lattice.links[6 * cells[i] + k]
      if (o === lattice.size || taken.has(o)) continue
      taken.add(o)
      cells.push(o)
      left.push(left[i] - 1)
    }
  }
  return Uint32Array.from(cells).sort()
}

/** Vectors over a whole lattice, with a zero cell at the end; only cells of the domain are ever not zero. */
interface Workspace {
  readonly x: Float32Array
  readonly right: Float32Array
  readonly r: Float32Array
  readonly p: Float32Array
  readonly ap: Float32Array
}
const workspace = (n: number): Workspace => {
  const vector = (): Float32Array => new Float32Array(n + 1)
  return { x: vector(), right: vector(), r: vector(), p: vector(), ap: vector() }
}
function clear(work: Workspace, domain: Uint32Array): void {
  for (const c of domain) work.x[c] = work.right[c] = work.r[c] = work.p[c] = work.ap[c] = 0
}

function apply(lattice: Lattice, domain: Uint32Array, v: Float32Array, out: Float32Array): void {
  const { links, diagonal, strengths } = lattice
  for (let d = 0; d < domain.length; d++) {
    const i = domain[d],
      k = 6 * i
    out[i] = strengths
      ? diagonal[i] * v[i] -
        strengths[k] * v[links[k]] -
        strengths[k + 1] * v[links[k + 1]] -
        strengths[k + 2] * v[links[k + 2]] -
        strengths[k + 3] * v[links[k + 3]] -
        strengths[k + 4] * v[links[k + 4]] -
        strengths[k + 5] * v[links[k + 5]]
      : diagonal[i] * v[i] -
        v[links[k]] -
        v[links[k + 1]] -
        v[links[k + 2]] -
        v[links[k + 3]] -
        v[links[k + 4]] -
        v[links[k + 5]]
  }
}

/** Conjugate gradients with a diagonal preconditioner in the cells of the domain; everything else is held at zero. */
function solve(lattice: Lattice, domain: Uint32Array, work: Workspace, enough: number, rounds: number): void {
  const { x, right, r, p, ap } = work
  const { diagonal } = lattice
  apply(lattice, domain, x, ap)
  let rz = 0
  let norm = 0
  for (let d = 0; d < domain.length; d++) {
    const i = domain[d]
    r[i] = right[i] - ap[i]
    p[i] = r[i] / diagonal[i]
    rz += r[i] * p[i]
    norm += (right[i] * right[i]) / diagonal[i]
  }
  for (let round = 0; round < rounds && rz > enough * norm; round++) {
    apply(lattice, domain, p, ap)
    let pap = 0
    for (let d = 0; d < domain.length; d++) pap += p[domain[d]] * ap[domain[d]]
    const alpha = rz / pap
    let next = 0
    for (let d = 0; d < domain.length; d++) {
      const i = domain[d]
      x[i] += alpha * p[i]
      const left = r[i] - alpha * ap[i]
      r[i] = left
      next += (left * left) / diagonal[i]
    }
    const beta = next / rz
    for (let d = 0; d < domain.length; d++) {
      const i = domain[d]
      p[i] = r[i] / diagonal[i] + beta * p[i]
    }
    rz = next
  }
}
