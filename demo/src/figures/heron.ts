import { lerp, type Vec3 } from '@chiraxis/core/math'
import type { BodyPlan, Palette } from './body'
import type { Blob } from './field'

/** Reed, the marsh heron that follows the Night Ferry: two legs, two wings, and no plan that knows it. */
export interface HeronProportions {
  /** Height of the crown, metres; everything else is a share of it. */
  readonly height: number
  readonly neck: number
  readonly legs: number
  readonly wings: number
  readonly girth: number
}
export const REED: HeronProportions = { height: 0.98, neck: 1, legs: 1, wings: 1, girth: 1 }
export const REED_COLORS: Palette = {
  skin: [0.24, 0.29, 0.33],
  hair: [0.05, 0.06, 0.08],
  jacket: [0.3, 0.36, 0.4],
  shirt: [0.62, 0.62, 0.58],
  trousers: [0.45, 0.33, 0.12],
  boots: [0.4, 0.3, 0.12],
  trim: [0.75, 0.5, 0.12],
}

/** Lines that a person would draw chains along, by what they would be called. Those of the left are mirrored. */
export const HERON_LINES = ['back', 'neck', 'beak', 'tail', 'left wing', 'left leg'] as const
export type HeronLine = (typeof HERON_LINES)[number]

const AXES: readonly [Vec3, Vec3, Vec3] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
]

/** Where the lines of a heron run, metres, feet on the ground, facing +Z. */
export function heronLines(p: HeronProportions): Record<HeronLine, Vec3[]> {
  const H = p.height
  const up = 0.52 * p.legs
  const at = (x: number, y: number, z: number): Vec3 => [x * H, y * H, z * H]
  const base = at(0, up + 0.07, 0.13)
  const n = p.neck
  return {
    back: [at(0, up + 0.01, -0.15), at(0, up + 0.03, 0), base],
    neck: [
      base,
      at(0, up + 0.1 * n + 0.05, 0.13 + 0.09 * n),
      at(0, up + 0.24 * n + 0.05, 0.13 + 0.06 * n),
      at(0, up + 0.35 * n + 0.05, 0.13 + 0.07 * n),
      at(0, up + 0.4 * n + 0.05, 0.17 + 0.1 * n),
    ],
    beak: [at(0, up + 0.4 * n + 0.045, 0.19 + 0.1 * n), at(0, up + 0.385 * n + 0.045, 0.36 + 0.1 * n)],
    tail: [at(0, up + 0.005, -0.15), at(0, up - 0.03, -0.24), at(0, up - 0.06, -0.32)],
    'left wing': [
      at(0.07, up + 0.06, 0.05),
      at(0.07 + 0.17 * p.wings, up + 0.13, 0.01),
      at(0.07 + 0.36 * p.wings, up + 0.1, 0.04),
      at(0.07 + 0.6 * p.wings, up + 0.05, -0.05),
    ],
    'left leg': [
      at(0.055, up - 0.05, -0.01),
      at(0.06, 0.62 * up, 0.035),
      at(0.06, 0.3 * up, -0.01),
      at(0.062, 0.03, 0.0),
      at(0.065, 0.014, 0.09),
    ],
  }
}

/** Builds a standing heron with its wings half spread. */
export function heronPlan(p: HeronProportions, c: Palette): BodyPlan {
  const H = p.height
  const lines = heronLines(p)
  const cone = (role: string, color: Blob['color'], a: Vec3, b: Vec3, ra: number, rb: number, k: number): Blob => ({
    shape: 'cone',
    a,
    b,
    ra: ra * H,
    rb: rb * H,
    axes: AXES,
    radii: [1, 1, 1],
    k: k * H,
    role,
    color,
  })
  const pipe = (
    role: string,
    color: Blob['color'],
    line: readonly Vec3[],
    radii: readonly number[],
    k: number,
  ): Blob[] => line.slice(1).map((b, i) => cone(role, color, line[i], b, radii[i], radii[i + 1], k))
  const [tailEnd, , breast] = lines.back
  const middle = lerp(tailEnd, breast, 0.5)
  const g = p.girth
  const trunk: Blob = {
    shape: 'ellipsoid',
    a: middle,
    b: middle,
    ra: 0,
    rb: 0,
    axes: AXES,
    radii: [0.085 * g * H, 0.095 * g * H, 0.2 * H],
    k: 0.05 * H,
    role: 'back',
    color: c.skin,
  }
  const head = lines.neck[4]
  const groups = [
    {
      k: 0,
      blobs: [
        trunk,
        ...pipe('neck', c.shirt, lines.neck, [0.055 * g, 0.038, 0.03, 0.028, 0.036], 0.03),
        cone(
          'neck',
          c.hair,
          [head[0], head[1] + 0.01 * H, head[2] - 0.01 * H],
          [head[0], head[1] + 0.005 * H, head[2] - 0.09 * H],
          0.018,
          0.006,
          0.01,
        ),
        ...pipe('beak', c.trim, lines.beak, [0.02, 0.006], 0.012),
        ...pipe('tail', c.hair, lines.tail, [0.05, 0.04, 0.018], 0.03),
      ],
    },
  ]
  for (const s of [1, -1]) {
    const side = (line: readonly Vec3[]): Vec3[] => line.map(([x, y, z]) => [s * x, y, z])
    const wing = side(lines['left wing'])
    // feathers trail behind the bones
    const feathers = wing.slice(0, 3).map((a, i) => {
      const b = lerp(a, wing[i + 1], 0.8)
      return cone(
        'left wing',
        i === 2 ? c.hair : c.jacket,
        [a[0], a[1] - 0.012 * H, a[2] - 0.06 * H],
        [b[0], b[1] - 0.012 * H, b[2] - 0.07 * H],
        0.026,
        0.02,
        0.05,
      )
    })
    groups.push({
      k: 0.03 * H,
      blobs: [...pipe('left wing', c.jacket, wing, [0.04, 0.03, 0.026, 0.014], 0.03), ...feathers],
    })
    const leg = side(lines['left leg'])
    groups.push({
      k: 0.025 * H,
      blobs: pipe('left leg', c.trousers, leg, [0.045 * g, 0.022, 0.016, 0.016, 0.012], 0.012),
    })
  }
  const joints = Object.fromEntries(
    HERON_LINES.flatMap(name => lines[name].map((at, i): [string, Vec3] => [`${name} ${i + 1}`, at])),
  )
  const eye = (s: number): { centre: Vec3; radius: number } => ({
    centre: [s * 0.026 * H, head[1] + 0.012 * H, head[2] + 0.022 * H],
    radius: 0.008 * H,
  })
  return { groups, joints, eyes: [eye(1), eye(-1)] }
}
