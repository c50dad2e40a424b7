import { add, addScaled, cross, dot, normalize, scale, sub, type Vec3 } from '@chiraxis/core/math'
import { meshOf, type Mesh } from '@chiraxis/core/mesh'

/** One ring of a loft: a superellipse about a point, wider ahead than behind where told. Lengths in metres. */
export interface Ring {
  readonly at: Vec3
  readonly wide: number
  readonly ahead: number
  readonly behind: number
}

export interface LoftOptions {
  /** Corners around. */
  readonly sides: number
  /** 2: round; 4 and more: a box with rounded edges. */
  readonly square?: number
  /** Where `ahead` of a ring points. */
  readonly front?: Vec3
  /** Turns `wide` out of the path's own frame, where the path alone would not tell it. */
  readonly across?: Vec3
  /** Leaves the ends open. */
  readonly open?: boolean
}

/** A closed surface through rings along a path, as a modeller lofts a limb. */
export function loft(name: string, rings: readonly Ring[], options: LoftOptions): Mesh {
  const { sides, square = 2, open } = options
  const positions: number[] = []
  const indices: number[] = []
  rings.forEach((ring, r) => {
    const along = normalize(sub(rings[Math.min(rings.length - 1, r + 1)].at, rings[Math.max(0, r - 1)].at))
    const [across, front] = frameOf(along, options)
    for (let s = 0; s < sides; s++) {
      const angle = (2 * Math.PI * (s + 0.5)) / sides
      const c = Math.cos(angle),
        d = Math.sin(angle)
      const x = Math.sign(c) * Math.abs(c) ** (2 / square) * ring.wide
      const z = Math.sign(d) * Math.abs(d) ** (2 / square) * (d > 0 ? ring.ahead : ring.behind)
      positions.push(...add(ring.at, add(scale(across, x), scale(front, z))))
    }
  })
  const at = (r: number, s: number): number => r * sides + (s % sides)
  for (let r = 0; r + 1 < rings.length; r++)
    for (let s = 0; s < sides; s++)
      indices.push(at(r, s), at(r, s + 1), at(r + 1, s + 1), at(r, s), at(r + 1, s + 1), at(r + 1, s))
  if (!open)
    for (const [ring, flip] of [
      [0, true],
      [rings.length - 1, false],
    ] as const) {
      const middle = positions.length / 3
      positions.push(...rings[ring].at)
      for (let s = 0; s < sides; s++)
        indices.push(middle, ...(flip ? [at(ring, s + 1), at(ring, s)] : [at(ring, s), at(ring, s + 1)]))
    }
  const mesh = meshOf(Float32Array.from(positions), Uint32Array.from(indices), name)
  return open || volumeOf(mesh) > 0 ? mesh : insideOut(mesh)
}

function frameOf(along: Vec3, { front = [0, 0, 1], across }: LoftOptions): [Vec3, Vec3] {
  if (across) {
    const x = normalize(addScaled(across, along, -dot(across, along)))
    return [x, normalize(cross(x, along))]
  }
  const z = normalize(addScaled(front, along, -dot(front, along)), [0, 1, 0])
  return [normalize(cross(along, z)), z]
}

function volumeOf({ positions: p, indices }: Mesh): number {
  let six = 0
  for (let f = 0; f < indices.length; f += 3) {
    const [a, b, c] = [0, 1, 2].map(k => {
      const v = 3 * indices[f + k]
      return [p[v], p[v + 1], p[v + 2]] as Vec3
    })
    six += dot(a, cross(b, c))
  }
  return six
}

function insideOut(mesh: Mesh): Mesh {
  const indices = mesh.indices.slice()
  for (let f = 0; f < indices.length; f += 3) [indices[f + 1], indices[f + 2]] = [indices[f + 2], indices[f + 1]]
  return { ...mesh, indices }
}

/** A round limb: the same radius all around, as many rings as points. */
export const tube = (name: string, points: readonly Vec3[], radii: readonly number[], options: LoftOptions): Mesh =>
  loft(
    name,
    points.map((at, i) => ({ at, wide: radii[i], ahead: radii[i], behind: radii[i] })),
    options,
  )

/** A ball drawn out along its axes, metres. */
export function ball(name: string, at: Vec3, radii: Vec3, sides: number): Mesh {
  const rings = Math.max(4, sides >> 1)
  return loft(
    name,
    Array.from({ length: rings }, (_, i) => {
      const angle = (Math.PI * (i + 0.35)) / (rings - 0.3)
      const r = Math.sin(angle)
      return {
        at: [at[0], at[1] - radii[1] * Math.cos(angle), at[2]] as Vec3,
        wide: radii[0] * r,
        ahead: radii[2] * r,
        behind: radii[2] * r,
      }
    }),
    { sides },
  )
}

/** A sheet of cloth between two edges of as many points each: both sides drawn, no thickness between them. */
export function sheet(name: string, top: readonly Vec3[], bottom: readonly Vec3[], rows: number): Mesh {
  const positions: number[] = []
  const indices: number[] = []
  const n = top.length
  for (let r = 0; r <= rows; r++)
    for (let i = 0; i < n; i++) positions.push(...add(scale(top[i], 1 - r / rows), scale(bottom[i], r / rows)))
  for (let r = 0; r < rows; r++)
    for (let i = 0; i + 1 < n; i++) {
      const a = r * n + i
      indices.push(a, a + n, a + 1, a + 1, a + n, a + n + 1)
      indices.push(a, a + 1, a + n, a + 1, a + n + 1, a + n)
    }
  return meshOf(Float32Array.from(positions), Uint32Array.from(indices), name)
}
