import { add, addScaled, cross, dot, lerp, normalize, rotate, scale, sub, type Vec3 } from '@chiraxis/core/math'
import type { Mesh } from '@chiraxis/core/mesh'
import type { Build } from './build'
import type { Posed } from './joints'
import { ball, loft, tube, type LoftOptions, type Ring } from './loft'

/** How finely and how squarely the flesh is modelled. */
export interface Grain {
  readonly sides: number
  readonly square: number
  /** Rings left out between those of a full model. */
  readonly every: number
}

/** Pieces of a bare figure, each closed, overlapping as a modeller leaves them. */
export function fleshOf(b: Build, p: Posed, grain: Grain): Mesh[] {
  const pieces = [torso(b, p, grain), ...head(b, p, grain)]
  for (const side of ['left', 'right'] as const) {
    pieces.push(arm(b, p, side, grain), ...hand(b, p, side, grain))
    pieces.push(leg(b, p, side, grain), foot(b, p, side, grain))
  }
  return pieces
}

const coarse = (rings: readonly Ring[], grain: Grain): Ring[] =>
  rings.filter((_, i) => i === 0 || i === rings.length - 1 || i % grain.every === 0)
const shaped = (grain: Grain, more: Partial<LoftOptions> = {}): LoftOptions => ({
  sides: grain.sides,
  square: grain.square,
  ...more,
})

/** Outline of a trunk: at what share of the way (0 fork, 1 hip joints, 2 waist, 3 shoulder joints, 4 neck, 5 skull). */
const TRUNK: readonly (readonly [at: number, wide: number, ahead: number, behind: number])[] = [
  [0.0, 0.03, 0.035, 0.045],
  [0.25, 0.07, 0.045, 0.06],
  [0.6, 0.089, 0.055, 0.068],
  [1.0, 0.096, 0.058, 0.07],
  [1.4, 0.09, 0.059, 0.062],
  [1.75, 0.081, 0.057, 0.051],
  [2.0, 0.075, 0.056, 0.046],
  [2.3, 0.081, 0.061, 0.05],
  [2.55, 0.09, 0.067, 0.058],
  [2.78, 0.097, 0.064, 0.064],
  [2.95, 0.1, 0.052, 0.062],
  [3.15, 0.088, 0.04, 0.054],
  [3.45, 0.06, 0.03, 0.046],
]

function torso(b: Build, p: Posed, grain: Grain): Mesh {
  const H = b.height
  const { joints } = p
  const middle = (a: string, c: string): Vec3 => lerp(joints[a], joints[c], 0.5)
  const hips = middle('leftUpperLeg', 'rightUpperLeg')
  const shoulders = lerp(middle('leftUpperArm', 'rightUpperArm'), joints.neck, 0.35)
  const knots: Vec3[] = [
    p.fork,
    hips,
    lerp(joints.spine, joints.chest, 0.35),
    [shoulders[0], Math.min(shoulders[1], joints.neck[1] - 0.01 * H), shoulders[2]],
    joints.neck,
    joints.head,
  ]
  const at = (u: number): Vec3 => {
    const i = Math.min(knots.length - 2, Math.floor(u))
    return lerp(knots[i], knots[i + 1], u - i)
  }
  const wideHips = b.hipSpread / 0.05,
    wideShoulders = b.shoulderSpread / 0.1
  const rings = TRUNK.map(([u, wide, ahead, behind]): Ring => {
    const broad = u < 1.5 ? wideHips : u > 2.5 ? wideShoulders : 0.5 * (wideHips + wideShoulders)
    const belly = b.belly * Math.max(0, 1 - Math.abs(u - 1.8) / 0.9)
    return {
      at: at(u),
      wide: wide * broad * Math.sqrt(b.girth) * (1 + 0.25 * belly) * H,
      ahead: ahead * b.girth * (1 + 0.8 * belly) * H,
      behind: behind * b.girth * H,
    }
  })
  const neckWide = Math.min(0.034 * Math.sqrt(b.girth), 0.3 * b.head)
  for (const u of [3.8, 4.2, 4.6, 5])
    rings.push({ at: at(u), wide: neckWide * H, ahead: neckWide * H * 0.98, behind: neckWide * H * 1.05 })
  const across = rotate(p.pelvis, [1, 0, 0])
  return loft(
    'trunk',
    coarse(rings, grain),
    shaped(grain, { across: normalize(add(across, rotate(p.chest, [1, 0, 0]))) }),
  )
}

/** Outline of a head: at what share of its height, half width, ahead and behind, in head heights. */
const HEAD: readonly (readonly [number, number, number, number])[] = [
  [0.0, 0.14, 0.34, 0.02],
  [0.1, 0.23, 0.4, 0.14],
  [0.25, 0.29, 0.41, 0.3],
  [0.42, 0.325, 0.41, 0.42],
  [0.58, 0.34, 0.41, 0.47],
  [0.74, 0.335, 0.37, 0.46],
  [0.88, 0.26, 0.27, 0.37],
  [0.97, 0.13, 0.13, 0.2],
  [1.0, 0.04, 0.04, 0.06],
]

function head(b: Build, p: Posed, grain: Grain): Mesh[] {
  const size = b.head * b.height
  const from = (x: number, y: number, z: number): Vec3 =>
    add(p.joints.head, rotate(p.head, [x * size, (y - 0.28) * size, z * size]))
  const rings = HEAD.map(([y, wide, ahead, behind]): Ring => ({
    at: from(0, y, 0),
    wide: wide * size,
    ahead: ahead * size,
    behind: behind * size,
  }))
  const front = rotate(p.head, [0, 0, 1])
  const nose = tube(
    'nose',
    [from(0, 0.47, 0.36), from(0, 0.36, 0.46), from(0, 0.33, 0.38)],
    [0.03, 0.05, 0.04].map(r => r * size),
    {
      sides: 6,
      front,
    },
  )
  return [loft('head', coarse(rings, { ...grain, every: 1 }), shaped(grain, { front })), nose]
}

/** Outline of an arm: share along upper arm (to 1) and forearm (to 2), radius. */
const ARM: readonly (readonly [number, number])[] = [
  [-0.16, 0.026],
  [0, 0.037],
  [0.18, 0.0355],
  [0.4, 0.031],
  [0.62, 0.029],
  [0.84, 0.0255],
  [1, 0.0255],
  [1.18, 0.0275],
  [1.36, 0.026],
  [1.6, 0.021],
  [1.84, 0.0172],
  [2, 0.0165],
]

function arm(b: Build, p: Posed, side: 'left' | 'right', grain: Grain): Mesh {
  const [s, e, w] = ['UpperArm', 'LowerArm', 'Hand'].map(n => p.joints[side + n])
  // a muscle bends round the elbow, it does not break
  const at = (t: number): Vec3 => (t < 1 ? addScaled(s, sub(e, s), t) : lerp(e, w, t - 1))
  const rings = ARM.map(([t, r]): Ring => {
    const soft = t > 0.7 && t < 1.3 ? lerp(at(t), lerp(at(t - 0.15), at(t + 0.15), 0.5), 0.5) : at(t)
    const k = r * (t > 1.5 ? Math.sqrt(b.armGirth) : b.armGirth) * b.height
    return { at: soft, wide: k, ahead: k, behind: k }
  })
  return loft(`${side} arm`, coarse(rings, grain), shaped(grain))
}

/** A hand's size, its axes, and places in it: along it, towards the thumb, out of its back, as shares of its size. */
function handFrame(b: Build, p: Posed, side: 'left' | 'right') {
  const w = p.joints[`${side}Hand`],
    e = p.joints[`${side}LowerArm`]
  const along = normalize(sub(w, e))
  const ahead = normalize(addScaled([0, 0, 1], along, -dot(along, [0, 0, 1])), [0, 1, 0])
  const flat = cross(along, ahead)
  const size = b.hand * b.height
  const at = (x: number, y: number, z = 0): Vec3 =>
    add(w, add(scale(along, x * size), add(scale(ahead, y * size), scale(flat, z * size))))
  return { size, ahead, flat, at }
}

/** The middle lines of a hand's fingers from the palm to the tip: the thumb first, then from the index finger on. */
export function fingerLines(b: Build, p: Posed, side: 'left' | 'right'): Vec3[][] {
  const { at } = handFrame(b, p, side)
  if (b.hands === 'block') return []
  const thumb = [at(0.14, 0.16), at(0.34, 0.34, 0.03), at(0.56, 0.44, 0.06)]
  if (b.hands === 'mitten') return [thumb, [at(0.42, 0), at(1, 0)]]
  const n = b.hands === 'five' ? 4 : 3
  return [
    thumb,
    ...Array.from({ length: n }, (_, f) => {
      const y = ((n - 1) / 2 - f) * (n === 4 ? 0.118 : 0.155)
      const reach = [0.92, 1, 0.95, 0.8][n === 4 ? f : f + (f > 1 ? 1 : 0)]
      return [at(0.42, 0.92 * y), at(0.6, y), at(0.8, 1.12 * y, -0.01), at(reach, 1.2 * y, -0.03)]
    }),
  ]
}

function hand(b: Build, p: Posed, side: 'left' | 'right', grain: Grain): Mesh[] {
  const H = b.height
  const { size, ahead, flat, at } = handFrame(b, p, side)
  const wrist = 0.0165 * Math.sqrt(b.armGirth) * H
  const broad = Math.max(0.2, Math.min(0.34, (1.15 * wrist) / size))
  const ring = (x: number, y: number, z: number): Ring => ({ at: at(x, 0), wide: z, ahead: y, behind: y })
  const front = ahead
  if (b.hands === 'block')
    return [
      loft(
        `${side} hand`,
        [
          ring(-0.06, wrist, wrist),
          ring(0.12, 0.27 * size, 0.2 * size),
          ring(0.6, 0.34 * size, 0.26 * size),
          ring(1, 0.28 * size, 0.2 * size),
        ],
        shaped(grain, { front }),
      ),
    ]
  const end = b.hands === 'mitten' ? 1 : 0.5
  const palm = loft(
    `${side} palm`,
    [
      ring(-0.06, wrist, wrist * 0.85),
      ring(0.1, broad * 0.86 * size, 0.13 * size),
      ring(0.3, broad * size, 0.125 * size),
      ring(end * 0.8, broad * 0.98 * size, 0.11 * size),
      ring(end, broad * (end < 1 ? 0.92 : 0.5) * size, 0.075 * size),
    ],
    shaped(grain, { front }),
  )
  const lines = fingerLines(b, p, side)
  const thumb = tube(`${side} thumb`, lines[0], [0.09 * size, 0.07 * size, 0.05 * size], {
    sides: Math.min(8, grain.sides),
    front: flat,
  })
  if (b.hands === 'mitten') return [palm, thumb]
  const fingers = lines.slice(1).map((line, f) => {
    const r = (b.hands === 'five' ? 0.05 : 0.066) * size
    return tube(`${side} finger ${f + 1}`, line, [r, r, r * 0.92, r * 0.7], {
      sides: Math.min(8, grain.sides),
      front: flat,
    })
  })
  return [palm, thumb, ...fingers]
}

/** Outline of a leg: share along thigh (to 1) and shank (to 2), half width, ahead, behind. */
const LEG: readonly (readonly [number, number, number, number])[] = [
  [-0.06, 0.04, 0.045, 0.05],
  [0.06, 0.05, 0.056, 0.064],
  [0.2, 0.051, 0.056, 0.062],
  [0.38, 0.048, 0.053, 0.052],
  [0.6, 0.041, 0.046, 0.042],
  [0.82, 0.034, 0.036, 0.034],
  [1, 0.031, 0.035, 0.03],
  [1.16, 0.031, 0.029, 0.034],
  [1.34, 0.033, 0.028, 0.04],
  [1.56, 0.028, 0.024, 0.031],
  [1.8, 0.0205, 0.02, 0.022],
  [2, 0.019, 0.021, 0.024],
]

function leg(b: Build, p: Posed, side: 'left' | 'right', grain: Grain): Mesh {
  const [h, k, a] = ['UpperLeg', 'LowerLeg', 'Foot'].map(n => p.joints[side + n])
  const at = (t: number): Vec3 => (t < 1 ? addScaled(h, sub(k, h), t) : lerp(k, a, t - 1))
  const rings = LEG.map(([t, wide, ahead, behind]): Ring => {
    const soft = t > 0.7 && t < 1.3 ? lerp(at(t), lerp(at(t - 0.15), at(t + 0.15), 0.5), 0.5) : at(t)
    const m = (t > 1.6 ? Math.sqrt(b.legGirth) : b.legGirth) * b.height
    return { at: soft, wide: wide * m, ahead: ahead * m, behind: behind * m }
  })
  return loft(`${side} leg`, coarse(rings, grain), shaped(grain))
}

function foot(b: Build, p: Posed, side: 'left' | 'right', grain: Grain): Mesh {
  const H = b.height
  const a = p.joints[`${side}Foot`]
  const ball = p.joints[`${side}Toes`]
  const along = normalize([ball[0] - a[0], 0, ball[2] - a[2]])
  const ground = a[1] - b.ankle * H
  const size = b.foot * H
  const high = Math.min(b.ankle * 1.1, 0.36 * b.foot) * H
  const girth = Math.sqrt(b.legGirth)
  // the section stands upright: `wide` across the foot, `ahead` up
  const ring = (z: number, wide: number, tall: number): Ring => ({
    at: [a[0] + along[0] * z * size, ground + tall / 2, a[2] + along[2] * z * size],
    wide: wide * size * girth,
    ahead: tall / 2,
    behind: tall / 2,
  })
  return loft(
    `${side} foot`,
    [
      ring(-0.28, 0.07, high * 0.5),
      ring(-0.22, 0.13, high),
      ring(0, 0.15, high * 1.1),
      ring(0.22, 0.16, high * 0.85),
      ring(0.47, 0.19, high * 0.52),
      ring(0.65, 0.16, high * 0.42),
      ring(0.72, 0.09, high * 0.3),
    ],
    shaped(grain, { front: [0, 1, 0] }),
  )
}

/** A turned ball, for what is worn. */
export const lump = (name: string, at: Vec3, radii: Vec3, grain: Grain): Mesh =>
  ball(name, at, radii, Math.max(8, grain.sides))
