import { breather, type WorkOptions } from '../math'
import { closestOnSurface, vertexNormals, type SurfacePoint } from '../mesh'
import { quadNormals } from './fit'
import type { FlatSurface } from './flatten'
import type { LightSurface } from './make'
import { trianglesOf } from './quads'

/** Tangents of triangles without an index, four a corner, the last the hand (MikkTSpace). */
export type Tangents = (positions: Float32Array, normals: Float32Array, uvs: Float32Array) => Float32Array

/** The linear colour a sculpt shows between three of its vertices. */
export type Shade = (
  a: number,
  b: number,
  c: number,
  u: number,
  v: number,
  w: number,
) => readonly [number, number, number]

export interface Baked {
  readonly size: number
  /** 3 a pixel, what a normal map holds: right-handed, as glTF wants it */
  readonly normals: Uint8Array
  /** 3 a pixel, colours as they are shown; none where no colour was asked for */
  readonly colors?: Uint8Array
  /** How far off the sculpt's normals the shown ones are, degrees: the mean over what was met. */
  readonly angle: number
  /** Share of the surface for which nothing of the sculpt was met. */
  readonly missed: number
}

/**
 * Bakes what a sculpt shows into images for a light surface: from every pixel a look along the surface's normal, out and in, as far
 * as the surface is off around there, and what is met first tells normal and colour; where nothing is met the nearest place does.
 * Around charts the last pixels are spread into the gutter.
 * @param sculpt with what colour it shows, where that is to be baked  @param surface of which `flat` is laid flat
 */
export async function bake(
  sculpt: { readonly positions: Float32Array; readonly indices: Uint32Array; readonly shade?: Shade },
  surface: LightSurface,
  flat: FlatSurface,
  size: number,
  height: number,
  tangents: Tangents,
  work: WorkOptions = {},
): Promise<Baked> {
  const pulse = breather(work)
  const { positions } = surface
  const target = closestOnSurface(sculpt.positions, sculpt.indices)
  const fine = vertexNormals(sculpt.positions, sculpt.indices)
  const smooth = quadNormals(Float64Array.from(positions), surface.quads)
  const triangles = trianglesOf(positions, surface.quads)
  await pulse(0.02)
  // the same corners in the flat surface, in the order trianglesOf parts them
  const corner = new Uint32Array(triangles.length)
  for (let q = 0; q < surface.quads.length / 4; q++) {
    const own = [0, 1, 2, 3].map(i => surface.quads[4 * q + i])
    for (let i = 0; i < 6; i++) corner[6 * q + i] = flat.quads[4 * q + own.indexOf(triangles[6 * q + i])]
  }
  const P = new Float32Array(3 * triangles.length),
    N = new Float32Array(3 * triangles.length),
    UV = new Float32Array(2 * triangles.length)
  triangles.forEach((v, i) => {
    for (let c = 0; c < 3; c++) {
      P[3 * i + c] = positions[3 * v + c]
      N[3 * i + c] = smooth[3 * v + c]
    }
    UV[2 * i] = flat.uvs[2 * corner[i]]
    UV[2 * i + 1] = flat.uvs[2 * corner[i] + 1]
  })
  const T = tangents(P, N, UV)
  await pulse(0.08)
  const normals = new Uint8Array(3 * size * size)
  const colors = sculpt.shade ? new Uint8Array(3 * size * size) : undefined
  const filled = new Uint8Array(size * size)
  let angles = 0,
    met = 0,
    missed = 0
  let far = 0
  const point: [number, number, number] = [0, 0, 0]
  const way: [number, number, number] = [0, 0, 0]
  const from: [number, number, number] = [0, 0, 0]
  for (let t = 0; t < triangles.length / 3; t++) {
    if (t % 200 === 0) await pulse(0.08 + (0.87 * t) / (triangles.length / 3))
    const x = [0, 1, 2].map(i => UV[2 * (3 * t + i)] * size - 0.5)
    const y = [0, 1, 2].map(i => UV[2 * (3 * t + i) + 1] * size - 0.5)
    const area = (x[1] - x[0]) * (y[2] - y[0]) - (x[2] - x[0]) * (y[1] - y[0])
    if (area === 0) continue
    const cage = Math.max(
      0.004 * height,
      2.5 *
        Math.max(surface.far[triangles[3 * t]], surface.far[triangles[3 * t + 1]], surface.far[triangles[3 * t + 2]]),
    )
    const low = (list: number[]): number => Math.max(0, Math.ceil(Math.min(list[0], list[1], list[2])))
    const high = (list: number[]): number => Math.min(size - 1, Math.floor(Math.max(list[0], list[1], list[2])))
    for (let py = low(y); py <= high(y); py++)
      for (let px = low(x); px <= high(x); px++) {
        const b = ((px - x[0]) * (y[2] - y[0]) - (x[2] - x[0]) * (py - y[0])) / area
        const c = ((x[1] - x[0]) * (py - y[0]) - (px - x[0]) * (y[1] - y[0])) / area
        const a = 1 - b - c
        if (a < -1e-6 || b < -1e-6 || c < -1e-6) continue
        const mix = (list: Float32Array, k: number, width: number): number =>
          a * list[width * 3 * t + k] + b * list[width * (3 * t + 1) + k] + c * list[width * (3 * t + 2) + k]
        const n = unit(mix(N, 0, 3), mix(N, 1, 3), mix(N, 2, 3))
        let best = Infinity,
          face = -1
        for (let k = 0; k < 3; k++) {
          point[k] = mix(P, k, 3)
          from[k] = point[k] + cage * n[k]
          way[k] = -n[k]
        }
        // one look through the whole cage: what lies nearest to the surface, outside or in
        target.along(from, way, 2 * cage, (f, at) => {
          const off = Math.abs(at - cage)
          if (off >= best || !facing(sculpt, f, n)) return
          best = off
          face = f
          far = at
        })
        let near: SurfacePoint | undefined
        if (face < 0) near = target.nearest(point[0], point[1], point[2])
        else {
          for (let k = 0; k < 3; k++) point[k] = from[k] + far * way[k]
          near = within(sculpt, face, point)
        }
        if (!near) continue
        const at = py * size + px
        if (face < 0) missed++
        filled[at] = 1
        const [i, j, k] = [0, 1, 2].map(e => sculpt.indices[3 * near.triangle + e])
        const d = unit(
          near.a * fine[3 * i] + near.b * fine[3 * j] + near.c * fine[3 * k],
          near.a * fine[3 * i + 1] + near.b * fine[3 * j + 1] + near.c * fine[3 * k + 1],
          near.a * fine[3 * i + 2] + near.b * fine[3 * j + 2] + near.c * fine[3 * k + 2],
        )
        // as the reader will: tangent and its partner across, not squared against the normal once more
        const tangent = [mix(T, 0, 4), mix(T, 1, 4), mix(T, 2, 4)]
        const hand = T[4 * 3 * t + 3] < 0 ? -1 : 1
        const u = unit(tangent[0], tangent[1], tangent[2])
        const v = [
          hand * (n[1] * u[2] - n[2] * u[1]),
          hand * (n[2] * u[0] - n[0] * u[2]),
          hand * (n[0] * u[1] - n[1] * u[0]),
        ]
        const local = solve(u, v, n, d)
        const told = unit(local[0], local[1], Math.max(0.05, local[2]))
        for (let e = 0; e < 3; e++) normals[3 * at + e] = Math.round(127.5 + 127.5 * told[e])
        if (face >= 0) {
          const shown = [0, 1, 2].map(e => normals[3 * at + e] / 127.5 - 1)
          const back = unit(
            shown[0] * u[0] + shown[1] * v[0] + shown[2] * n[0],
            shown[0] * u[1] + shown[1] * v[1] + shown[2] * n[1],
            shown[0] * u[2] + shown[1] * v[2] + shown[2] * n[2],
          )
          angles += Math.acos(Math.min(1, Math.max(-1, back[0] * d[0] + back[1] * d[1] + back[2] * d[2])))
          met++
        }
        if (colors && sculpt.shade) {
          const color = sculpt.shade(i, j, k, near.a, near.b, near.c)
          for (let e = 0; e < 3; e++) colors[3 * at + e] = toShown(color[e])
        }
      }
  }
  spread(size, filled, colors ? [normals, colors] : [normals])
  return {
    size,
    normals,
    ...(colors && { colors }),
    angle: met > 0 ? ((angles / met) * 180) / Math.PI : 0,
    missed: missed / Math.max(1, met + missed),
  }
}

const unit = (x: number, y: number, z: number): [number, number, number] => {
  const l = Math.hypot(x, y, z) || 1
  return [x / l, y / l, z / l]
}
const toShown = (c: number): number =>
  Math.round(255 * Math.min(1, Math.max(0, c <= 0.0031308 ? 12.92 * c : 1.055 * Math.pow(c, 1 / 2.4) - 0.055)))

/** Whether a triangle of the sculpt looks the way told. */
function facing(
  { positions: p, indices }: { positions: Float32Array; indices: Uint32Array },
  f: number,
  n: readonly number[],
): boolean {
  const [a, b, c] = [3 * indices[3 * f], 3 * indices[3 * f + 1], 3 * indices[3 * f + 2]]
  const ux = p[b] - p[a],
    uy = p[b + 1] - p[a + 1],
    uz = p[b + 2] - p[a + 2]
  const vx = p[c] - p[a],
    vy = p[c + 1] - p[a + 1],
    vz = p[c + 2] - p[a + 2]
  return (uy * vz - uz * vy) * n[0] + (uz * vx - ux * vz) * n[1] + (ux * vy - uy * vx) * n[2] > 0
}

/** The shares of a triangle's corners a place on it is made of. */
function within(
  { positions: p, indices }: { positions: Float32Array; indices: Uint32Array },
  triangle: number,
  [x, y, z]: readonly number[],
): SurfacePoint {
  const [A, B, C] = [3 * indices[3 * triangle], 3 * indices[3 * triangle + 1], 3 * indices[3 * triangle + 2]]
  const ux = p[B] - p[A],
    uy = p[B + 1] - p[A + 1],
    uz = p[B + 2] - p[A + 2]
  const vx = p[C] - p[A],
    vy = p[C + 1] - p[A + 1],
    vz = p[C + 2] - p[A + 2]
  const wx = x - p[A],
    wy = y - p[A + 1],
    wz = z - p[A + 2]
  const uu = ux * ux + uy * uy + uz * uz,
    uv = ux * vx + uy * vy + uz * vz,
    vv = vx * vx + vy * vy + vz * vz
  const wu = wx * ux + wy * uy + wz * uz,
    wv = wx * vx + wy * vy + wz * vz
  const det = uu * vv - uv * uv || 1
  const b = (vv * wu - uv * wv) / det,
    c = (uu * wv - uv * wu) / det
  return { triangle, a: 1 - b - c, b, c, distance: 0 }
}

/** The shares of three ways a direction is made of; they need not be square to each other. */
function solve(
  u: readonly number[],
  v: readonly number[],
  n: readonly number[],
  d: readonly number[],
): [number, number, number] {
  const cross = (a: readonly number[], b: readonly number[]): number[] => [
    a[1] * b[2] - a[2] * b[1],
    a[2] * b[0] - a[0] * b[2],
    a[0] * b[1] - a[1] * b[0],
  ]
  const dot = (a: readonly number[], b: readonly number[]): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
  const det = dot(u, cross(v, n)) || 1
  return [dot(d, cross(v, n)) / det, dot(u, cross(d, n)) / det, dot(u, cross(v, d)) / det]
}

/** Spreads pixels into what is empty around them, so that no reader mixes them with nothing. */
function spread(size: number, filled: Uint8Array, images: readonly Uint8Array[]): void {
  for (let ring = 0; ring < 6; ring++) {
    const grown: [number, number][] = []
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++) {
        const at = y * size + x
        if (filled[at]) continue
        const from =
          x > 0 && filled[at - 1]
            ? at - 1
            : x + 1 < size && filled[at + 1]
              ? at + 1
              : y > 0 && filled[at - size]
                ? at - size
                : y + 1 < size && filled[at + size]
                  ? at + size
                  : -1
        if (from >= 0) grown.push([at, from])
      }
    for (const [at, from] of grown) {
      filled[at] = 1
      for (const image of images) for (let c = 0; c < 3; c++) image[3 * at + c] = image[3 * from + c]
    }
  }
  for (let at = 0; at < size * size; at++) if (!filled[at]) images[0].set([128, 128, 255], 3 * at)
}
