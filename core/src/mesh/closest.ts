/** A point on a surface: a triangle and the shares of its corners. */
export interface SurfacePoint {
  readonly triangle: number
  readonly a: number
  readonly b: number
  readonly c: number
  readonly distance: number
}

/** Finds the point of a surface nearest to a place, exactly. */
export interface ClosestOnSurface {
  /** Undefined for a surface without triangles, and where nothing lies within the distance asked for. */
  nearest(
    x: number,
    y: number,
    z: number,
    within?: number,
    accept?: (triangle: number) => boolean,
  ): SurfacePoint | undefined
  /**
   * Visits the triangles a ray passes through, in no order, with how far along it that is; the direction need not be of unit
   * length. (Möller and Trumbore 1997, "Fast, minimum storage ray/triangle intersection".)
   */
  along(
    from: readonly [number, number, number],
    way: readonly [number, number, number],
    reach: number,
    visit: (triangle: number, at: number) => void,
  ): void
}

/** Triangles in a leaf at most. */
const LEAF = 6

/**
 * A tree of boxes over the triangles, in flat arrays, split at the middle triangle along the longest side where a search
 * first comes; a search goes into the nearer box first and leaves out what lies farther than the best found (Ericson
 * 2005, "Real-time collision detection", 6.1 and 6.3). `bench/closest.ts` measures it beside the kept library.
 * @param positions 3·V  @param indices 3·F of the surface
 */
export function closestOnSurface(positions: Float32Array, indices: ArrayLike<number>): ClosestOnSurface {
  const faces = Math.floor(indices.length / 3)
  const order = Uint32Array.from({ length: faces }, (_, f) => f)
  const centres = new Float32Array(3 * faces)
  for (let f = 0; f < faces; f++)
    for (let k = 0; k < 3; k++)
      centres[3 * f + k] =
        (positions[3 * indices[3 * f] + k] +
          positions[3 * indices[3 * f + 1] + k] +
          positions[3 * indices[3 * f + 2] + k]) /
        3
  // the second child follows the first, which is where `first` says; 0 for leaves, and for what no search went into yet
  const most = Math.max(1, 4 * Math.ceil(faces / LEAF) + 1)
  const boxes = new Float32Array(6 * most)
  const first = new Uint32Array(most)
  const from = new Uint32Array(most)
  const count = new Uint32Array(most)
  let nodes = 0
  const enclose = (low: number, high: number): void => {
    const node = nodes++
    from[node] = low
    count[node] = high - low
    const box = 6 * node
    for (let k = 0; k < 3; k++) {
      boxes[box + k] = Infinity
      boxes[box + 3 + k] = -Infinity
    }
    for (let i = low; i < high; i++)
      for (let c = 0; c < 3; c++) {
        const v = 3 * indices[3 * order[i] + c]
        for (let k = 0; k < 3; k++) {
          const p = positions[v + k]
          if (p < boxes[box + k]) boxes[box + k] = p
          if (p > boxes[box + 3 + k]) boxes[box + 3 + k] = p
        }
      }
  }
  const split = (node: number): void => {
    const box = 6 * node
    const low = from[node],
      high = low + count[node]
    let axis = 0
    for (let k = 1; k < 3; k++)
      if (boxes[box + 3 + k] - boxes[box + k] > boxes[box + 3 + axis] - boxes[box + axis]) axis = k
    const middle = (low + high) >> 1
    select(order, centres, axis, low, high - 1, middle)
    first[node] = nodes
    enclose(low, middle)
    enclose(middle, high)
  }
  if (faces > 0) enclose(0, faces)
  const far = (node: number, x: number, y: number, z: number): number => {
    const b = 6 * node
    const dx = Math.max(boxes[b] - x, 0, x - boxes[b + 3]),
      dy = Math.max(boxes[b + 1] - y, 0, y - boxes[b + 4]),
      dz = Math.max(boxes[b + 2] - z, 0, z - boxes[b + 5])
    return dx * dx + dy * dy + dz * dz
  }
  const stack = new Int32Array(128)
  const squares = new Float64Array(128)
  return {
    nearest(x, y, z, within = Infinity, accept) {
      if (faces === 0) return undefined
      let triangle = -1
      let least = within * within
      let shareB = 0,
        shareC = 0
      let top = 1
      stack[0] = 0
      squares[0] = 0
      while (top > 0) {
        const node = stack[--top]
        if (squares[top] > least) continue
        if (first[node] === 0 && count[node] > LEAF) split(node)
        if (first[node] === 0) {
          const end = from[node] + count[node]
          for (let i = from[node]; i < end; i++) {
            const f = order[i]
            if (accept && !accept(f)) continue
            const square = onTriangle(positions, indices[3 * f], indices[3 * f + 1], indices[3 * f + 2], x, y, z)
            // of equally near ones the first in the file, whatever way the tree goes
            if (square > least || (square === least && f > triangle)) continue
            triangle = f
            least = square
            shareB = shares[0]
            shareC = shares[1]
          }
          continue
        }
        const a = first[node],
          b = a + 1
        const da = far(a, x, y, z),
          db = far(b, x, y, z)
        const aFirst = da <= db
        const farther = aFirst ? db : da,
          nearer = aFirst ? da : db
        if (farther <= least) {
          stack[top] = aFirst ? b : a
          squares[top++] = farther
        }
        if (nearer <= least) {
          stack[top] = aFirst ? a : b
          squares[top++] = nearer
        }
      }
      if (triangle < 0) return undefined
      return { triangle, a: 1 - shareB - shareC, b: shareB, c: shareC, distance: Math.sqrt(least) }
    },
    along(origin, way, reach, visit) {
      if (faces === 0) return
      const [x, y, z] = origin
      const ix = 1 / way[0],
        iy = 1 / way[1],
        iz = 1 / way[2]
      let top = 1
      stack[0] = 0
      while (top > 0) {
        const node = stack[--top]
        const b = 6 * node
        const ax = (boxes[b] - x) * ix,
          bx = (boxes[b + 3] - x) * ix
        const ay = (boxes[b + 1] - y) * iy,
          by = (boxes[b + 4] - y) * iy
        const az = (boxes[b + 2] - z) * iz,
          bz = (boxes[b + 5] - z) * iz
        // 0 · ∞ where a ray runs within the side of a box: that side then says nothing
        const near = Math.max(0, orLow(ax, bx), orLow(ay, by), orLow(az, bz))
        const far = Math.min(reach, orHigh(ax, bx), orHigh(ay, by), orHigh(az, bz))
        if (near > far * (1 + 1e-6) + 1e-12) continue
        if (first[node] === 0 && count[node] > LEAF) split(node)
        if (first[node] !== 0) {
          stack[top++] = first[node]
          stack[top++] = first[node] + 1
          continue
        }
        for (let i = from[node]; i < from[node] + count[node]; i++) {
          const at = throughTriangle(positions, indices, order[i], x, y, z, way)
          if (at >= 0 && at <= reach) visit(order[i], at)
        }
      }
    },
  }
}

const orLow = (a: number, b: number): number => (a < b ? a : b < a ? b : a === b ? a : -Infinity)
const orHigh = (a: number, b: number): number => (a > b ? a : b > a ? b : a === b ? a : Infinity)

/** How far along a ray a triangle is met, from either side; -1 where it is not. */
function throughTriangle(
  p: Float32Array,
  indices: ArrayLike<number>,
  f: number,
  x: number,
  y: number,
  z: number,
  [dx, dy, dz]: readonly [number, number, number],
): number {
  const A = 3 * indices[3 * f],
    B = 3 * indices[3 * f + 1],
    C = 3 * indices[3 * f + 2]
  const ux = p[B] - p[A],
    uy = p[B + 1] - p[A + 1],
    uz = p[B + 2] - p[A + 2]
  const vx = p[C] - p[A],
    vy = p[C + 1] - p[A + 1],
    vz = p[C + 2] - p[A + 2]
  const px = dy * vz - dz * vy,
    py = dz * vx - dx * vz,
    pz = dx * vy - dy * vx
  const det = ux * px + uy * py + uz * pz
  if (det === 0) return -1
  const tx = x - p[A],
    ty = y - p[A + 1],
    tz = z - p[A + 2]
  const u = (tx * px + ty * py + tz * pz) / det
  if (u < -1e-9 || u > 1 + 1e-9) return -1
  const qx = ty * uz - tz * uy,
    qy = tz * ux - tx * uz,
    qz = tx * uy - ty * ux
  const v = (dx * qx + dy * qy + dz * qz) / det
  if (v < -1e-9 || u + v > 1 + 1e-9) return -1
  return (vx * qx + vy * qy + vz * qz) / det
}

/** Puts the element of a rank along an axis in its place, smaller ones before it (quickselect, Hoare 1961). */
function select(
  order: Uint32Array,
  centres: Float32Array,
  axis: number,
  low: number,
  high: number,
  rank: number,
): void {
  while (low < high) {
    const pivot = centres[3 * order[(low + high) >> 1] + axis]
    let i = low,
      j = high
    while (i <= j) {
      while (centres[3 * order[i] + axis] < pivot) i++
      while (centres[3 * order[j] + axis] > pivot) j--
      if (i <= j) {
        const kept = order[i]
        order[i++] = order[j]
        order[j--] = kept
      }
    }
    if (rank <= j) high = j
    else if (rank >= i) low = i
    else return
  }
}

/** Where `onTriangle` leaves the shares of the second and third corner. */
const shares = new Float64Array(2)

/**
 * Squared distance from a place to a triangle, the nearest point's shares left in `shares` (Ericson 2005, "Real-time
 * collision detection", 5.1.5). Nothing is allocated: it is asked many times a query.
 */
function onTriangle(p: Float32Array, ia: number, ib: number, ic: number, x: number, y: number, z: number): number {
  const A = 3 * ia,
    B = 3 * ib,
    C = 3 * ic
  const ax = p[A],
    ay = p[A + 1],
    az = p[A + 2]
  const abx = p[B] - ax,
    aby = p[B + 1] - ay,
    abz = p[B + 2] - az
  const acx = p[C] - ax,
    acy = p[C + 1] - ay,
    acz = p[C + 2] - az
  const apx = x - ax,
    apy = y - ay,
    apz = z - az
  const d1 = abx * apx + aby * apy + abz * apz,
    d2 = acx * apx + acy * apy + acz * apz
  let b = 0,
    c = 0
  if (d1 > 0 || d2 > 0) {
    const bpx = apx - abx,
      bpy = apy - aby,
      bpz = apz - abz
    const d3 = abx * bpx + aby * bpy + abz * bpz,
      d4 = acx * bpx + acy * bpy + acz * bpz
    if (d3 >= 0 && d4 <= d3) b = 1
    else {
      const vc = d1 * d4 - d3 * d2
      // triangles without an area have differences of nothing
      if (vc <= 0 && d1 >= 0 && d3 <= 0) b = d1 > d3 ? d1 / (d1 - d3) : 0
      else {
        const cpx = apx - acx,
          cpy = apy - acy,
          cpz = apz - acz
        const d5 = abx * cpx + aby * cpy + abz * cpz,
          d6 = acx * cpx + acy * cpy + acz * cpz
        if (d6 >= 0 && d5 <= d6) c = 1
        else {
          const vb = d5 * d2 - d1 * d6
          const va = d3 * d6 - d5 * d4
          if (vb <= 0 && d2 >= 0 && d6 <= 0) c = d2 > d6 ? d2 / (d2 - d6) : 0
          else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
            c = d4 - d3 + (d5 - d6) > 0 ? (d4 - d3) / (d4 - d3 + (d5 - d6)) : 0
            b = 1 - c
          } else {
            const k = va + vb + vc
            if (k > 0) {
              b = vb / k
              c = vc / k
            }
          }
        }
      }
    }
  }
  shares[0] = b
  shares[1] = c
  const dx = b * abx + c * acx - apx,
    dy = b * aby + c * acy - apy,
    dz = b * abz + c * acz - apz
  return dx * dx + dy * dy + dz * dz
}
