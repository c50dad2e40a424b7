import { breather, type WorkOptions } from '../math'
import type { Embedded, QuadEdges } from './embed'
import type { Layout } from './layout'
import { underSkirt, type MeasuredLimb } from './measured'
import { looks, type Target } from './target'

/** Normals of a quad surface at its vertices, by the diagonals of quads, 3·V. */
export function quadNormals(
  places: Float64Array,
  quads: Uint32Array,
  out = new Float64Array(places.length),
): Float64Array {
  out.fill(0)
  for (let q = 0; q < quads.length; q += 4) {
    const a = 3 * quads[q],
      b = 3 * quads[q + 1],
      c = 3 * quads[q + 2],
      d = 3 * quads[q + 3]
    const ux = places[c] - places[a],
      uy = places[c + 1] - places[a + 1],
      uz = places[c + 2] - places[a + 2]
    const vx = places[d] - places[b],
      vy = places[d + 1] - places[b + 1],
      vz = places[d + 2] - places[b + 2]
    const nx = uy * vz - uz * vy,
      ny = uz * vx - ux * vz,
      nz = ux * vy - uy * vx
    for (const v of [a, b, c, d]) {
      out[v] += nx
      out[v + 1] += ny
      out[v + 2] += nz
    }
  }
  for (let i = 0; i < out.length; i += 3) {
    const l = Math.hypot(out[i], out[i + 1], out[i + 2])
    if (l > 0) {
      out[i] /= l
      out[i + 1] /= l
      out[i + 2] /= l
    }
  }
  return out
}

/** V × limbs: which limbs' surface each vertex may lie on: those within some steps around it, their hosts too where that is asked for. */
export function mayLieOn(
  layout: Layout,
  limbs: readonly MeasuredLimb[],
  edges: QuadEdges,
  steps: number,
  withHosts = false,
): Uint8Array {
  const { complex, plans } = layout
  const k = limbs.length
  let may = new Uint8Array(complex.vertices * k)
  const limbOf = plans.map(p => limbs.find(l => l.id === p.id)!.index)
  const hosts = limbs.map(l => limbs.findIndex(h => h.id === l.host))
  complex.tubeOf.forEach((tube, q) => {
    const host = withHosts ? hosts[limbOf[tube]] : -1
    for (let c = 0; c < 4; c++) {
      const row = complex.quads[4 * q + c] * k
      may[row + limbOf[tube]] = 1
      if (host >= 0) may[row + host] = 1
    }
  })
  // limbs without a tube of their own lie on what they hang on
  for (const l of limbs) {
    if (plans.some(p => p.id === l.id) && !underSkirt(l)) continue
    const host = hosts[l.index]
    for (let v = 0; v < complex.vertices && host >= 0; v++) if (may[v * k + host]) may[v * k + l.index] = 1
  }
  for (let s = 0; s < steps; s++) {
    const next = may.slice()
    for (let v = 0; v < complex.vertices; v++)
      for (let e = edges.starts[v]; e < edges.starts[v + 1]; e++)
        for (let l = 0; l < k; l++) if (may[edges.list[e] * k + l]) next[v * k + l] = 1
    may = next
  }
  return may
}

/** Vertices that smooth themselves within the surface and are drawn onto the sculpt. */
export interface Draw {
  /** Moves vertices toward the middle of their neighbours, by a share; `within` the surface only. */
  smooth(list: ArrayLike<number>, share: number, within: boolean): void
  /** Moves a vertex onto the sculpt: along its normal where it is told so, else to the nearest place that looks its way. */
  project(v: number, reach: number, byRay: boolean): boolean
  /** Works out the normals anew. */
  look(): void
  readonly normals: Float64Array
}

export function drawing(
  layout: Layout,
  limbs: readonly MeasuredLimb[],
  target: Target,
  edges: QuadEdges,
  { places, told, along }: Embedded,
): Draw {
  const { quads, vertices: n } = layout.complex
  const k = limbs.length
  const may = mayLieOn(layout, limbs, edges, 3)
  const normals = new Float64Array(3 * n)
  const moved = new Float64Array(3 * n)
  const move = (v: number, share: number, within: boolean): void => {
    const m = edges.starts[v + 1] - edges.starts[v]
    let dx = 0,
      dy = 0,
      dz = 0
    for (let e = edges.starts[v]; e < edges.starts[v + 1]; e++) {
      const u = 3 * edges.list[e]
      dx += places[u]
      dy += places[u + 1]
      dz += places[u + 2]
    }
    dx = dx / m - places[3 * v]
    dy = dy / m - places[3 * v + 1]
    dz = dz / m - places[3 * v + 2]
    if (within) {
      const d = dx * normals[3 * v] + dy * normals[3 * v + 1] + dz * normals[3 * v + 2]
      dx -= d * normals[3 * v]
      dy -= d * normals[3 * v + 1]
      dz -= d * normals[3 * v + 2]
    }
    if (told[v]) {
      const d = dx * along[3 * v] + dy * along[3 * v + 1] + dz * along[3 * v + 2]
      dx -= d * along[3 * v]
      dy -= d * along[3 * v + 1]
      dz -= d * along[3 * v + 2]
    }
    moved[3 * v] = places[3 * v] + share * dx
    moved[3 * v + 1] = places[3 * v + 1] + share * dy
    moved[3 * v + 2] = places[3 * v + 2] + share * dz
  }
  const from: [number, number, number] = [0, 0, 0]
  const way: [number, number, number] = [0, 0, 0]
  return {
    normals,
    look: () => void quadNormals(places, quads, normals),
    smooth(list, share, within) {
      for (let i = 0; i < list.length; i++) move(list[i], share, within)
      for (let i = 0; i < list.length; i++) for (let c = 0; c < 3; c++) places[3 * list[i] + c] = moved[3 * list[i] + c]
    },
    project(v, reach, byRay) {
      for (let c = 0; c < 3; c++) from[c] = places[3 * v + c]
      const own = [normals[3 * v], normals[3 * v + 1], normals[3 * v + 2]] as const
      const accept = (f: number): boolean => may[v * k + target.limbOf[f]] === 1 && looks(target, f, own) > 0.25
      if (byRay) {
        let best = Infinity
        for (const sign of [1, -1]) {
          for (let c = 0; c < 3; c++) way[c] = sign * own[c]
          target.surface.along(from, way, Math.min(reach, Math.abs(best)), (f, at) => {
            if (at < Math.abs(best) && accept(f)) best = sign * at
          })
        }
        if (Number.isFinite(best)) {
          for (let c = 0; c < 3; c++) places[3 * v + c] += best * own[c]
          return true
        }
      }
      const near = target.surface.nearest(from[0], from[1], from[2], reach, accept)
      if (!near) return false
      const [a, b, c] = [0, 1, 2].map(i => 3 * target.indices[3 * near.triangle + i])
      for (let i = 0; i < 3; i++)
        places[3 * v + i] =
          near.a * target.positions[a + i] + near.b * target.positions[b + i] + near.c * target.positions[c + i]
      return true
    },
  }
}

/**
 * Draws a spanned surface onto the sculpt: what no cut told moves along its normal to where the sculpt looks the same way and
 * smooths itself within the surface, in turn; then all of it does so a little, rings within their cuts (Kobbelt and others
 * 1999, "A shrink wrapping approach to remeshing polygonal surfaces").
 * @returns V: 1 where a vertex lies on the sculpt
 */
export async function fit(draw: Draw, told: Uint8Array, height: number, work: WorkOptions = {}): Promise<Uint8Array> {
  const pulse = breather(work)
  const n = told.length
  const on = new Uint8Array(n)
  const all = Uint32Array.from({ length: n }, (_, v) => v)
  const free = all.filter(v => !told[v])
  for (let turn = 0; turn < 14; turn++) {
    await pulse((0.5 * turn) / 14)
    draw.look()
    for (const v of free) on[v] = draw.project(v, (turn < 6 ? 0.15 : 0.06) * height, turn < 10) ? 1 : 0
    draw.look()
    for (let s = 0; s < 2; s++) draw.smooth(free, turn < 5 ? 0.7 : 0.5, turn >= 3)
  }
  for (let turn = 0; turn < RELAX; turn++) {
    await pulse(0.5 + (0.5 * turn) / RELAX)
    for (let s = 0; s < 3; s++) {
      draw.look()
      draw.smooth(all, 0.5, true)
    }
    draw.look()
    for (let v = 0; v < n; v++) on[v] = draw.project(v, 0.03 * height, false) ? 1 : 0
  }
  return on
}
const RELAX = 10
