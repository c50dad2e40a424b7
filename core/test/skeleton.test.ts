import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { angleBetween, angleOf, quatAt, rotate, sub, vec3At, type Vec3 } from '../src/math'
import { BIPED_LANDMARKS, type Landmark } from '../src/landmarks'
import {
  boneSegments,
  buildBiped,
  jointByRole,
  jointsInWorld,
  recogniseRoles,
  skeletonFromWorld,
  worldPose,
} from '../src/skeleton'
import { readName } from '../src/skeleton/recognise-names'
import { biped, ROLES, wildAxes } from './skeletons'

const right = (role: string): string => role.replace(/^left|^right/, '')
const side = (role: string): string => (role.startsWith('left') ? 'left' : role.startsWith('right') ? 'right' : '')
const WORDS: Record<string, string> = {
  UpperArm: 'arm',
  LowerArm: 'forearm',
  UpperLeg: 'thigh',
  LowerLeg: 'calf',
  Shoulder: 'clavicle',
  Hand: 'hand',
  Foot: 'foot',
  Toes: 'toe',
}

/** Ways in which names are written. */
const STYLES: Record<string, (role: string) => string> = {
  'roles themselves': r => r,
  'prefix and capitals': r => `rig:${r[0].toUpperCase()}${r.slice(1)}`,
  'side mark behind': r =>
    side(r)
      ? `${WORDS[right(r)]}_${side(r)[0]}`
      : r === 'hips'
        ? 'pelvis'
        : r === 'upperChest'
          ? 'spine_03'
          : r === 'chest'
            ? 'spine_02'
            : r === 'spine'
              ? 'spine_01'
              : r,
  'side mark in front': r =>
    side(r)
      ? `${side(r)[0].toUpperCase()}_${{ UpperArm: 'UpperArm', LowerArm: 'Elbow', UpperLeg: 'UpLeg', LowerLeg: 'Knee', Shoulder: 'Collar', Hand: 'Wrist', Foot: 'Ankle', Toes: 'Ball' }[right(r)]}`
      : r,
  'dots and upper case': r =>
    side(r) ? `${WORDS[right(r)].toUpperCase()}.${side(r)[0].toUpperCase()}` : r.toUpperCase(),
  'words run together': r =>
    side(r)
      ? `${side(r)}${({ UpperArm: 'upperarm', LowerArm: 'lowerarm', UpperLeg: 'upperleg', LowerLeg: 'lowerleg' } as Record<string, string>)[right(r)] ?? right(r).toLowerCase()}`
      : r,
}

describe('roles', () => {
  for (const [style, name] of Object.entries(STYLES)) {
    it(`are read from names: ${style}`, () => {
      const reading = recogniseRoles(biped({ name, roles: false }))
      expect(reading.missing).toEqual([])
      for (const role of ROLES) expect(reading.joints[role], role).toBe(ROLES.indexOf(role))
    })
  }
  it('are read from the structure alone, lying or standing, whatever the axes', () => {
    const turns: ((p: Vec3) => Vec3)[] = [
      p => p,
      ([x, y, z]) => [100 * x, -100 * z, 100 * y],
      ([x, y, z]) => [z, y, -x],
    ]
    for (const place of turns) {
      const reading = recogniseRoles(
        biped({ name: r => `joint ${(ROLES.indexOf(r) * 7) % 23}`, roles: false, place, axes: wildAxes(4) }),
      )
      expect(reading.by).toBe('structure')
      expect(reading.missing).toEqual([])
      for (const role of ROLES) expect(reading.joints[role], role).toBe(ROLES.indexOf(role))
    }
  })
  it('list what is missing and what is extra', () => {
    const whole = jointsInWorld(biped({ roles: false }))
    const twist = [
      ...whole,
      {
        name: 'leftLowerArmTwist',
        parent: ROLES.indexOf('leftLowerArm'),
        position: [0.5, 1.42, 0] as Vec3,
        rotation: [0, 0, 0, 1] as [number, number, number, number],
      },
    ]
    const reading = recogniseRoles(skeletonFromWorld(twist))
    expect(reading.extra).toEqual([22])
    const headless = recogniseRoles(
      biped({ roles: false, name: r => (r === 'head' ? 'knob' : r === 'leftHand' ? 'thing' : r) }),
    )
    expect(headless.joints.leftUpperArm).toBe(ROLES.indexOf('leftUpperArm'))
  })
  it('know prefixes, extras and sides of single names', () => {
    expect(readName('north:LeftForeArm', 'north:')).toMatchObject({ part: 'LowerArm', side: 'left' })
    expect(readName('hand_thumb_r', '')).toMatchObject({ extra: true, side: 'right' })
    expect(readName('hip.L', '')).toMatchObject({ part: 'UpperLeg', side: 'left' })
  })
})

describe('kinematics', () => {
  it('give back the world a skeleton was made from', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), seed => {
        const axes = wildAxes(seed)
        const s = biped({ axes })
        const world = worldPose(s)
        const plain = worldPose(biped())
        for (let j = 0; j < ROLES.length; j++) {
          expect(angleOf(quatAt(world.rotations, j), axes(ROLES[j]))).toBeLessThan(1e-3)
          const d = sub(vec3At(world.positions, j), vec3At(plain.positions, j))
          expect(Math.hypot(...d)).toBeLessThan(1e-5)
        }
      }),
      { numRuns: 20 },
    )
  })
})

/** Landmarks of a straight-limbed figure. */
function straightLandmarks(): Landmark[] {
  const places: Record<string, Vec3> = {
    crown: [0, 1.75, 0],
    chin: [0, 1.53, 0.08],
    skullBase: [0, 1.56, 0],
    neckBase: [0, 1.48, 0],
    chest: [0, 1.22, 0],
    hips: [0, 0.98, 0],
  }
  for (const [s, k] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    Object.assign(places, {
      [`${s}Shoulder`]: [k * 0.17, 1.42, 0],
      [`${s}Elbow`]: [k * 0.44, 1.42, 0],
      [`${s}Wrist`]: [k * 0.69, 1.42, 0],
      [`${s}HandTip`]: [k * 0.87, 1.42, 0],
      [`${s}Hip`]: [k * 0.09, 0.93, 0],
      [`${s}Knee`]: [k * 0.09, 0.51, 0],
      [`${s}Ankle`]: [k * 0.09, 0.09, 0],
      [`${s}Toes`]: [k * 0.09, 0.03, 0.13],
      [`${s}ToeTip`]: [k * 0.09, 0.02, 0.2],
    })
  }
  return BIPED_LANDMARKS.map(l => ({ id: l.id, position: places[l.id], confidence: 1 }))
}

describe('the biped plan', () => {
  const bendOf = (s: ReturnType<typeof buildBiped>, chain: readonly string[]): { angle: number; out: Vec3 } => {
    const w = worldPose(s)
    const [a, b, c] = chain.map(r => vec3At(w.positions, jointByRole(s, r)))
    const middle: Vec3 = [(a[0] + c[0]) / 2, (a[1] + c[1]) / 2, (a[2] + c[2]) / 2]
    return { angle: angleBetween(sub(b, a), sub(c, b)), out: sub(b, middle) }
  }
  it('bends straight knees to the front and straight elbows to the back, by about two degrees', () => {
    const s = buildBiped(straightLandmarks())
    for (const side of ['left', 'right']) {
      const knee = bendOf(s, [`${side}UpperLeg`, `${side}LowerLeg`, `${side}Foot`])
      expect(knee.angle * 57.3).toBeGreaterThan(1.9)
      expect(knee.out[2]).toBeGreaterThan(0)
      const elbow = bendOf(s, [`${side}UpperArm`, `${side}LowerArm`, `${side}Hand`])
      expect(elbow.angle * 57.3).toBeGreaterThan(1.9)
      expect(elbow.out[2]).toBeLessThan(0)
    }
  })
  it('mends knees bent back and keeps those bent well', () => {
    const moved = (z: number): Landmark[] =>
      straightLandmarks().map(l => (l.id === 'leftKnee' ? { ...l, position: [0.09, 0.51, z] } : l))
    expect(bendOf(buildBiped(moved(-0.03)), ['leftUpperLeg', 'leftLowerLeg', 'leftFoot']).out[2]).toBeGreaterThan(0)
    const s = buildBiped(moved(0.04))
    expect(vec3At(worldPose(s).positions, jointByRole(s, 'leftLowerLeg'))[2]).toBeCloseTo(0.04, 6)
  })
  it('lays +Y along every bone, with a spine of three and VRM roles', () => {
    const s = buildBiped(straightLandmarks())
    expect(s.names.length).toBe(22)
    const w = worldPose(s)
    for (const { joint, from, to } of boneSegments(s)) {
      const own = boneSegments(s).filter(b => b.joint === joint)
      if (own.length > 1) continue
      const y = rotate(quatAt(w.rotations, joint), [0, 1, 0])
      expect(angleBetween(y, sub(to, from))).toBeLessThan(1e-4)
    }
    expect(s.roles.filter(r => ['spine', 'chest', 'upperChest'].includes(r ?? ''))).toHaveLength(3)
  })
  it('names the landmark it lacks', () => {
    expect(() => buildBiped(straightLandmarks().filter(l => l.id !== 'leftKnee'))).toThrow(/leftKnee/)
  })
})
