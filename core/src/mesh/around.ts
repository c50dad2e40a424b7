import type { Vec3 } from '../math'

/** What lies about some points, for each of them. */
export interface Around {
  /** Groups of triangles the point is inside of, as its closed walls tell from four of the six sides at least. */
  readonly inside: readonly ReadonlySet<number>[]
  /** Groups that lie about it on four of the six sides at least: open tubes and double walls too. */
  readonly about: readonly ReadonlySet<number>[]
  /** How far off the nearest of each group is on the mean of the sides it is seen on. */
  readonly reach: readonly ReadonlyMap<number, number>[]
}

/** Cells along the longest side of the grid that triangles are looked up in. */
const CELLS = 96

/**
 * Which groups of triangles lie about points: lines along the three axes are followed both ways from each, and what they
 * cross is counted with its sense, so that an opening on one side or a wall turned inside out misleads nothing.
 * @param positions 3·V  @param indices 3·F  @param groupOf group of the triangle whose corners begin at a place
 * @param pulse called now and then
 */
export async function groupsAround(
  positions: Float32Array,
  indices: ArrayLike<number>,
  groupOf: (corner: number) => number,
  points: readonly Vec3[],
  pulse: () => Promise<void> | undefined,
): Promise<Around> {
  const sides = points.map(() => new Map<number, { inside: number; about: number; far: number }>())
  for (const axis of [0, 1, 2]) {
    const [u, v] = [(axis + 1) % 3, (axis + 2) % 3]
    const low = [Infinity, Infinity],
      high = [-Infinity, -Infinity]
    for (const p of points)
      [u, v].forEach((k, i) => {
        low[i] = Math.min(low[i], p[k])
        high[i] = Math.max(high[i], p[k])
      })
    const size = Math.max(1e-9, high[0] - low[0], high[1] - low[1]) / CELLS
    const wide = Math.floor((high[0] - low[0]) / size) + 1,
      tall = Math.floor((high[1] - low[1]) / size) + 1
    const cells = Array.from({ length: wide * tall }, (): number[] => [])
    const cellOf = (x: number, i: number, most: number): number =>
      Math.min(most - 1, Math.max(0, Math.floor((x - low[i]) / size)))
    points.forEach((p, i) => cells[cellOf(p[u], 0, wide) + wide * cellOf(p[v], 1, tall)].push(i))
    /** Crossings ahead and behind of each point, by group: how far the nearest is, and their senses added up. */
    const crossed = points.map(() => new Map<number, { far: [number, number]; sense: [number, number] }>())
    for (let f = 0; f < indices.length; f += 3) {
      if (f % 60_000 === 0) await pulse()
      const a = 3 * indices[f],
        b = 3 * indices[f + 1],
        c = 3 * indices[f + 2]
      const au = positions[a + u],
        bu = positions[b + u],
        cu = positions[c + u]
      const lowU = Math.min(au, bu, cu),
        highU = Math.max(au, bu, cu)
      if (highU < low[0] || lowU > high[0]) continue
      const av = positions[a + v],
        bv = positions[b + v],
        cv = positions[c + v]
      const lowV = Math.min(av, bv, cv),
        highV = Math.max(av, bv, cv)
      if (highV < low[1] || lowV > high[1]) continue
      const area = (bu - au) * (cv - av) - (cu - au) * (bv - av)
      if (area === 0) continue
      const i0 = cellOf(lowU, 0, wide),
        i1 = cellOf(highU, 0, wide)
      const j0 = cellOf(lowV, 1, tall),
        j1 = cellOf(highV, 1, tall)
      for (let j = j0; j <= j1; j++)
        for (let i = i0; i <= i1; i++)
          for (const at of cells[i + wide * j]) {
            const pu = points[at][u],
              pv = points[at][v]
            const wa = ((bu - pu) * (cv - pv) - (cu - pu) * (bv - pv)) / area
            const wb = ((cu - pu) * (av - pv) - (au - pu) * (cv - pv)) / area
            const wc = 1 - wa - wb
            if (wa < 0 || wb < 0 || wc < 0) continue
            const depth = wa * positions[a + axis] + wb * positions[b + axis] + wc * positions[c + axis]
            const off = depth - points[at][axis]
            const side = off > 0 ? 0 : 1
            const group = groupOf(f)
            let own = crossed[at].get(group)
            if (!own) crossed[at].set(group, (own = { far: [Infinity, Infinity], sense: [0, 0] }))
            own.far[side] = Math.min(own.far[side], Math.abs(off))
            own.sense[side] += Math.sign(area)
          }
    }
    crossed.forEach((groups, at) => {
      for (const [group, { far, sense }] of groups) {
        const own = sides[at].get(group) ?? { inside: 0, about: 0, far: 0 }
        for (const side of [0, 1]) {
          if (far[side] === Infinity) continue
          own.about++
          own.far += far[side]
          if (sense[side] !== 0) own.inside++
        }
        sides[at].set(group, own)
      }
    })
  }
  const most = (what: 'inside' | 'about'): Set<number>[] =>
    sides.map(groups => new Set([...groups].flatMap(([group, n]) => (n[what] >= 4 ? [group] : []))))
  return {
    inside: most('inside'),
    about: most('about'),
    reach: sides.map(groups => new Map([...groups].map(([group, { far, about }]) => [group, far / about]))),
  }
}
