import { findFace, makeExpressions } from '@chiraxis/core/face'
import { compose, lerp, scale, type Vec3 } from '@chiraxis/core/math'
import { joinMeshes, transformMesh, type Mesh } from '@chiraxis/core/mesh'
import { HEAD, makeHead, type HeadShape } from '../heads'
import type { Palette } from './body'
import type { Blob } from './field'
import type { MadeFigure } from './figure'
import type { Proportions } from './proportions'
import { gridLines, surfaceNets } from './surface-nets'

const AXES: readonly [Vec3, Vec3, Vec3] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
]
type Color = readonly [number, number, number]

/** Pieces worn over a body: a long coat open at the front, and a satchel with its strap, each one closed surface. */
export function outfit(p: Proportions, c: Palette, joints: Readonly<Record<string, Vec3>>, vertices: number): Mesh[] {
  const H = p.height
  const cone = (color: Color, a: Vec3, b: Vec3, ra: number, rb: number, k = 0.02): Blob => ({
    shape: 'cone',
    a,
    b,
    ra: ra * H,
    rb: rb * H,
    axes: AXES,
    radii: [1, 1, 1],
    k: k * H,
    role: 'chest',
    color,
  })
  const ellipsoid = (color: Color, a: Vec3, radii: Vec3, k = 0.02): Blob => ({
    shape: 'ellipsoid',
    a,
    b: a,
    ra: 0,
    rb: 0,
    axes: AXES,
    radii: scale(radii, H),
    k: k * H,
    role: 'chest',
    color,
  })
  const coat = scale(c.jacket as Vec3, 0.8) as Color
  const [hips, spine, chest] = ['hips', 'spine', 'upperChest'].map(r => joints[r])
  const knee = (s: 'left' | 'right'): Vec3 => joints[`${s}LowerLeg`]
  const g = p.torsoGirth
  const wide = Math.max(p.hipSpread / 0.052, Math.sqrt(g))
  const blobs: Blob[] = [
    ellipsoid(
      coat,
      [0, chest[1] - 0.014 * H, chest[2]],
      [0.098 * (p.shoulders / 0.098) * Math.sqrt(g), 0.08, 0.07 * g],
      0.04,
    ),
    ellipsoid(coat, [0, spine[1], spine[2] + 0.002 * H], [0.084 * g, 0.1, 0.066 * g], 0.05),
    ellipsoid(coat, [0, hips[1] - 0.03 * H, hips[2]], [0.115 * wide, 0.1, 0.092 * g], 0.05),
  ]
  for (const side of ['left', 'right'] as const) {
    const k = knee(side)
    const top: Vec3 = [0.62 * k[0], hips[1] - 0.05 * H, -0.004 * H]
    // the hem hangs a hand above the knee and stands a little off the leg
    blobs.push(cone(coat, top, [1.05 * k[0], k[1], -0.012 * H], 0.07, 0.082, 0.06))
  }
  const bag: Color = [0.16, 0.075, 0.03]
  const at: Vec3 = [0.128 * H * wide, hips[1] - 0.06 * H, 0.006 * H]
  const satchel: Blob[] = [
    ellipsoid(bag, at, [0.026, 0.05, 0.06], 0.01),
    cone(
      bag,
      [0.086 * H * wide, hips[1] + 0.06 * H, 0.06 * H],
      [at[0] - 0.01 * H, at[1] + 0.03 * H, 0.04 * H],
      0.007,
      0.007,
      0.01,
    ),
    ellipsoid([0.11, 0.05, 0.02], [at[0] + 0.006 * H, at[1] + 0.018 * H, at[2]], [0.026, 0.03, 0.063], 0.006),
  ]
  return [
    shellOf('coat', blobs, vertices, H, knee('left')[1] + 0.03 * H),
    shellOf('satchel', satchel, Math.round(vertices / 6), H),
  ]
}

/** @param hem height below which the piece is cut flat */
export function shellOf(name: string, blobs: readonly Blob[], vertices: number, H: number, hem = -Infinity): Mesh {
  const points = blobs.flatMap(b => [b.a, b.b])
  const reach = 0.14 * H
  const low = [0, 1, 2].map(k => Math.min(...points.map(q => q[k])) - reach),
    high = [0, 1, 2].map(k => Math.max(...points.map(q => q[k])) + reach)
  const groups = [{ k: 0, blobs }]
  const netAt = (step: number): ReturnType<typeof surfaceNets> =>
    surfaceNets(
      groups,
      [0, 1, 2].map(k => gridLines(low[k], high[k], () => step)) as unknown as Parameters<typeof surfaceNets>[1],
    )
  let step = H * Math.sqrt(0.35 / vertices)
  let net = netAt(step)
  // what is thinner than a cell is not seen at all
  while (net.positions.length < 300) net = netAt((step /= 1.5))
  step *= Math.sqrt(net.positions.length / 3 / vertices)
  net = netAt(step)
  const n = net.positions.length / 3
  for (let v = 0; v < n; v++) {
    const y = net.positions[3 * v + 1]
    // a little of the roundness stays, so that no two faces fall together
    if (y < hem) net.positions[3 * v + 1] = hem - 0.02 * (hem - y)
  }
  const colors = new Float32Array(3 * n)
  for (let v = 0; v < n; v++) {
    const p: Vec3 = [net.positions[3 * v], net.positions[3 * v + 1], net.positions[3 * v + 2]]
    let best = blobs[0],
      least = Infinity
    for (const b of blobs) {
      const d =
        Math.hypot(p[0] - (b.a[0] + b.b[0]) / 2, p[1] - (b.a[1] + b.b[1]) / 2, p[2] - (b.a[2] + b.b[2]) / 2) -
        (b.shape === 'cone' ? b.ra : Math.min(...b.radii))
      if (d < least) {
        least = d
        best = b
      }
    }
    colors.set(best.color, 3 * v)
  }
  return {
    positions: net.positions,
    indices: net.indices,
    normals: net.normals,
    colors,
    parts: [{ name, start: 0, count: net.indices.length, color: [1, 1, 1] }],
  }
}

/** A pilot's head: calm, with a cap, her hair bound at the nape. */
const ODA_HEAD: HeadShape = {
  ...HEAD,
  width: 0.64,
  eyes: 0.475,
  eye: 0.062,
  apart: 0.15,
  noseLength: 0.085,
  mouthWidth: 0.115,
  lips: 0.031,
  brows: 0.62,
  neck: 0.19,
}

/** Expressions a figure comes with; the others are to be made. */
const BROUGHT = ['aa', 'happy', 'surprised'] as const

/**
 * A figure dressed: a head of its own with all that moves in a face, hair and cap, a coat and a satchel beside the body.
 * @param figure its body up to the collar
 * @param fine how fine the head is: more is finer
 */
export async function dressed(
  figure: MadeFigure,
  p: Proportions,
  c: Palette,
  vertices: number,
  fine = 1,
): Promise<MadeFigure> {
  const H = p.headHeight * p.height
  const base: Vec3 = [0, figure.joints.headEnd[1] - H, -0.004 * p.height]
  const skin = c.skin
  const lips = lerp(skin as Vec3, [0.3, 0.06, 0.05], 0.5)
  const brows = lerp(c.hair as Vec3, skin as Vec3, 0.25)
  const made = makeHead({ ...ODA_HEAD, height: H }, 0.0145 / Math.sqrt(Math.max(0.35, fine)), { skin, lips, brows })
  const face = findFace(made.mesh, made)
  const head = {
    ...made.mesh,
    morphs: (await makeExpressions(made.mesh, face, BROUGHT)).shapes,
  }
  const on = (mesh: Mesh): Mesh => transformMesh(mesh, compose(base, [0, 0, 0, 1]))
  const pieces = outfit(p, c, figure.joints, vertices)
  const mesh = joinMeshes([figure.mesh, on(head), ...headgear(H, c, vertices).map(on), ...pieces])
  const added = mesh.positions.length / 3 - figure.labels.length
  const ownHead = head.positions.length / 3
  return {
    ...figure,
    mesh,
    labels: [...figure.labels, ...Array.from({ length: added }, (_, i) => (i < ownHead ? 'head' : 'chest'))],
  }
}

/** Hair and a cap on a head whose chin is at no height. */
function headgear(H: number, c: Palette, vertices: number): Mesh[] {
  const ball = (color: Color, a: Vec3, radii: Vec3, k = 0.02): Blob => ({
    shape: 'ellipsoid',
    a: scale(a, H),
    b: scale(a, H),
    ra: 0,
    rb: 0,
    axes: AXES,
    radii: scale(radii, H),
    k: k * H,
    role: 'head',
    color,
  })
  const hair = [
    ball(c.hair, [0, 0.6, -0.1], [0.335, 0.365, 0.4]),
    ball(c.hair, [0, 0.36, -0.46], [0.15, 0.14, 0.13], 0.05),
  ]
  const cap = [ball(c.jacket, [0, 0.875, -0.06], [0.385, 0.15, 0.455])]
  const brim = [ball(c.boots, [0, 0.8, 0.35], [0.24, 0.035, 0.19])]
  return (
    [
      ['hair', hair, 4],
      ['cap', cap, 4],
      ['brim', brim, 5],
    ] as const
  ).map(([name, blobs, share]) => shellOf(name, blobs, Math.round(vertices / share), 5 * H))
}
