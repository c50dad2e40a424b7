import { type BufferAttribute, type BufferGeometry } from 'three'

/** A shape of the surface, dense as it comes: how far each vertex goes, 3·V. */
export interface SurfaceShape {
  readonly name: string
  readonly offsets: Float32Array
}

/** A shape as far as it moves anything. */
interface Sparse {
  readonly name: string
  readonly vertices: Uint32Array
  readonly offsets: Float32Array
}

/** Surfaces whose face shows expressions: only what a face moves is worked out, and light on it anew. */
export class FaceOnSurface {
  private shapes: readonly Sparse[] = []
  /** Every vertex some shape moves. */
  private moved = new Uint32Array()
  /** Corners of triangles around those. */
  private corners = new Uint32Array()
  private rest = new Float32Array()
  private restNormals = new Float32Array()
  /** Every vertex of those triangles. */
  private around = new Uint32Array()
  private shownLast = ''

  constructor(
    private readonly geometry: BufferGeometry,
    shapes: readonly SurfaceShape[],
  ) {
    const position = geometry.getAttribute('position') as BufferAttribute
    this.rest = (position.array as Float32Array).slice()
    this.restNormals = (geometry.getAttribute('normal').array as Float32Array).slice()
    const any = new Uint8Array(position.count)
    this.shapes = shapes.map(({ name, offsets }): Sparse => {
      const vertices: number[] = []
      for (let v = 0; v < position.count; v++)
        if (offsets[3 * v] !== 0 || offsets[3 * v + 1] !== 0 || offsets[3 * v + 2] !== 0) {
          vertices.push(v)
          any[v] = 1
        }
      const own = new Float32Array(3 * vertices.length)
      vertices.forEach((v, i) => own.set(offsets.subarray(3 * v, 3 * v + 3), 3 * i))
      return { name, vertices: Uint32Array.from(vertices), offsets: own }
    })
    this.moved = Uint32Array.from(any.keys()).filter(v => any[v] === 1)
    const index = geometry.getIndex()!.array
    const corners: number[] = []
    const near = new Uint8Array(position.count)
    for (let f = 0; f < index.length; f += 3)
      if (any[index[f]!] || any[index[f + 1]!] || any[index[f + 2]!]) {
        corners.push(f)
        near[index[f]!] = near[index[f + 1]!] = near[index[f + 2]!] = 1
      }
    this.corners = Uint32Array.from(corners)
    this.around = Uint32Array.from(near.keys()).filter(v => near[v] === 1)
  }

  /** Shows every shape as strongly as told; those not named rest. @returns whether anything changed */
  show(weights: Readonly<Record<string, number>>): boolean {
    const told = this.shapes.map(s => (weights[s.name] ?? 0).toFixed(4)).join()
    if (told === this.shownLast) return false
    this.shownLast = told
    const position = this.geometry.getAttribute('position') as BufferAttribute
    const P = position.array as Float32Array
    for (const v of this.moved) for (let k = 0; k < 3; k++) P[3 * v + k] = this.rest[3 * v + k]!
    for (const { name, vertices, offsets } of this.shapes) {
      const w = weights[name] ?? 0
      if (w === 0) continue
      vertices.forEach((v, i) => {
        for (let k = 0; k < 3; k++) P[3 * v + k]! += w * offsets[3 * i + k]!
      })
    }
    position.needsUpdate = true
    this.light(P)
    return true
  }

  /** Normals turned by as much as the triangles around them were. */
  private light(P: Float32Array): void {
    const normal = this.geometry.getAttribute('normal') as BufferAttribute
    const N = normal.array as Float32Array
    const index = this.geometry.getIndex()!.array
    const sums = new Float32Array(N.length)
    const add = (from: Float32Array, sign: 1 | -1): void => {
      for (const f of this.corners) {
        const [a, b, c] = [3 * index[f]!, 3 * index[f + 1]!, 3 * index[f + 2]!]
        const [ux, uy, uz] = [from[b]! - from[a]!, from[b + 1]! - from[a + 1]!, from[b + 2]! - from[a + 2]!]
        const [vx, vy, vz] = [from[c]! - from[a]!, from[c + 1]! - from[a + 1]!, from[c + 2]! - from[a + 2]!]
        const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
        const l = sign / (Math.hypot(x, y, z) || 1)
        for (const v of [a, b, c]) {
          sums[v]! += l * x
          sums[v + 1]! += l * y
          sums[v + 2]! += l * z
        }
      }
    }
    add(P, 1)
    add(this.rest, -1)
    for (const v of this.around) {
      const n = 3 * v
      // some six triangles meet at a vertex
      const x = this.restNormals[n]! + sums[n]! / 6
      const y = this.restNormals[n + 1]! + sums[n + 1]! / 6
      const z = this.restNormals[n + 2]! + sums[n + 2]! / 6
      const l = Math.hypot(x, y, z) || 1
      N[n] = x / l
      N[n + 1] = y / l
      N[n + 2] = z / l
    }
    normal.needsUpdate = true
  }
}
