import { breather, maxOf, symmetricEigen, vec3At, type WorkOptions } from '../math'
import { boundsOf, componentsOfFaces, usedVertices, weldByPosition, weldedIndices, type Mesh } from '../mesh'

type Surface = Pick<Mesh, 'positions' | 'indices'>

/** A rod longer than this many times its width, and at least this share of the body, is held and no limb. */
const ROD = { slender: 12.5, long: 0.33 }
/** Limbs come in pairs: what has another piece of its volume and thickness, to this factor, is one. */
const TWIN = 1.15
/** A plate or cloth no thicker than this share of the body, and at least this wide both ways, is no flesh. */
const PLATE = { thick: 0.02, wide: 0.12 }
/** What is left must be most of the body, or nothing is left out. */
const REST = { volume: 0.5, height: 0.72 }

/**
 * A body without the pieces that are too slight to be flesh: staffs and blades, shields, capes and skirts of thin
 * cloth, as far as each is connected in itself and apart from the rest. The body itself where it is one piece, or where
 * too little would be left.
 */
export async function withoutSlightPieces(mesh: Surface, work: WorkOptions = {}): Promise<Surface> {
  const pulse = breather(work)
  const { positions, indices } = mesh
  const weld = weldByPosition(positions)
  await pulse()
  const { labels, count } = await componentsOfFaces(weld.first.length, weldedIndices(indices, weld), work)
  if (count < 2 || count > 4000) return mesh
  const { min, max } = boundsOf(positions)
  const size = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2])
  const corners: number[][] = Array.from({ length: count }, () => [])
  for (let f = 0; f < indices.length; f += 3) corners[labels[weld.of[indices[f]]]].push(f)
  const measured: Measured[] = []
  for (const own of corners) {
    await pulse()
    measured.push(measure(positions, indices, own))
  }
  const slight = measured.map((piece, i) => {
    const {
      extents: [a, b, c],
      thick,
    } = piece
    if (b > PLATE.wide * size && thick < PLATE.thick * size * 0.6) return true
    const rod = a > ROD.slender * b && a > ROD.long * size
    // a bent arm lies in a plane as a plate does
    const plate = b > PLATE.wide * size && c < 2 * PLATE.thick * size
    return (rod || plate) && !measured.some((m, k) => k !== i && areTwins(m, piece))
  })
  if (!slight.includes(true)) return mesh
  const volume = (which: (i: number) => boolean): number =>
    measured.reduce((s, m, i) => (which(i) ? s + Math.abs(m.volume) : s), 0)
  if (volume(i => !slight[i]) < REST.volume * volume(() => true)) return mesh
  const kept = corners.flatMap((own, i) => (slight[i] ? [] : own)).sort((a, b) => a - b)
  const left = Uint32Array.from(kept.flatMap(f => [indices[f], indices[f + 1], indices[f + 2]]))
  const rest = usedVertices(positions, left)
  const box = boundsOf(rest.positions)
  const most = [0, 1, 2].map(k => (box.max[k] - box.min[k]) / Math.max(1e-9, max[k] - min[k]))
  // a body that would lose a good part of its extent every way was told apart wrongly
  return maxOf(most) < REST.height ? mesh : rest
}

type Measured = ReturnType<typeof measure>

/** Whether two pieces are about as large and as thick as one another, however each is bent. */
const areTwins = (a: Measured, b: Measured): boolean =>
  [a.thick / b.thick, a.volume / b.volume].every(r => r < TWIN && r > 1 / TWIN)

/** Extents along a piece's own axes, falling; its volume; and how thick it is: twice its volume over its surface. */
function measure(
  p: Float32Array,
  indices: Uint32Array,
  faces: readonly number[],
): { extents: [number, number, number]; volume: number; thick: number } {
  let area = 0,
    six = 0
  const mean = [0, 0, 0]
  const m = [0, 0, 0, 0, 0, 0]
  for (const f of faces) {
    const [a, b, c] = [0, 1, 2].map(k => vec3At(p, indices[f + k]))
    const u = [b[0] - a[0], b[1] - a[1], b[2] - a[2]],
      v = [c[0] - a[0], c[1] - a[1], c[2] - a[2]]
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]]
    const w = Math.hypot(n[0], n[1], n[2]) / 2
    area += w
    six += a[0] * n[0] + a[1] * n[1] + a[2] * n[2]
    const g = [0, 1, 2].map(k => (a[k] + b[k] + c[k]) / 3)
    for (let k = 0; k < 3; k++) mean[k] += w * g[k]
    m[0] += w * g[0] * g[0]
    m[1] += w * g[0] * g[1]
    m[2] += w * g[0] * g[2]
    m[3] += w * g[1] * g[1]
    m[4] += w * g[1] * g[2]
    m[5] += w * g[2] * g[2]
  }
  for (let k = 0; k < 3; k++) mean[k] /= area || 1
  const pairs = [0, 1, 2].flatMap(i => [0, 1, 2].slice(i).map(j => mean[i] * mean[j]))
  const { vectors } = symmetricEigen(m.map((v, k) => v / (area || 1) - pairs[k]))
  const extents = vectors.map(d => {
    let low = Infinity,
      high = -Infinity
    for (const f of faces)
      for (let k = 0; k < 3; k++) {
        const v = 3 * indices[f + k]
        const t = p[v] * d[0] + p[v + 1] * d[1] + p[v + 2] * d[2]
        low = Math.min(low, t)
        high = Math.max(high, t)
      }
    return high - low
  }) as [number, number, number]
  extents.sort((a, b) => b - a)
  const volume = six / 6
  return { extents, volume, thick: (2 * Math.abs(volume)) / (area || 1) }
}
