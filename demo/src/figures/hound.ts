import { add, lerp, scale, seededRandom, type Vec3 } from '@chiraxis/core/math'
import type { Palette, BodyPlan } from './body'
import type { Blob } from './field'

/** What shapes a four-legged body. Lengths are shares of `back`, the height of the back, unless said otherwise. */
export interface HoundProportions {
  /** Height of the withers, metres. */
  readonly back: number
  readonly length: number
  readonly legs: number
  readonly neck: number
  readonly head: number
  readonly muzzle: number
  readonly limb: number
  readonly legGirth: number
  readonly tail: number
  /** How far the tail rises, degrees. */
  readonly tailLift: number
  readonly ears: number
  readonly spread: number
}

/** Brindle, the marsh hound of the Night Ferry. */
export const BRINDLE: HoundProportions = {
  back: 0.62,
  length: 1,
  legs: 1,
  neck: 1,
  head: 1,
  muzzle: 1,
  limb: 1,
  legGirth: 1,
  tail: 1,
  tailLift: 25,
  ears: 1,
  spread: 1,
}
export const BRINDLE_COLORS: Palette = {
  skin: [0.13, 0.075, 0.035],
  hair: [0.035, 0.022, 0.014],
  jacket: [0.2, 0.125, 0.06],
  shirt: [0.42, 0.34, 0.24],
  trousers: [0.1, 0.06, 0.03],
  boots: [0.3, 0.22, 0.14],
  trim: [0.45, 0.1, 0.05],
}

/** A four-legged body nobody tuned on. */
export function variedHound(seed: number): HoundProportions {
  const random = seededRandom(seed * 6151 + 29)
  const between = (a: number, b: number): number => a + (b - a) * random()
  return {
    back: between(0.3, 1.3),
    length: between(0.85, 1.2),
    legs: between(0.85, 1.12),
    neck: between(0.8, 1.35),
    head: between(0.85, 1.2),
    muzzle: between(0.75, 1.2),
    limb: between(0.8, 1.25),
    legGirth: between(0.85, 1.3),
    tail: between(0.7, 1.2),
    tailLift: between(-25, 60),
    ears: between(0.7, 1.3),
    spread: between(0.9, 1.25),
  }
}

const AXES: readonly [Vec3, Vec3, Vec3] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
]

/** Builds a standing four-legged body, facing +Z, left at +X, feet on the ground. */
export function houndPlan(p: HoundProportions, c: Palette): BodyPlan {
  const B = p.back
  const joints: Record<string, Vec3> = {}
  const put = (role: string, x: number, y: number, z: number): Vec3 => (joints[role] = [x * B, y * B, z * B])
  const cone = (
    role: string,
    color: readonly [number, number, number],
    a: Vec3,
    b: Vec3,
    ra: number,
    rb: number,
    k = 0.05,
  ): Blob => ({ shape: 'cone', a, b, ra: ra * B, rb: rb * B, axes: AXES, radii: [1, 1, 1], k: k * B, role, color })
  const ellipsoid = (role: string, color: readonly [number, number, number], a: Vec3, radii: Vec3, k = 0.05): Blob => ({
    shape: 'ellipsoid',
    a,
    b: a,
    ra: 0,
    rb: 0,
    axes: AXES,
    radii: scale(radii, B),
    k: k * B,
    role,
    color,
  })
  const z = (v: number): number => v * p.length
  const leg = (y: number): number => y * p.legs
  const g = p.limb
  const lift = leg(0.6) - 0.6
  const hips = put('hips', 0, 0.9 + lift, z(-0.56))
  const spine = put('spine', 0, 0.92 + lift, z(-0.18))
  const chest = put('chest', 0, 0.88 + lift, z(0.2))
  const neck = put('neck', 0, 0.97 + lift, z(0.46))
  const skull = put('head', 0, 0.97 + lift + 0.3 * p.neck, z(0.46) + 0.24 * p.neck)
  joints.neck2 = lerp(neck, skull, 0.5)
  const nose = put('headEnd', 0, skull[1] / B - 0.1 * p.head, skull[2] / B + (0.19 + 0.2 * p.muzzle) * p.head)
  const rise = (p.tailLift * Math.PI) / 180
  const tail = put('tail1', 0, 0.92 + lift, z(-0.7))
  const bend = add(tail, scale([0, Math.sin(rise * 0.5), -Math.cos(rise * 0.5)], 0.27 * p.tail * B))
  const tip = add(bend, scale([0, Math.sin(rise), -Math.cos(rise)], 0.27 * p.tail * B))
  joints.tailMiddle = bend
  joints.tailEnd = tip
  const h = p.head
  const blobs: Blob[] = [
    ellipsoid('hips', c.skin, add(hips, [0, -0.1 * B, 0]), [0.15 * g, 0.19 * g, 0.22 * p.length], 0.08),
    ellipsoid('spine', c.skin, add(spine, [0, -0.13 * B, 0]), [0.135 * g, 0.17 * g, 0.34 * p.length], 0.08),
    ellipsoid('chest', c.skin, add(chest, [0, -0.14 * B, 0.02 * B]), [0.165 * g, 0.24 * g, 0.3 * p.length], 0.08),
    ellipsoid('chest', c.shirt, add(chest, [0, -0.24 * B, z(0.16) * B]), [0.1 * g, 0.1 * g, 0.13 * p.length], 0.06),
    cone('neck', c.skin, add(neck, [0, -0.06 * B, -0.02 * B]), skull, 0.15 * Math.sqrt(g), 0.098 * Math.sqrt(g), 0.08),
    cone(
      'neck',
      c.trim,
      lerp(neck, skull, 0.62),
      lerp(neck, skull, 0.72),
      0.121 * Math.sqrt(g),
      0.118 * Math.sqrt(g),
      0.008,
    ),
    ellipsoid('head', c.skin, add(skull, scale([0, 0.015, 0.07], h * B)), [0.105 * h, 0.105 * h, 0.13 * h], 0.04),
    cone(
      'head',
      c.skin,
      add(skull, scale([0, -0.02, 0.12], h * B)),
      lerp(skull, nose, 0.93),
      0.075 * h,
      0.044 * h,
      0.04,
    ),
    ellipsoid('head', c.hair, add(nose, scale([0, 0.014, -0.02], h * B)), [0.03 * h, 0.025 * h, 0.025 * h], 0.012),
    cone('tail1', c.hair, add(tail, [0, -0.01 * B, 0.05 * B]), bend, 0.05, 0.034, 0.05),
    cone('tail1', c.shirt, bend, tip, 0.034, 0.022, 0.02),
  ]
  const groups = [{ k: 0, blobs }]
  for (const [side, s] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    const r = (part: string): string => side + part
    const wide = p.spread * s
    const ear = put(r('Ear'), 0.075 * h * s, skull[1] / B + 0.085 * h, skull[2] / B + 0.035 * h)
    const earTip: Vec3 = add(ear, scale([0.045 * s, 0.19 * p.ears, -0.02], h * B))
    joints[r('EarEnd')] = earTip
    groups.push({ k: 0.02 * B, blobs: [cone(r('Ear'), c.hair, ear, earTip, 0.042 * h, 0.016 * h, 0.02)] })
    const lg = p.legGirth
    put(r('FrontShoulder'), 0.1 * wide, 0.94 + lift, z(0.28))
    const point = put(r('FrontUpperLeg'), 0.13 * wide, 0.75 + lift, z(0.4))
    const elbow = put(r('FrontLowerLeg'), 0.145 * wide, leg(0.58), z(0.25))
    const wrist = put(r('FrontFoot'), 0.145 * wide, leg(0.255), z(0.26))
    const toes = put(r('FrontToes'), 0.147 * wide, 0.085, z(0.26) + 0.03)
    const end = put(r('FrontToesEnd'), 0.147 * wide, 0.02, z(0.26) + 0.14)
    groups.push({
      k: 0.05 * B,
      blobs: [
        cone(
          r('FrontShoulder'),
          c.skin,
          lerp(joints[r('FrontShoulder')], point, 0.3),
          point,
          0.075 * g,
          0.078 * lg,
          0.06,
        ),
        cone(r('FrontUpperLeg'), c.skin, point, elbow, 0.078 * lg, 0.066 * lg, 0.05),
        cone(r('FrontLowerLeg'), c.skin, elbow, wrist, 0.06 * lg, 0.043 * lg, 0.03),
        cone(r('FrontFoot'), c.boots, wrist, toes, 0.044 * lg, 0.042 * lg, 0.02),
        cone(
          r('FrontToes'),
          c.boots,
          add(toes, [0, -0.035 * B, 0.01 * B]),
          lerp(toes, end, 0.55),
          0.05 * lg,
          0.046 * lg,
          0.02,
        ),
      ],
    })
    const hip = put(r('HindUpperLeg'), 0.11 * wide, 0.8 + lift, z(-0.52))
    const knee = put(r('HindLowerLeg'), 0.145 * wide, leg(0.55), z(-0.38))
    const hock = put(r('HindFoot'), 0.14 * wide, leg(0.285), z(-0.66))
    const hindToes = put(r('HindToes'), 0.14 * wide, 0.085, z(-0.61))
    const hindEnd = put(r('HindToesEnd'), 0.14 * wide, 0.02, z(-0.61) + 0.12)
    groups.push({
      k: 0.06 * B,
      blobs: [
        cone(r('HindUpperLeg'), c.skin, hip, knee, 0.12 * Math.sqrt(g) * lg, 0.082 * lg, 0.06),
        cone(r('HindLowerLeg'), c.skin, knee, hock, 0.075 * lg, 0.045 * lg, 0.03),
        cone(r('HindFoot'), c.boots, hock, hindToes, 0.044 * lg, 0.04 * lg, 0.02),
        cone(
          r('HindToes'),
          c.boots,
          add(hindToes, [0, -0.035 * B, 0.01 * B]),
          lerp(hindToes, hindEnd, 0.55),
          0.048 * lg,
          0.044 * lg,
          0.02,
        ),
      ],
    })
  }
  const eyes = [1, -1].map(s => ({ centre: add(skull, scale([0.06 * s, 0.045, 0.155], h * B)), radius: 0.022 * h * B }))
  return { groups, joints, eyes }
}
