import { distance, type Vec3 } from '../math'
import { quadEdges, type QuadEdges } from './embed'
import type { Layout } from './layout'
import { radiusAt, type MeasuredLimb } from './measured'

/**
 * Walks along an edge and straight on through every vertex of four edges until it comes back to where it began.
 * @returns the vertices of the loop; undefined where it ends at an irregular vertex or crosses itself
 */
export function walkLoop(
  edges: QuadEdges,
  quadsAt: readonly number[][],
  quads: ArrayLike<number>,
  a: number,
  b: number,
): number[] | undefined {
  const loop = [a]
  const seen = new Set([a])
  let before = a,
    at = b
  while (at !== a) {
    if (seen.has(at) || edges.starts[at + 1] - edges.starts[at] !== 4) return undefined
    seen.add(at)
    loop.push(at)
    // straight on is the neighbour that shares no quad with where it came from
    const beside = new Set<number>()
    for (const q of quadsAt[at]) {
      const four = [0, 1, 2, 3].map(i => quads[4 * q + i])
      if (four.includes(before)) for (const v of four) beside.add(v)
    }
    let next = -1
    for (let e = edges.starts[at]; e < edges.starts[at + 1]; e++) if (!beside.has(edges.list[e])) next = edges.list[e]
    if (next < 0) return undefined
    before = at
    at = next
  }
  return edges.starts[a + 1] - edges.starts[a] === 4 ? loop : undefined
}

/** Closed loops of edges around a bending joint, near enough to bend with it. */
export interface JointLoops {
  readonly limb: string
  /** Which of the limb's joints, from its root. */
  readonly joint: number
  readonly role?: string
  /** The vertices of each. */
  readonly loops: readonly (readonly number[])[]
}

/** Walks the loops around each bending joint. */
export function loopsAtJoints(layout: Layout, limbs: readonly MeasuredLimb[], places: ArrayLike<number>): JointLoops[] {
  const { quads, vertices, rings } = layout.complex
  const edges = quadEdges(vertices, quads)
  const quadsAt: number[][] = Array.from({ length: vertices }, () => [])
  quads.forEach((v, i) => quadsAt[v].push(i >> 2))
  return limbs.flatMap(limb => {
    const own = rings.get(limb.id)
    if (!own) return []
    const loops = own.flatMap(ring => {
      if (ring.includes(-1)) return []
      const loop = walkLoop(edges, quadsAt, quads, ring[0], ring[1])
      if (!loop || loop.length !== ring.length) return []
      const middle: Vec3 = [0, 1, 2].map(c => loop.reduce((sum, v) => sum + places[3 * v + c], 0) / loop.length) as Vec3
      return [{ middle, loop }]
    })
    return limb.joints.map((s, joint) => {
      const at = limb.axis.at(s).place
      // a limb that parts beyond its joint bends where it leaves
      const reach = 1.3 * radiusAt(limb, s) + (joint === 0 ? Math.max(0, limb.root.s - s) : 0)
      const role = limb.roles?.[joint]
      return {
        limb: limb.id,
        joint,
        ...(role && { role }),
        loops: loops.filter(l => distance(l.middle, at) < reach).map(l => l.loop),
      }
    })
  })
}
