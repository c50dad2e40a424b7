/**
 * Nearest points on a surface: the flat tree of the core beside the kept library's, in turn, best of five.
 * `npx tsx bench/closest.ts`
 */
import { BufferAttribute, BufferGeometry, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { seededRandom } from '@chiraxis/core/math'
import { closestOnSurface } from '@chiraxis/core/mesh'
import { makeFigure, ODA } from '@chiraxis/demo/figures'

const QUERIES = 50_000
for (const vertices of [10_000, 100_000]) {
  const { mesh } = makeFigure(ODA, { vertices })
  const random = seededRandom(5)
  const places = Float64Array.from({ length: 3 * QUERIES }, (_, i) => {
    const v = 3 * Math.floor((random() * mesh.positions.length) / 3)
    return mesh.positions[v + (i % 3)] + 0.1 * (random() - 0.5)
  })
  const best = { ours: [Infinity, Infinity], library: [Infinity, Infinity] }
  let worst = 0
  for (let round = 0; round < 5; round++) {
    let t = performance.now()
    const tree = closestOnSurface(mesh.positions, mesh.indices)
    best.ours[0] = Math.min(best.ours[0], performance.now() - t)
    t = performance.now()
    const own = new Float64Array(QUERIES)
    for (let i = 0; i < QUERIES; i++)
      own[i] = tree.nearest(places[3 * i], places[3 * i + 1], places[3 * i + 2])!.distance
    best.ours[1] = Math.min(best.ours[1], performance.now() - t)
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    geometry.setIndex(new BufferAttribute(mesh.indices.slice(), 1))
    t = performance.now()
    const bvh = new MeshBVH(geometry)
    best.library[0] = Math.min(best.library[0], performance.now() - t)
    t = performance.now()
    const at = new Vector3()
    for (let i = 0; i < QUERIES; i++) {
      const hit = bvh.closestPointToPoint(at.set(places[3 * i], places[3 * i + 1], places[3 * i + 2]))!
      worst = Math.max(worst, Math.abs(hit.distance - own[i]))
    }
    best.library[1] = Math.min(best.library[1], performance.now() - t)
  }
  const line = (name: string, [made, asked]: number[]): string =>
    `${name}: built in ${made.toFixed(0)} ms, ${((1000 * asked) / QUERIES).toFixed(2)} µs a query`
  console.log(
    `${vertices} vertices: ${line('core', best.ours)}; ${line('library', best.library)}; apart by ${worst.toExponential(1)} m at most`,
  )
}
