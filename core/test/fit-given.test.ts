import { describe, expect, it } from 'vitest'
import { angleBetween, conjugate, distance, fromAxisAngle, multiply, normalize, quatAt, rotate, sub, vec3At, type Vec3 } from '../src/math' // prettier-ignore
import { fitGiven } from '../src/rig'
import { childrenOf, readAxes, recogniseRoles, worldPose, type Skeleton } from '../src/skeleton'
import { animal, human, someBody, type Rig } from './rigs/build'
import { STYLES } from './rigs/styles'

/** The skeleton of a plan on some body: roles told. */
const planOn = (seed: number): Skeleton => {
  const { skeleton } = human(someBody(seed, { toes: true })).done('biped')
  return { ...skeleton, roles: skeleton.names }
}
const made = (name: string, seed: number): Rig => STYLES.find(s => s.name === name)!.make(seed)
const places = (s: Skeleton): Vec3[] => {
  const w = worldPose(s)
  return s.names.map((_, j) => vec3At(w.positions, j))
}
/** Where a joint's only child lies, in the joint's own space. */
const ownBone = (s: Skeleton, j: number, c: number): Vec3 => {
  const w = worldPose(s)
  return normalize(rotate(conjugate(quatAt(w.rotations, j)), sub(vec3At(w.positions, c), vec3At(w.positions, j))))
}

const GIVEN = [
  'plain names',
  'names of joints instead of bones',
  'a root on the ground and a centre of mass',
  'targets and poles beside the skeleton',
  'controls called as the bones are',
  'twists in line',
  'twists beside',
  'fingers of four joints',
  'facing away, centimetres, Z up',
  'a skirt',
  'long braids and a prop in the hand',
  'a long neck and a long spine',
  'a spine of one joint',
  'no names at all',
]

describe('a given skeleton laid on a body', () => {
  it.each(GIVEN)('%s: hierarchy, names and counts as they were, joints where the body has them', name => {
    for (const seed of [2, 15, 40]) {
      const { skeleton } = made(name, seed)
      const reading = recogniseRoles(skeleton)
      const plan = planOn(seed + 100)
      const fitted = fitGiven(skeleton, reading, plan)
      expect(fitted.names).toEqual(skeleton.names)
      expect([...fitted.parents]).toEqual([...skeleton.parents])
      const [at, on] = [places(fitted), places(plan)]
      for (const [role, j] of Object.entries(reading.joints)) {
        const p = plan.roles.indexOf(role)
        if (p < 0 || /^(spine|chest|upperChest|neck\d)$/.test(role)) continue
        expect([role, distance(at[j], on[p]) < 1e-5]).toEqual([role, true])
      }
      expect(at.flat().every(Number.isFinite)).toBe(true)
      // nothing flies off: every joint is as far from the hips as it was, for the body it is on
      const was = places(skeleton)
      const far = (p: readonly Vec3[]): number => Math.max(...p.map(q => distance(q, p[reading.joints.hips])))
      const size = (p: readonly Vec3[]): number => distance(p[reading.joints.head], p[reading.joints.leftFoot])
      expect(far(at) / size(at)).toBeLessThan((1.6 * far(was)) / size(was))
      // the spine goes up
      const trunk: number[] = []
      for (let j = reading.joints.head; j !== reading.joints.hips; j = skeleton.parents[j]) trunk.unshift(j)
      trunk.reduce((low, j) => {
        expect(at[j][1]).toBeGreaterThan(low)
        return at[j][1]
      }, at[reading.joints.hips][1])
    }
  })
  it('joints keep how they are aimed along their bones, whatever their axes', () => {
    for (const name of ['plain names', 'no names at all', 'twists in line', 'names of joints instead of bones']) {
      const { skeleton } = made(name, 8)
      const reading = recogniseRoles(skeleton)
      const fitted = fitGiven(skeleton, reading, planOn(31))
      expect(readAxes(skeleton).kind).not.toBe('world')
      const children = childrenOf(skeleton)
      const limbs = Object.entries(reading.joints).filter(([r]) => /(Upper|Lower)(Arm|Leg)$|Shoulder$/.test(r))
      for (const [, j] of limbs) {
        if (children[j].length !== 1) continue
        const turned = angleBetween(ownBone(skeleton, j, children[j][0]), ownBone(fitted, j, children[j][0]))
        expect(turned).toBeLessThan(1e-3)
      }
    }
  })
  it('a skeleton that is aimed like the world stays aimed like the world', () => {
    const { skeleton } = made('shoulder, arm, forearm', 4)
    expect(readAxes(skeleton).kind).toBe('world')
    const fitted = fitGiven(skeleton, recogniseRoles(skeleton), planOn(12))
    for (let j = 0; j < skeleton.names.length; j++) expect(Math.abs(fitted.restRotations[4 * j + 3])).toBeCloseTo(1, 5)
  })
  it('twist joints in line stay in line at their share', () => {
    const { skeleton } = made('twists in line', 6)
    const reading = recogniseRoles(skeleton)
    const at = places(fitGiven(skeleton, reading, planOn(77)))
    for (const side of ['left', 'right']) {
      const [a, b] = [at[reading.joints[`${side}UpperArm`]], at[reading.joints[`${side}LowerArm`]]]
      const twist = at[skeleton.names.indexOf(`upperarm_twist_${side === 'left' ? 'L' : 'R'}`)]
      expect(distance(a, twist) / distance(a, b)).toBeCloseTo(0.5, 2)
      expect(distance(a, twist) + distance(twist, b)).toBeCloseTo(distance(a, b), 5)
    }
  })
  it('targets at the feet stay at the feet, a root on the ground stays on the ground', () => {
    const { skeleton } = made('targets and poles beside the skeleton', 11)
    const reading = recogniseRoles(skeleton)
    const at = places(fitGiven(skeleton, reading, planOn(55)))
    for (const [target, role] of [
      ['ik_foot_L', 'leftFoot'],
      ['ik_hand_R', 'rightHand'],
    ])
      // prettier-ignore
      expect(distance(at[skeleton.names.indexOf(target)], at[reading.joints[role]])).toBeLessThan(1e-5)
    expect(at[skeleton.names.indexOf('root')][1]).toBe(0)
  })
  it('is the same wherever and however large the given skeleton stands', () => {
    const { skeleton } = made('twists beside', 3)
    const turn = fromAxisAngle(normalize([1, 2, 3]), 2)
    const moved: Skeleton = {
      ...skeleton,
      restTranslations: skeleton.restTranslations.map(x => 37 * x),
      restRotations: skeleton.restRotations.slice(),
    }
    const root = skeleton.parents.indexOf(-1)
    moved.restRotations.set(multiply(turn, quatAt(skeleton.restRotations, root)), 4 * root)
    moved.restTranslations.set(rotate(turn, vec3At(moved.restTranslations, root)), 3 * root)
    const [a, b] = [skeleton, moved].map(s => places(fitGiven(s, recogniseRoles(s), planOn(9))))
    a.forEach((p, j) => expect(distance(p, b[j])).toBeLessThan(1e-3))
  })
  it('an animal is laid on an animal; tails of other counts begin and end alike', () => {
    const own = animal(4, { tail: 9, neck: 1 }).done('fourleg').skeleton
    const plan = animal(12, { tail: 4, neck: 2 }).done('fourleg').skeleton
    const reading = recogniseRoles(own)
    const on = { ...plan, roles: plan.names }
    const fitted = fitGiven(own, reading, on)
    const [at, to] = [places(fitted), places(on)]
    expect(distance(at[reading.joints.tail1], to[on.roles.indexOf('tail1')])).toBeLessThan(1e-6)
    expect(distance(at[reading.joints.tail9], to[on.roles.indexOf('tail4')])).toBeLessThan(1e-6)
    expect(distance(at[reading.joints.leftFrontFoot], to[on.roles.indexOf('leftFrontFoot')])).toBeLessThan(1e-6)
  })
  it('what cannot be laid on is refused with the reason', () => {
    const dog = animal(2).done('fourleg').skeleton
    expect(() => fitGiven(dog, recogniseRoles(dog), planOn(1))).toThrow(/four legs/)
    const { skeleton } = made('no arms at all', 1)
    expect(() => fitGiven(skeleton, recogniseRoles(skeleton), planOn(1))).toThrow(/missing/)
  })
})
