import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  angleOf,
  conjugate,
  fromAxisAngle,
  multiply,
  normalize,
  quatAt,
  rotate,
  seededRandom,
  vec3At,
  type Quat,
  type Vec3,
} from '../src/math'
import { aimJoints, alignAxes, applyRigEdits, rigOf, turnAxes, type RigEdit } from '../src/rig'
import { AXIS_NAMES, oppositeAxis } from '../src/math'
import {
  boneDirection,
  findJoint,
  partnerJoint,
  readAxes,
  worldPose,
  type AxisConvention,
  type Skeleton,
} from '../src/skeleton'
import { biped, wildAxes } from './skeletons'

const seeds = fc.integer({ min: 1, max: 1e6 })
const turnOf = (random: () => number): Quat =>
  fromAxisAngle(normalize([random() - 0.5, random() - 0.5, random() - 0.5]), 6 * random())

/** The way a joint's child goes when the joint is turned in its own axes. */
function swung(s: Skeleton, j: number, child: number, by: Quat): Vec3 {
  const w = worldPose(s)
  const q = quatAt(w.rotations, j)
  const turn = multiply(multiply(q, by), conjugate(q))
  const [a, b] = [vec3At(w.positions, j), vec3At(w.positions, child)]
  return rotate(turn, [b[0] - a[0], b[1] - a[1], b[2] - a[2]])
}
const CONVENTIONS: AxisConvention[] = AXIS_NAMES.flatMap(along =>
  AXIS_NAMES.filter(h => h !== along && h !== oppositeAxis(along)).map(hinge => ({ along, hinge })),
)

describe('a convention where both sides turn alike', () => {
  it('makes equal turns of both sides mirror images, whatever the convention and the axes before', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const convention = { ...CONVENTIONS[seed % CONVENTIONS.length], mirrored: true }
        const s = aimJoints(rigOf(biped({ axes: wildAxes(seed) })), convention).skeleton
        for (const [role, next] of [
          ['leftUpperArm', 'leftLowerArm'],
          ['leftLowerArm', 'leftHand'],
          ['leftUpperLeg', 'leftLowerLeg'],
          ['leftLowerLeg', 'leftFoot'],
          ['leftShoulder', 'leftUpperArm'],
        ]) {
          const [j, c] = [findJoint(s, role), findJoint(s, next)]
          const by = turnOf(random)
          const left = swung(s, j, c, by)
          const right = swung(s, partnerJoint(s, j), partnerJoint(s, c), by)
          expect(Math.hypot(left[0] + right[0], left[1] - right[1], left[2] - right[2]), role).toBeLessThan(2e-3)
        }
      }),
      { numRuns: 60 },
    )
  })
  it('still reads as aimed along the bones, and the left is as without it', () => {
    for (const convention of CONVENTIONS) {
      const before = biped({ axes: wildAxes(7) })
      const plain = aimJoints(rigOf(before), convention).skeleton
      const alike = aimJoints(rigOf(before), { ...convention, mirrored: true }).skeleton
      expect(readAxes(alike).kind).toBe('along')
      const j = findJoint(before, 'leftLowerArm')
      expect(angleOf(quatAt(worldPose(plain).rotations, j), quatAt(worldPose(alike).rotations, j))).toBeLessThan(1e-3)
      const r = findJoint(before, 'rightLowerArm')
      const bone = boneDirection(alike, r)!
      const own = rotate(conjugate(quatAt(worldPose(alike).rotations, r)), bone)
      expect(readAxes(alike).off[r]).toBeLessThan(1e-3)
      expect(own.some(v => Math.abs(v) > 0.999)).toBe(true)
    }
  })
})

describe('axes turned freely', () => {
  it('turn the joint alone, and its partner as its mirror image', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const s = biped({ axes: wildAxes(seed) })
        const roles = s.roles.filter((r): r is string => r?.startsWith('left') === true)
        const j = findJoint(s, roles[Math.floor(random() * roles.length)])
        const k = partnerJoint(s, j)
        const by = turnOf(random)
        const after = turnAxes(rigOf(s), j, by, true).skeleton
        const [a, b] = [worldPose(s), worldPose(after)]
        s.names.forEach((_, i) => {
          expect(Math.hypot(...[0, 1, 2].map(c => a.positions[3 * i + c] - b.positions[3 * i + c]))).toBeLessThan(1e-5)
          if (i !== j && i !== k) expect(angleOf(quatAt(a.rotations, i), quatAt(b.rotations, i))).toBeLessThan(2e-3)
        })
        // the way an own axis went in the world is mirrored on the other side
        const way = (i: number): Quat => multiply(quatAt(b.rotations, i), conjugate(quatAt(a.rotations, i)))
        const [x, y, z, w] = way(j)
        expect(angleOf(way(k), [x, -y, -z, w])).toBeLessThan(2e-3)
        const back = turnAxes(rigOf(after), j, conjugate(by), true).skeleton
        expect(angleOf(quatAt(worldPose(back).rotations, j), quatAt(a.rotations, j))).toBeLessThan(2e-3)
      }),
      { numRuns: 60 },
    )
  })
  it('stand as the body does or as their parents do, for the joints chosen and no others', () => {
    const s = biped({ axes: wildAxes(3) })
    const chosen = ['leftUpperArm', 'leftLowerArm', 'head'].map(r => findJoint(s, r))
    const body = worldPose(alignAxes(rigOf(s), new Set(chosen), 'body').skeleton)
    const parent = worldPose(alignAxes(rigOf(s), new Set(chosen), 'parent').skeleton)
    const before = worldPose(s)
    s.parents.forEach((p, j) => {
      if (chosen.includes(j)) {
        expect(angleOf(quatAt(body.rotations, j), [0, 0, 0, 1])).toBeLessThan(1e-3)
        expect(angleOf(quatAt(parent.rotations, j), quatAt(parent.rotations, p))).toBeLessThan(1e-3)
      } else {
        expect(angleOf(quatAt(body.rotations, j), quatAt(before.rotations, j))).toBeLessThan(1e-3)
        expect(angleOf(quatAt(parent.rotations, j), quatAt(before.rotations, j))).toBeLessThan(1e-3)
      }
    })
  })
})

describe('a root of its own', () => {
  const root: RigEdit = { kind: 'root', name: 'root', at: [0, 0, 0] }
  it('is added above, moved, and removed again, and nothing else changes', async () => {
    const s = biped({ axes: wildAxes(9) })
    const made = await applyRigEdits(rigOf(s), [root], 1.7)
    expect(made.lost).toEqual([])
    expect(made.rig.skeleton.names[0]).toBe('root')
    expect([...made.rig.skeleton.parents].filter(p => p < 0)).toHaveLength(1)
    const moved = await applyRigEdits(
      made.rig,
      [{ kind: 'move', joint: 'root', by: [0.1, 0, 0], children: false, mirror: false }],
      1.7,
    )
    const hips = (k: Skeleton): Vec3 => vec3At(worldPose(k).positions, findJoint(k, 'hips'))
    expect(Math.hypot(...vec3At(worldPose(moved.rig.skeleton).positions, 0))).toBeCloseTo(0.17, 5)
    hips(moved.rig.skeleton).forEach((v, k) => expect(v).toBeCloseTo(hips(s)[k], 5))
    const gone = await applyRigEdits(moved.rig, [{ kind: 'remove', joint: 'root', mirror: false }], 1.7)
    expect(gone.lost).toEqual([])
    expect(gone.rig.skeleton.names).toEqual(s.names)
    hips(gone.rig.skeleton).forEach((v, k) => expect(v).toBeCloseTo(hips(s)[k], 5))
  })
  it('joins several roots, and leaves them standing alone when it goes', async () => {
    const s = biped()
    const split = { ...s, parents: s.parents.map((p, j) => (s.roles[j] === 'spine' ? -1 : p)) }
    const made = await applyRigEdits(rigOf(split), [root], 1.7)
    expect([...made.rig.skeleton.parents].filter(p => p === 0)).toHaveLength(2)
    const gone = await applyRigEdits(made.rig, [{ kind: 'remove', joint: 'root', mirror: false }], 1.7)
    expect([...gone.rig.skeleton.parents].filter(p => p < 0)).toHaveLength(2)
    expect((await applyRigEdits(made.rig, [root], 1.7)).lost[0].reason).toMatch(/already/)
  })
})
