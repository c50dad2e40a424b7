import { breather, type WorkOptions } from '../math'

/**
 * Triangles of a surface that pass through others of it which share no vertex with them, found in a grid of boxes and told by edges
 * that go through (Möller and Trumbore 1997).
 * @returns pairs of triangles, each once
 */
export async function crossingsOf(
  places: ArrayLike<number>,
  triangles: Uint32Array,
  work: WorkOptions = {},
): Promise<[number, number][]> {
  const pulse = breather(work)
  const faces = triangles.length / 3
  let sum = 0
  const boxes = new Float64Array(6 * faces)
  for (let f = 0; f < faces; f++) {
    for (let c = 0; c < 3; c++) {
      const [a, b, d] = [0, 1, 2].map(i => places[3 * triangles[3 * f + i] + c])
      boxes[6 * f + c] = Math.min(a, b, d)
      boxes[6 * f + 3 + c] = Math.max(a, b, d)
      sum += boxes[6 * f + 3 + c] - boxes[6 * f + c]
    }
  }
  const cell = (sum / (3 * Math.max(1, faces))) * 2 || 1
  const grid = new Map<number, number[]>()
  const tried = new Int32Array(faces).fill(-1)
  const out: [number, number][] = []
  for (let f = 0; f < faces; f++) {
    if (f % 500 === 0) await pulse(f / faces)
    const x0 = Math.floor(boxes[6 * f] / cell),
      y0 = Math.floor(boxes[6 * f + 1] / cell),
      z0 = Math.floor(boxes[6 * f + 2] / cell)
    const x1 = Math.floor(boxes[6 * f + 3] / cell),
      y1 = Math.floor(boxes[6 * f + 4] / cell),
      z1 = Math.floor(boxes[6 * f + 5] / cell)
    for (let x = x0; x <= x1; x++)
      for (let y = y0; y <= y1; y++)
        for (let z = z0; z <= z1; z++) {
          const key = (Math.imul(x, 73856093) ^ Math.imul(y, 19349663) ^ Math.imul(z, 83492791)) >>> 0
          const here = grid.get(key)
          for (const g of here ?? []) {
            if (tried[g] === f || g === f) continue
            tried[g] = f
            if (apart(boxes, f, g) || share(triangles, f, g)) continue
            if (through(places, triangles, f, g) || through(places, triangles, g, f)) out.push([g, f])
          }
          if (here) here.push(f)
          else grid.set(key, [f])
        }
  }
  return out
}

const apart = (b: Float64Array, f: number, g: number): boolean => {
  for (let c = 0; c < 3; c++) if (b[6 * f + c] > b[6 * g + 3 + c] || b[6 * g + c] > b[6 * f + 3 + c]) return true
  return false
}
const share = (t: Uint32Array, f: number, g: number): boolean => {
  for (let i = 0; i < 3; i++) for (let k = 0; k < 3; k++) if (t[3 * f + i] === t[3 * g + k]) return true
  return false
}
/** Whether an edge of one triangle goes through another. */
function through(p: ArrayLike<number>, t: Uint32Array, f: number, g: number): boolean {
  const A = 3 * t[3 * g],
    B = 3 * t[3 * g + 1],
    C = 3 * t[3 * g + 2]
  const ux = p[B] - p[A],
    uy = p[B + 1] - p[A + 1],
    uz = p[B + 2] - p[A + 2]
  const vx = p[C] - p[A],
    vy = p[C + 1] - p[A + 1],
    vz = p[C + 2] - p[A + 2]
  for (let i = 0; i < 3; i++) {
    const from = 3 * t[3 * f + i],
      to = 3 * t[3 * f + ((i + 1) % 3)]
    const dx = p[to] - p[from],
      dy = p[to + 1] - p[from + 1],
      dz = p[to + 2] - p[from + 2]
    const px = dy * vz - dz * vy,
      py = dz * vx - dx * vz,
      pz = dx * vy - dy * vx
    const det = ux * px + uy * py + uz * pz
    if (Math.abs(det) < 1e-18) continue
    const sx = p[from] - p[A],
      sy = p[from + 1] - p[A + 1],
      sz = p[from + 2] - p[A + 2]
    const u = (sx * px + sy * py + sz * pz) / det
    if (u < 0 || u > 1) continue
    const qx = sy * uz - sz * uy,
      qy = sz * ux - sx * uz,
      qz = sx * uy - sy * ux
    const v = (dx * qx + dy * qy + dz * qz) / det
    if (v < 0 || u + v > 1) continue
    const at = (vx * qx + vy * qy + vz * qz) / det
    if (at >= 0 && at <= 1) return true
  }
  return false
}
