import { type Vec3 } from '@chiraxis/core/math'
import { boundsOf, type Mesh, type MeshPart } from '@chiraxis/core/mesh'
import { bodyPlan, ODA_COLORS, type BodyPlan, type Palette } from './body'
import { BRINDLE_COLORS, houndPlan, type HoundProportions } from './hound'
import { heronPlan, REED_COLORS, type HeronProportions } from './heron'
import { blobAt, blobDistance, type BlobGroup } from './field'
import type { Proportions } from './proportions'
import { countVertices, gridLines, surfaceNets, type Lines } from './surface-nets'

/** A made body with everything that is true of it. */
export interface MadeFigure {
  readonly mesh: Mesh
  /** True joints in metres by VRM role, `…End` for tips. */
  readonly joints: Readonly<Record<string, Vec3>>
  /** V: the role of the joint whose segment each vertex belongs to. */
  readonly labels: readonly string[]
  /** V: every role whose volumes come near, how much deeper the nearest one lies, and the radius there, metres. */
  near(): readonly (readonly NearVolume[])[]
  readonly height: number
}

export interface NearVolume {
  readonly role: string
  readonly depth: number
  readonly radius: number
}

export interface MakeOptions {
  /** About how many vertices the surface shall have. */
  readonly vertices: number
  readonly palette?: Palette
  readonly eyes?: boolean
  /** Up to the collar alone, for a head of its own. */
  readonly headless?: boolean
}

/** Generates a body as one closed surface (and two eyeballs when asked). */
export function makeFigure(proportions: Proportions, options: MakeOptions): MadeFigure {
  const plan = bodyPlan(proportions, options.palette ?? ODA_COLORS, options.headless)
  return meshPlan(plan, options, proportions.height, spacing => linesFor(plan, proportions, spacing))
}

/** Generates a four-legged body. */
export function makeHound(proportions: HoundProportions, options: MakeOptions): MadeFigure {
  const plan = houndPlan(proportions, options.palette ?? BRINDLE_COLORS)
  return evenly(plan, options, proportions.back, 1.4 * proportions.back)
}

/** Generates a heron. */
export function makeHeron(proportions: HeronProportions, options: MakeOptions): MadeFigure {
  const plan = heronPlan(proportions, options.palette ?? REED_COLORS)
  return evenly(plan, options, 0.5 * proportions.height, proportions.height)
}

/** Meshes a body on even grid lines, the same on both sides. @param room how far lines go beyond it, times a third */
function evenly(plan: BodyPlan, options: MakeOptions, room: number, size: number): MadeFigure {
  const all = plan.groups.flatMap(g => g.blobs.flatMap(b => [b.a, b.b]))
  const low = [0, 1, 2].map(k => Math.min(...all.map(p => p[k])) - 0.3 * room)
  const high = [0, 1, 2].map(k => Math.max(...all.map(p => p[k])) + 0.3 * room)
  return meshPlan(plan, options, size, spacing => {
    const right = gridLines(spacing * 0.31, high[0], () => spacing)
    return [
      Float64Array.from([...Array.from(right, v => -v).reverse(), ...right]),
      gridLines(low[1], high[1], () => spacing),
      gridLines(low[2], high[2], () => spacing),
    ]
  })
}

function meshPlan(plan: BodyPlan, options: MakeOptions, size: number, lines: (spacing: number) => Lines): MadeFigure {
  // vertices grow with the inverse square of the spacing, so a close guess is settled in a step or two
  let spacing = size * Math.sqrt(1.1 / options.vertices)
  for (let round = 0; round < 4; round++) {
    const ratio = countVertices(plan.groups, lines(spacing)) / options.vertices
    if (Math.abs(ratio - 1) < 0.05 || round === 3) break
    spacing *= Math.sqrt(ratio)
  }
  const net = surfaceNets(plan.groups, lines(spacing))
  // standing exactly on the ground
  const ground = boundsOf(net.positions).min[1]
  const joints: Record<string, Vec3> = {}
  for (const [role, p] of Object.entries(plan.joints)) joints[role] = [p[0], p[1] - ground, p[2]]
  const vertices = net.positions.length / 3
  const colors = new Float32Array(3 * vertices)
  const labels: string[] = []
  for (let i = 0; i < vertices; i++) {
    const x = net.positions[3 * i],
      y = net.positions[3 * i + 1],
      z = net.positions[3 * i + 2]
    const blob = blobAt(plan.groups, x, y, z)
    colors.set(colorAt(plan.groups, x, y, z, spacing * 0.2), 3 * i)
    labels.push(blob.role)
    net.positions[3 * i + 1] = y - ground
  }
  const body: MeshPart = { name: 'body', start: 0, count: net.indices.length, color: [1, 1, 1] }
  let mesh: Mesh = { positions: net.positions, indices: net.indices, normals: net.normals, colors, parts: [body] }
  if (options.eyes) {
    for (const eye of plan.eyes) {
      mesh = withEye(mesh, [eye.centre[0], eye.centre[1] - ground, eye.centre[2]], eye.radius)
    }
    while (labels.length < mesh.positions.length / 3) labels.push('head')
  }
  let near: NearVolume[][] | undefined
  return {
    mesh,
    joints,
    labels,
    // looked up for few bodies, and slow
    near() {
      return (near ??= labels.map((_, v) =>
        v < vertices
          ? nearVolumes(
              plan.groups,
              mesh.positions[3 * v],
              mesh.positions[3 * v + 1] + ground,
              mesh.positions[3 * v + 2],
            )
          : [{ role: 'head', depth: 0, radius: 1 }],
      ))
    },
    height: options.headless ? size : boundsOf(net.positions).max[1],
  }
}

/** Grid lines that lie denser around the head and the hands. */
function linesFor(plan: BodyPlan, p: Proportions, spacing: number): Lines {
  const H = p.height
  const hand = p.hand * H
  const l = plan.joints.leftHand,
    e = plan.joints.leftHandEnd
  const handX = [Math.min(l[0], e[0]) - hand * 0.35, Math.max(l[0], e[0]) + hand * 0.35]
  const handY = [Math.min(l[1], e[1]) - hand * 0.3, Math.max(l[1], e[1]) + hand * 0.3]
  const headY = (1 - p.headHeight) * H
  const headX = p.headHeight * H * 0.45
  const fine = p.headHeight > 0.2 ? 0.75 : 0.6
  // fingers lie side by side in depth when the palm looks down
  const fingered = p.fingers > 0
  const handZ = [Math.min(l[2], e[2]) - hand * 0.36, Math.max(l[2], e[2]) + hand * 0.5]
  const sx = (x: number): number =>
    spacing *
    (Math.abs(x) > handX[0] && Math.abs(x) < handX[1] ? (fingered ? 0.5 : 0.6) : Math.abs(x) < headX ? 0.85 : 1)
  const sy = (y: number): number =>
    spacing * (y > headY && y < 1.06 * H ? fine : y > handY[0] && y < handY[1] ? 0.7 : 1)
  const reach = Math.max(Math.abs(l[0]), Math.abs(e[0])) + hand
  // lines mirrored about the midline, so that the two halves are alike
  const right = gridLines(spacing * 0.31, reach, sx)
  const x = Float64Array.from([...Array.from(right, v => -v).reverse(), ...right])
  const depth = (p.footLength + 0.06) * H + Math.abs(l[2]) + hand
  return [
    x,
    gridLines(-0.05 * H, Math.max(1.06 * H, handY[1] + 0.1 * hand), sy),
    gridLines(-depth, depth, z => spacing * (fingered && z > handZ[0] && z < handZ[1] ? 0.55 : 0.85)),
  ]
}

/** Colour of the nearest volumes, mixed within a hair of their border. */
export function colorAt(groups: readonly BlobGroup[], x: number, y: number, z: number, soft: number): Vec3 {
  let nearest = Infinity
  const all: { d: number; c: readonly [number, number, number] }[] = []
  for (const g of groups)
    for (const b of g.blobs) {
      const d = blobDistance(b, x, y, z)
      nearest = Math.min(nearest, d)
      all.push({ d, c: b.color })
    }
  let w = 0
  const sum: Vec3 = [0, 0, 0]
  for (const { d, c } of all) {
    const k = Math.max(0, 1 - (d - nearest) / soft)
    if (k === 0) continue
    w += k
    for (let i = 0; i < 3; i++) sum[i] += c[i] * k
  }
  return [sum[0] / w, sum[1] / w, sum[2] / w]
}

/** The roles whose volumes come near a surface point, by how much further off than the nearest, with the limb's radius there. */
function nearVolumes(groups: readonly BlobGroup[], x: number, y: number, z: number): NearVolume[] {
  const by = new Map<string, { d: number; radius: number }>()
  for (const g of groups)
    for (const b of g.blobs) {
      const d = blobDistance(b, x, y, z)
      const radius = b.shape === 'cone' ? Math.max(b.ra, b.rb) : Math.min(...b.radii)
      const known = by.get(b.role)
      if (!known || d < known.d) by.set(b.role, { d, radius: Math.max(radius, known?.radius ?? 0) })
      else known.radius = Math.max(radius, known.radius)
    }
  const least = Math.min(...[...by.values()].map(e => e.d))
  const own = [...by.values()].find(e => e.d === least)!.radius
  return [...by]
    .map(([role, e]) => ({ role, depth: e.d - least, radius: Math.min(own, e.radius) }))
    .filter(e => e.depth < 1.5 * e.radius)
}

/** Adds an eyeball: a small closed sphere, its front dark. @param mesh none for the first of a piece */
export function withEye(mesh: Mesh | undefined, centre: Vec3, radius: number): Mesh {
  const rings = 10,
    around = 16
  const points: number[] = [],
    normals: number[] = [],
    colors: number[] = [],
    faces: number[] = []
  const base = (mesh?.positions.length ?? 0) / 3
  const vertex = (theta: number, phi: number): void => {
    // the pole looks ahead
    const n: Vec3 = [Math.sin(theta) * Math.cos(phi), Math.sin(theta) * Math.sin(phi), Math.cos(theta)]
    points.push(centre[0] + n[0] * radius, centre[1] + n[1] * radius, centre[2] + n[2] * radius)
    normals.push(...n)
    colors.push(...(theta < 0.42 ? [0.01, 0.01, 0.012] : theta < 0.78 ? [0.1, 0.16, 0.12] : [0.75, 0.72, 0.66]))
  }
  vertex(0, 0)
  for (let r = 1; r < rings; r++)
    for (let a = 0; a < around; a++) vertex((Math.PI * r) / rings, (2 * Math.PI * a) / around)
  vertex(Math.PI, 0)
  const at = (r: number, a: number): number => base + 1 + (r - 1) * around + (a % around)
  for (let a = 0; a < around; a++) {
    faces.push(base, at(1, a), at(1, a + 1))
    for (let r = 1; r < rings - 1; r++)
      faces.push(at(r, a), at(r + 1, a), at(r + 1, a + 1), at(r, a), at(r + 1, a + 1), at(r, a + 1))
    faces.push(at(rings - 1, a), base + 1 + (rings - 1) * around, at(rings - 1, a + 1))
  }
  const join = (a: Float32Array | undefined, b: number[]): Float32Array => Float32Array.from([...(a ?? []), ...b])
  const name = centre[0] > 0 ? 'left eye' : 'right eye'
  return {
    positions: join(mesh?.positions, points),
    normals: join(mesh?.normals, normals),
    colors: join(mesh?.colors, colors),
    indices: Uint32Array.from([...(mesh?.indices ?? []), ...faces]),
    parts: [...(mesh?.parts ?? []), { name, start: mesh?.indices.length ?? 0, count: faces.length, color: [1, 1, 1] }],
  }
}
