import { add, addScaled, cross, lerp, normalize, scale, type Vec3 } from '@chiraxis/core/math'
import type { Blob, BlobGroup } from './field'
import type { Proportions } from './proportions'

type Color = readonly [number, number, number]

/** Linear colours of the crew's outfit. */
export interface Palette {
  readonly skin: Color
  readonly hair: Color
  readonly jacket: Color
  readonly shirt: Color
  readonly trousers: Color
  readonly boots: Color
  readonly trim: Color
}

export const ODA_COLORS: Palette = {
  skin: [0.5, 0.27, 0.16],
  hair: [0.035, 0.025, 0.02],
  jacket: [0.045, 0.1, 0.13],
  shirt: [0.55, 0.47, 0.33],
  trousers: [0.1, 0.085, 0.07],
  boots: [0.05, 0.032, 0.024],
  trim: [0.62, 0.36, 0.08],
}
export const PIM_COLORS: Palette = {
  skin: [0.62, 0.36, 0.24],
  hair: [0.3, 0.12, 0.035],
  jacket: [0.5, 0.3, 0.05],
  shirt: [0.3, 0.36, 0.36],
  trousers: [0.07, 0.11, 0.16],
  boots: [0.14, 0.05, 0.03],
  trim: [0.42, 0.12, 0.07],
}

/** A body as blended volumes, with the true joints it was built on (metres, by VRM role; `…End` are the tips). */
export interface BodyPlan {
  readonly groups: readonly BlobGroup[]
  readonly joints: Readonly<Record<string, Vec3>>
  readonly eyes: readonly { readonly centre: Vec3; readonly radius: number }[]
}

const WORLD_AXES: readonly [Vec3, Vec3, Vec3] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
]
const rad = Math.PI / 180

/** Builds a standing biped, facing +Z, left at +X, feet on the ground. @param headless up to the collar, for a head of its own */
export function bodyPlan(p: Proportions, c: Palette, headless = false): BodyPlan {
  const H = p.height
  const joints: Record<string, Vec3> = {}
  const cone = (role: string, color: Color, a: Vec3, b: Vec3, ra: number, rb: number, k = 0.02): Blob => ({
    shape: 'cone',
    a,
    b,
    ra: ra * H,
    rb: rb * H,
    axes: WORLD_AXES,
    radii: [1, 1, 1],
    k: k * H,
    role,
    color,
  })
  const ellipsoid = (role: string, color: Color, a: Vec3, radii: Vec3, k = 0.02, axes = WORLD_AXES): Blob => ({
    shape: 'ellipsoid',
    a,
    b: a,
    ra: 0,
    rb: 0,
    axes,
    radii: scale(radii, H),
    k: k * H,
    role,
    color,
  })

  const hipY = p.legLength
  const headBase = 1 - p.headHeight
  const neckY = headBase - p.neckLength * 0.55
  const shoulderY = neckY - 0.022 - p.neckLength * 0.12
  const torso = neckY - hipY
  const put = (role: string, x: number, y: number, z: number): Vec3 => (joints[role] = [x * H, y * H, z * H])
  put('hips', 0, hipY + torso * 0.075, 0.002)
  put('spine', 0, hipY + torso * 0.24, 0.0)
  put('chest', 0, hipY + torso * 0.46, -0.003)
  put('upperChest', 0, hipY + torso * 0.68, -0.006)
  put('neck', 0, neckY, -0.008)
  // where the skull turns on the neck: level with the ear lobes, not with the chin (the canon of the head in thirds)
  put('head', 0, headBase + p.headHeight * 0.27, -0.003)
  put('headEnd', 0, 1, 0)
  const g = p.torsoGirth
  const wide = p.shoulders / 0.098
  const hip = p.hipSpread / 0.052
  const hh = p.headHeight

  const trunk: Blob[] = [
    ellipsoid(
      'hips',
      c.trousers,
      [0, (hipY + torso * 0.03) * H, -0.002 * H],
      [0.083 * hip * Math.sqrt(g), 0.068, 0.062 * g],
      0.03,
    ),
    ellipsoid('spine', c.jacket, [0, (hipY + torso * 0.3) * H, 0.002 * H], [0.072 * g, torso * 0.3, 0.052 * g], 0.05),
    ellipsoid(
      'upperChest',
      c.jacket,
      [0, (hipY + torso * 0.66) * H, 0],
      [0.084 * wide * Math.sqrt(g), torso * 0.33, 0.058 * g],
      0.05,
    ),
  ]
  if (p.jacket > 0) {
    trunk.push(
      ellipsoid(
        'hips',
        c.jacket,
        [0, (hipY + torso * 0.1) * H, 0.001 * H],
        [(0.082 + 0.012 * p.jacket) * hip * Math.sqrt(g), 0.052, (0.06 + 0.012 * p.jacket) * g],
        0.012,
      ),
    )
    trunk.push(
      ellipsoid('hips', c.trim, [0, (hipY + torso * 0.27) * H, 0.002 * H], [0.0755 * g, 0.011, 0.056 * g], 0.006),
    )
    trunk.push(
      cone(
        'neck',
        c.shirt,
        [0, (neckY - 0.006) * H, -0.004 * H],
        [0, (neckY + 0.008) * H, -0.002 * H],
        0.037,
        0.035,
        0.008,
      ),
    )
  }
  const neckR = Math.min(0.031, 0.2 * hh + 0.006) * Math.sqrt(g)
  trunk.push(
    cone(
      'neck',
      c.skin,
      add(joints.neck, [0, -0.02 * H, 0]),
      [0, (headBase + hh * 0.12 + 0.012) * H, joints.head[2]],
      neckR * 1.08,
      neckR * 0.95,
      0.03,
    ),
  )
  const lips = lerp(c.skin as Vec3, [0.3, 0.06, 0.05], 0.55)
  const brows = lerp(c.hair as Vec3, c.skin as Vec3, 0.4)
  // skull, jaw, nose, ears, brows
  const skullY = headBase + hh * 0.57
  trunk.push(ellipsoid('head', c.skin, [0, skullY * H, -0.004 * H], [hh * 0.36, hh * 0.43, hh * 0.42], 0.012))
  trunk.push(
    ellipsoid('head', c.skin, [0, (headBase + hh * 0.24) * H, hh * 0.1 * H], [hh * 0.27, hh * 0.24, hh * 0.29], 0.02),
  )
  trunk.push(
    cone(
      'head',
      c.skin,
      [0, (headBase + hh * 0.48) * H, hh * 0.37 * H],
      [0, (headBase + hh * 0.36) * H, hh * 0.44 * H],
      hh * 0.035,
      hh * 0.062,
      hh * 0.06,
    ),
  )
  for (const s of [1, -1]) {
    trunk.push(
      ellipsoid(
        'head',
        c.skin,
        [s * hh * 0.36 * H, (headBase + hh * 0.45) * H, -hh * 0.02 * H],
        [hh * 0.05, hh * 0.11, hh * 0.08],
        hh * 0.03,
      ),
    )
    const face = (x: number, y: number, z: number): Vec3 => [s * hh * x * H, (headBase + hh * y) * H, hh * z * H]
    // a pilot looks out calmly: brows that fall outwards, and lids that rest on the eyes
    if (p.cap)
      trunk.push(
        cone('head', brows, face(0.09, 0.63, 0.39), face(0.235, 0.612, 0.318), hh * 0.028, hh * 0.022, hh * 0.02),
        cone('head', c.skin, face(0.105, 0.538, 0.362), face(0.205, 0.534, 0.338), hh * 0.03, hh * 0.03, hh * 0.02),
      )
    else
      trunk.push(
        cone('head', c.hair, face(0.09, 0.585, 0.395), face(0.22, 0.6, 0.325), hh * 0.022, hh * 0.016, hh * 0.02),
      )
  }
  trunk.push(
    cone(
      'head',
      p.cap ? lips : c.trim,
      [-hh * 0.09 * H, (headBase + hh * 0.2) * H, hh * 0.355 * H],
      [hh * 0.09 * H, (headBase + hh * 0.2) * H, hh * 0.355 * H],
      hh * 0.026,
      hh * 0.026,
      hh * 0.03,
    ),
  )
  trunk.push(
    ellipsoid(
      'head',
      c.hair,
      [0, (skullY + hh * 0.02) * H, -hh * 0.075 * H],
      [hh * 0.39, hh * 0.408, hh * 0.395],
      hh * 0.012,
    ),
  )
  if (!p.cap)
    trunk.push(
      ellipsoid(
        'head',
        c.hair,
        [0, (headBase + hh * 0.79) * H, hh * 0.02 * H],
        [hh * 0.375, hh * 0.235, hh * 0.4],
        hh * 0.02,
      ),
    )
  if (p.cap) {
    trunk.push(
      ellipsoid(
        'head',
        c.jacket,
        [0, (headBase + hh * 0.85) * H, -hh * 0.02 * H],
        [hh * 0.43, hh * 0.15, hh * 0.46],
        hh * 0.03,
      ),
    )
    trunk.push(
      ellipsoid(
        'head',
        c.boots,
        [0, (headBase + hh * 0.765) * H, hh * 0.36 * H],
        [hh * 0.27, hh * 0.025, hh * 0.2],
        hh * 0.02,
      ),
    )
    trunk.push(
      ellipsoid(
        'head',
        c.hair,
        [0, (headBase + hh * 0.32) * H, -hh * 0.42 * H],
        [hh * 0.15, hh * 0.14, hh * 0.13],
        hh * 0.04,
      ),
    )
  }
  const eyes = [1, -1].map(s => ({
    centre: [s * hh * 0.155 * H, (headBase + hh * 0.5) * H, hh * 0.338 * H] as Vec3,
    radius: hh * 0.054 * H,
  }))

  const bare = trunk.filter(b => b.role !== 'head' && !(b.role === 'neck' && b.color === c.skin))
  const groups: BlobGroup[] = [{ k: 0, blobs: headless ? bare : trunk }]
  for (const side of ['left', 'right'] as const) {
    const s = side === 'left' ? 1 : -1
    groups.push(arm(p, c, side, s, shoulderY, joints, cone, ellipsoid))
    groups.push(leg(p, c, side, s, joints, cone, ellipsoid))
  }
  return { groups, joints, eyes: headless ? [] : eyes }
}

type Cone = (role: string, color: Color, a: Vec3, b: Vec3, ra: number, rb: number, k?: number) => Blob
type Ellipsoid = (
  role: string,
  color: Color,
  a: Vec3,
  radii: Vec3,
  k?: number,
  axes?: readonly [Vec3, Vec3, Vec3],
) => Blob

function arm(
  p: Proportions,
  c: Palette,
  side: string,
  s: number,
  shoulderY: number,
  joints: Record<string, Vec3>,
  cone: Cone,
  ellipsoid: Ellipsoid,
): BlobGroup {
  const H = p.height
  const ag = p.armGirth
  const role = (part: string): string => side + part
  const down = p.armsDown * rad
  const forward = p.armsForward * rad
  // the shoulder girdle drops a little with the arm
  const drop = 0.006 * Math.sin(down)
  joints[role('Shoulder')] = [s * 0.018 * H, (shoulderY - 0.004) * H, -0.004 * H]
  const shoulder: Vec3 = [s * p.shoulders * H, (shoulderY - 0.008 - drop) * H, -0.006 * H]
  const d1 = normalize([s * Math.cos(down) * Math.cos(forward), -Math.sin(down) * Math.cos(forward), Math.sin(forward)])
  // bending at the elbow brings the forearm to the front
  const front = normalize(addScaled([0, 0, 1], d1, -d1[2]))
  const bend = p.elbowBend * rad
  const d2 = normalize(add(scale(d1, Math.cos(bend)), scale(front, Math.sin(bend))))
  const elbow = addScaled(shoulder, d1, p.upperArm * H)
  const wrist = addScaled(elbow, d2, p.forearm * H)
  joints[role('UpperArm')] = shoulder
  joints[role('LowerArm')] = elbow
  joints[role('Hand')] = wrist
  const across = normalize(addScaled([0, 0, 1], d2, -d2[2]))
  const back = scale(cross(d2, across), -s)
  const palmUp = scale(back, back[1] > 0 ? 1 : -1)
  const at = (along: number, spread: number, lift = 0): Vec3 =>
    add(
      wrist,
      add(scale(d2, along * p.hand * H), add(scale(across, spread * p.hand * H), scale(palmUp, lift * p.hand * H))),
    )
  const sleeve = p.jacket > 0.3 ? 0.0035 * p.jacket : 0
  const blobs: Blob[] = [
    cone(
      role('Shoulder'),
      c.jacket,
      [s * 0.03 * H, (shoulderY - 0.01) * H, -0.003 * H],
      lerp(shoulder, joints[role('Shoulder')], 0.25),
      0.036 * Math.sqrt(p.torsoGirth),
      0.034 * ag,
      0.03,
    ),
    ellipsoid(
      role('UpperArm'),
      c.jacket,
      addScaled(shoulder, d1, 0.006 * H),
      [0.037 * ag, 0.036 * ag, 0.036 * ag],
      0.025,
    ),
    cone(role('UpperArm'), c.jacket, shoulder, elbow, 0.0315 * ag, 0.0245 * ag + sleeve, 0.02),
    ellipsoid(
      role('UpperArm'),
      c.jacket,
      add(lerp(shoulder, elbow, 0.5), scale(across, 0.004 * H)),
      [p.upperArm * 0.42, 0.0275 * ag, 0.029 * ag],
      0.02,
      [d1, cross(across, d1), across],
    ),
    cone(role('LowerArm'), c.jacket, elbow, wrist, 0.0245 * ag + sleeve, 0.0165 * Math.sqrt(ag) + sleeve * 0.6, 0.012),
    ellipsoid(
      role('LowerArm'),
      c.jacket,
      lerp(elbow, wrist, 0.26),
      [p.forearm * 0.3, 0.0262 * ag + sleeve, 0.0262 * ag + sleeve],
      0.02,
      [d2, palmUp, across],
    ),
  ]
  if (sleeve > 0)
    blobs.push(
      cone(
        role('LowerArm'),
        c.trim,
        lerp(elbow, wrist, 0.8),
        lerp(elbow, wrist, 0.88),
        0.019 * Math.sqrt(ag) + sleeve,
        0.019 * Math.sqrt(ag) + sleeve,
        0.004,
      ),
    )
  const hand = role('Hand')
  const h = p.hand
  const skin = p.fingers === 0 ? c.trim : c.skin
  blobs.push(cone(hand, skin, at(0.02, 0), at(0.2, 0), 0.0165 * Math.sqrt(ag), 0.15 * h, 0.01))
  if (p.fingers === 0) {
    blobs.push(ellipsoid(hand, skin, at(0.5, 0), [h * 0.5, h * 0.16, h * 0.31], 0.012, [d2, palmUp, across]))
    blobs.push(cone(hand, skin, at(0.18, 0.18), at(0.48, 0.46, -0.03), h * 0.13, h * 0.105, 0.006))
  } else {
    blobs.push(ellipsoid(hand, skin, at(0.3, 0), [h * 0.3, h * 0.125, h * 0.235], 0.01, [d2, palmUp, across]))
    const n = p.fingers
    for (let f = 0; f < n; f++) {
      const spread = ((n - 1) / 2 - f) * (n === 4 ? 0.128 : 0.16)
      const reach = [0.92, 1, 0.95, 0.8][n === 4 ? f : Math.min(f, 2)]
      const r = (n === 4 ? 0.052 : 0.066) * h
      const deep = [0.47, 0.48, 0.465, 0.44][n === 4 ? f : Math.min(f, 2)]
      // joints at the shares of finger bones, the tip a little into the palm
      const point = (t: number): Vec3 =>
        at(deep + (reach - 0.03 - deep) * t, spread * (0.95 + 0.6 * t), 0.01 * Math.sin(Math.PI * t) - 0.02 * t * t)
      const name = role(['Index', 'Middle', 'Ring', 'Little'][f])
      const [knuckle, second, third, end] = [0, 0.486, 0.76, 1].map(point)
      joints[`${name}Proximal`] = knuckle
      joints[`${name}Intermediate`] = second
      joints[`${name}Distal`] = third
      joints[`${name}End`] = at(reach, spread * 1.55, -0.02)
      blobs.push(cone(`${name}Proximal`, skin, knuckle, second, r * 1.12, r, 0.004))
      blobs.push(cone(`${name}Intermediate`, skin, second, third, r, r * 0.93, 0.002))
      blobs.push(cone(`${name}Distal`, skin, third, end, r * 0.93, r * 0.82, 0.002))
    }
    const thumb = [
      [0.12, 0.14, 0],
      [0.31, 0.32, -0.045],
      [0.45, 0.395, -0.065],
      [0.56, 0.44, -0.08],
    ].map(([x, y, z]) => at(x, y, z))
    joints[role('ThumbMetacarpal')] = thumb[0]
    joints[role('ThumbProximal')] = thumb[1]
    joints[role('ThumbDistal')] = thumb[2]
    joints[role('ThumbEnd')] = thumb[3]
    blobs.push(cone(role('ThumbMetacarpal'), skin, at(0.12, 0.14), at(0.33, 0.34, -0.05), h * 0.1, h * 0.07, 0.006))
    blobs.push(
      cone(role('ThumbDistal'), skin, at(0.33, 0.34, -0.05), at(0.55, 0.43, -0.08), h * 0.07, h * 0.058, 0.002),
    )
  }
  joints[role('HandEnd')] = at(1, 0)
  return { k: 0.018 * H, blobs }
}

function leg(
  p: Proportions,
  c: Palette,
  side: string,
  s: number,
  joints: Record<string, Vec3>,
  cone: Cone,
  ellipsoid: Ellipsoid,
): BlobGroup {
  const H = p.height
  const lg = p.legGirth
  const role = (part: string): string => side + part
  const hip: Vec3 = [s * p.hipSpread * H, p.legLength * H, 0]
  const apart = p.legsApart * rad
  const drop = p.legLength - p.ankleHeight
  const ankle: Vec3 = [hip[0] + s * Math.tan(apart) * drop * H, p.ankleHeight * H, -0.008 * H]
  const bend = Math.tan((p.kneeBend * rad) / 2) * drop * 0.5
  const knee = add(lerp(hip, ankle, p.kneeShare), [0, 0, bend * H])
  joints[role('UpperLeg')] = hip
  joints[role('LowerLeg')] = knee
  joints[role('Foot')] = ankle
  const f = p.footLength
  const foot = (along: number, y: number, out = 0): Vec3 =>
    add([ankle[0], 0, ankle[2]], [s * (along * 0.12 + out) * f * H, y * H, along * f * H])
  joints[role('Toes')] = foot(0.5, p.ankleHeight * 0.33)
  joints[role('ToesEnd')] = foot(0.74, p.ankleHeight * 0.3)
  const shin = (t: number): Vec3 => lerp(knee, ankle, t)
  const boot = p.boots > 0
  const blobs: Blob[] = [
    cone(role('UpperLeg'), c.trousers, add(hip, [0, 0.008 * H, 0]), knee, 0.053 * lg, 0.0335 * lg, 0.02),
    ellipsoid(
      role('UpperLeg'),
      c.trousers,
      add(lerp(hip, knee, 0.35), [0, 0, 0.004 * H]),
      [0.05 * lg, drop * 0.24, 0.054 * lg],
      0.02,
    ),
    ellipsoid(
      role('LowerLeg'),
      c.trousers,
      add(knee, [0, 0.002 * H, 0.006 * H]),
      [0.0325 * lg, 0.036, 0.033 * lg],
      0.015,
    ),
    cone(role('LowerLeg'), c.trousers, knee, ankle, 0.0325 * lg, 0.0205 * Math.sqrt(lg), 0.015),
    ellipsoid(
      role('LowerLeg'),
      boot ? c.boots : c.trousers,
      add(shin(0.32), [0, 0, -0.007 * H]),
      [0.0345 * lg, drop * 0.16, 0.037 * lg],
      0.02,
    ),
  ]
  if (boot)
    blobs.push(
      cone(
        role('LowerLeg'),
        c.boots,
        shin(0.52),
        ankle,
        0.031 * Math.sqrt(lg) * (0.9 + 0.1 * p.boots),
        0.0255 * Math.sqrt(lg) * (0.9 + 0.1 * p.boots),
        0.006,
      ),
    )
  const w = 0.165 * f
  const low = Math.min(w, p.ankleHeight * 0.55)
  blobs.push(cone(role('Foot'), c.boots, ankle, foot(-0.14, low), 0.0215 * Math.sqrt(lg), low, 0.015))
  blobs.push(
    cone(
      role('Foot'),
      c.boots,
      add(ankle, [0, -0.004 * H, 0.004 * H]),
      foot(0.44, low * 0.95),
      0.0225 * Math.sqrt(lg),
      low * 0.95,
      0.02,
    ),
  )
  blobs.push(ellipsoid(role('Foot'), c.boots, foot(0.3, low * 0.9), [w * 1.12, low * 0.9, f * 0.3], 0.012))
  blobs.push(ellipsoid(role('Toes'), c.boots, foot(0.57, low * 0.86), [w * 1.18, low * 0.86, f * 0.21], 0.012))
  return { k: 0.022 * H, blobs }
}
