import { breather, type WorkOptions } from '../math'
import { adjacencyOf, componentsOf, forEachEdge, weldByPosition, weldedIndices, type Mesh } from '../mesh'

/** A shell with more of its edges at a rim than this is open cloth; one this thin for its size is a sheet: volume over area to the power of 3/2 (a ball has 0.094, a limb about 0.07). */
const OPEN = 0.04,
  THIN = 0.012

/**
 * Which vertices belong to shells that hang or are worn rather than are flesh: sheets, and tubes open at their ends, told from
 * each shell's rim and volume.
 * @returns one flag a vertex
 */
export async function clothOf(
  { positions, indices }: Pick<Mesh, 'positions' | 'indices'>,
  work: WorkOptions = {},
): Promise<Uint8Array> {
  const pulse = breather(work)
  const weld = weldByPosition(positions)
  const welded = weldedIndices(indices, weld)
  const { labels, count } = componentsOf(adjacencyOf(weld.first.length, welded))
  const edges = new Float64Array(count),
    rims = new Float64Array(count),
    volume = new Float64Array(count),
    area = new Float64Array(count)
  await pulse(0.3)
  await forEachEdge(
    weld.first.length,
    welded,
    (low, _high, forward, back) => {
      edges[labels[low]]++
      if (forward + back === 1) rims[labels[low]]++
    },
    work,
  )
  // volumes are told about the middle of each shell, so that open ones do not depend on where they are
  const middle = new Float64Array(3 * count),
    members = new Float64Array(count)
  for (let v = 0; v < positions.length / 3; v++) {
    const c = labels[weld.of[v]]
    members[c]++
    for (let k = 0; k < 3; k++) middle[3 * c + k] += positions[3 * v + k]
  }
  for (let t = 0; t < indices.length; t += 3) {
    const c = labels[welded[t]]
    const p = [0, 1, 2].map(i => [0, 1, 2].map(k => positions[3 * indices[t + i] + k] - middle[3 * c + k] / members[c]))
    const [a, b, d] = p
    const u = [b[0] - a[0], b[1] - a[1], b[2] - a[2]],
      w = [d[0] - a[0], d[1] - a[1], d[2] - a[2]]
    const n = [u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]]
    area[c] += Math.hypot(n[0], n[1], n[2]) / 2
    volume[c] += (a[0] * n[0] + a[1] * n[1] + a[2] * n[2]) / 6
  }
  const cloth = Uint8Array.from({ length: count }, (_, c) =>
    rims[c] > OPEN * edges[c] || Math.abs(volume[c]) < THIN * area[c] ** 1.5 ? 1 : 0,
  )
  return Uint8Array.from({ length: positions.length / 3 }, (_, v) => cloth[labels[weld.of[v]]])
}
