import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  angleOf,
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
import { createFigureSolver, jointFreedom, restingPose, type FigurePose, type Goal } from '../src/reach'
import { bodyFrame } from '../src/retarget'
import { skeletonFromWorld, worldPose, type Skeleton } from '../src/skeleton'
import { biped, ROLES, wildAxes, wildTake } from './skeletons'

const joints = Object.fromEntries(ROLES.map((r, j) => [r, j]))
const J = ROLES.length
const off = (a: Vec3, b: Vec3): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])
const place = (s: Skeleton, p: FigurePose, role: string): Vec3 =>
  vec3At(worldPose(s, p.translations, p.rotations).positions, joints[role])
const turn = (s: Skeleton, p: FigurePose, role: string): Quat =>
  quatAt(worldPose(s, p.translations, p.rotations).rotations, joints[role])
const hold = (s: Skeleton, from: FigurePose, role: string, turned = true): Goal => ({
  joint: joints[role],
  place: place(s, from, role),
  ...(turned && { turn: turn(s, from, role) }),
  strength: 'hold',
})
const pull = (s: Skeleton, from: FigurePose, role: string, by: Vec3): Goal => {
  const at = place(s, from, role)
  return { joint: joints[role], place: [at[0] + by[0], at[1] + by[1], at[2] + by[2]], strength: 'pull' }
}
/** A bent and turned figure with axes that follow no convention. */
function stood(seed: number): { s: Skeleton; from: FigurePose; solver: ReturnType<typeof createFigureSolver> } {
  const s = biped({ axes: wildAxes(seed) })
  const take = wildTake(s, seed, 1)
  const solver = createFigureSolver(s, joints, bodyFrame(s, joints))
  return { s, from: { rotations: take.rotations, translations: take.translations }, solver }
}
const PULLED = ['leftHand', 'rightHand', 'hips', 'head', 'leftFoot', 'chest', 'leftLowerArm']
const holdsFor = (s: Skeleton, from: FigurePose, role: string): Goal[] =>
  ['leftFoot', 'rightFoot'].filter(r => r !== role).map(r => hold(s, from, r))

describe('the whole figure follows', () => {
  it('a pull, while what is held stays to a tenth of a millimetre, in place and turn', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.constantFrom(...PULLED),
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -0.3, max: 0.3, noNaN: true }))),
        (seed, role, by) => {
          const { s, from, solver } = stood(seed)
          const goals = [...holdsFor(s, from, role), pull(s, from, role, by as Vec3)]
          const found = solver.solve(from, goals)
          for (const g of goals.slice(0, -1)) {
            expect(off(place(s, found, ROLES[g.joint]), g.place as Vec3)).toBeLessThan(1e-4)
            expect(angleOf(turn(s, found, ROLES[g.joint]), g.turn as Quat)).toBeLessThan(2e-3)
          }
          // what is told of a goal is so
          found.residuals.forEach((r, i) =>
            expect(off(place(s, found, ROLES[goals[i].joint]), goals[i].place as Vec3)).toBeCloseTo(r.place, 5),
          )
        },
      ),
      { numRuns: 60 },
    )
  })
  it('short pulls are met, and those that ask nothing change nothing, to the bit', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.constantFrom('leftHand', 'rightHand', 'head'),
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -0.04, max: 0.04, noNaN: true }))),
        (seed, role, [x, y, z]) => {
          const { s, from, solver } = stood(seed)
          // nobody lifts the head over straight legs
          const by: Vec3 = [x, role === 'head' ? -Math.abs(y) : y, z]
          const found = solver.solve(from, [...holdsFor(s, from, role), pull(s, from, role, by)])
          // straight legs end the way of a head before that of a hand
          expect(found.residuals.at(-1)!.place).toBeLessThan(role === 'head' ? 6e-3 : 2e-4)
          const still = solver.solve(from, [...holdsFor(s, from, role), pull(s, from, role, [0, 0, 0])])
          expect([...still.rotations]).toEqual([...from.rotations])
          expect([...still.translations]).toEqual([...from.translations])
        },
      ),
      { numRuns: 40 },
    )
  })
  it('alike whatever the axes of the joints are, and wherever the figure faces', () => {
    const by: Vec3 = [0.2, -0.3, 0.3]
    const plain = biped()
    const answers = [1, 2, 3].map(seed => {
      const s = biped({ axes: wildAxes(seed) })
      const solver = createFigureSolver(s, joints, bodyFrame(s, joints))
      const found = solver.solve(restingPose(s), [
        ...holdsFor(s, restingPose(s), 'rightHand'),
        pull(s, restingPose(s), 'rightHand', by),
      ])
      return ROLES.map(r => place(s, found, r))
    })
    for (const other of answers.slice(1)) other.forEach((p, j) => expect(off(p, answers[0][j])).toBeLessThan(1e-4))
    const about = fromAxisAngle([0, 1, 0], 2.1)
    const w = worldPose(plain)
    const facing = skeletonFromWorld(
      plain.names.map((name, j) => ({
        name,
        role: plain.roles[j],
        parent: plain.parents[j],
        position: rotate(about, vec3At(w.positions, j)),
        rotation: multiply(about, quatAt(w.rotations, j)),
      })),
    )
    const solver = createFigureSolver(facing, joints, bodyFrame(facing, joints))
    const found = solver.solve(restingPose(facing), [
      ...holdsFor(facing, restingPose(facing), 'rightHand'),
      pull(facing, restingPose(facing), 'rightHand', rotate(about, by)),
    ])
    ROLES.forEach((r, j) => expect(off(place(facing, found, r), rotate(about, answers[0][j]))).toBeLessThan(1e-3))
  })
  it('a pointer without jumps: a way of short moves is one of short turns', () => {
    for (const seed of [3, 8, 21, 44]) {
      const { s, from, solver } = stood(seed)
      const random = seededRandom(seed)
      const way = normalize([random() - 0.5, random() - 0.5, random() - 0.5])
      const held = holdsFor(s, from, 'rightHand')
      let before: FigurePose | undefined
      let largest = 0
      for (let i = 0; i <= 150; i++) {
        const d = 0.002 * i
        const found = solver.solve(from, [...held, pull(s, from, 'rightHand', [d * way[0], d * way[1], d * way[2]])], {
          start: before,
        })
        if (before)
          for (let j = 0; j < J; j++)
            largest = Math.max(largest, angleOf(quatAt(before.rotations, j), quatAt(found.rotations, j)))
        before = found
      }
      // two millimetres at half an arm's length, and what a nearly straight joint makes of them
      expect((largest * 180) / Math.PI).toBeLessThan(6)
    }
  })
  it('farther than it can reach without letting go, and tells how far it stays off', () => {
    const s = biped()
    const from = restingPose(s)
    const solver = createFigureSolver(s, joints, [0, 0, 0, 1])
    const found = solver.solve(from, [...holdsFor(s, from, 'rightHand'), pull(s, from, 'rightHand', [-3, 0, 0])])
    expect(found.residuals[0].place).toBeLessThan(1e-4)
    expect(found.residuals[1].place).toBeLessThan(1e-4)
    expect(found.residuals[2].place).toBeGreaterThan(1)
    // it leans out and stretches the arm
    expect(place(s, found, 'rightHand')[0]).toBeLessThan(place(s, from, 'rightHand')[0] - 0.3)
  })
  it('and contrary holds are settled halfway', () => {
    const s = biped()
    const from = restingPose(s)
    const solver = createFigureSolver(s, joints, [0, 0, 0, 1])
    const feet = holdsFor(s, from, 'head')
    const wished = place(s, from, 'head')
    const up: Goal = { joint: joints.head, place: [wished[0], wished[1] + 0.3, wished[2]], strength: 'hold' }
    const down: Goal = { joint: joints.head, place: [wished[0], wished[1] - 0.3, wished[2]], strength: 'hold' }
    const found = solver.solve(from, [...feet, up, down])
    const gap = found.residuals.slice(2).map(r => r.place)
    expect(gap[0]).toBeGreaterThan(0.2)
    expect(gap[1]).toBeGreaterThan(0.2)
    expect([...found.rotations].every(Number.isFinite)).toBe(true)
  })
  it('with knees and elbows that bend their own way and never backwards', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('hips', 'leftHand', 'head', 'rightHand'),
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -0.6, max: 0.6, noNaN: true }))),
        (role, by) => {
          const s = biped()
          const from = restingPose(s)
          const solver = createFigureSolver(s, joints, [0, 0, 0, 1])
          const found = solver.solve(from, [...holdsFor(s, from, role), pull(s, from, role, by as Vec3)])
          const w = worldPose(s, found.translations, found.rotations)
          for (const side of ['left', 'right']) {
            const knee = jointFreedom(s, joints, [0, 0, 0, 1])[joints[`${side}LowerLeg`]]
            const [a, b, c] = ['UpperLeg', 'LowerLeg', 'Foot'].map(part => vec3At(w.positions, joints[side + part]))
            const u: Vec3 = [b[0] - a[0], b[1] - a[1], b[2] - a[2]],
              l: Vec3 = [c[0] - b[0], c[1] - b[1], c[2] - b[2]]
            const cross: Vec3 = [u[1] * l[2] - u[2] * l[1], u[2] * l[0] - u[0] * l[2], u[0] * l[1] - u[1] * l[0]]
            const hinge = rotate(multiply(quatAt(w.rotations, joints[`${side}LowerLeg`]), knee.axes), [1, 0, 0])
            const bent = Math.atan2(
              cross[0] * hinge[0] + cross[1] * hinge[1] + cross[2] * hinge[2],
              u[0] * l[0] + u[1] * l[1] + u[2] * l[2],
            )
            expect((bent * 180) / Math.PI).toBeGreaterThan(-8)
            expect((bent * 180) / Math.PI).toBeLessThan(162)
          }
        },
      ),
      { numRuns: 40 },
    )
  })
})

describe('odd skeletons', () => {
  const chain = (n: number, long: number): Skeleton =>
    skeletonFromWorld(
      Array.from({ length: n }, (_, j) => ({
        name: `link${j}`,
        parent: j - 1,
        position: [0, long * j, 0] as Vec3,
        rotation: [0, 0, 0, 1] as Quat,
      })),
    )
  it('a chain of two hundred joints follows its end', () => {
    const s = chain(200, 0.01)
    const solver = createFigureSolver(s, {}, [0, 0, 0, 1])
    const from = restingPose(s)
    const root: Goal = { joint: 0, place: [0, 0, 0], turn: [0, 0, 0, 1], strength: 'hold' }
    const end: Goal = { joint: 199, place: [0.8, 1.2, 0.3], strength: 'pull' }
    const found = solver.solve(from, [root, end])
    const w = worldPose(s, found.translations, found.rotations)
    expect(off(vec3At(w.positions, 199), [0.8, 1.2, 0.3])).toBeLessThan(1e-3)
    expect(off(vec3At(w.positions, 0), [0, 0, 0])).toBeLessThan(1e-4)
  })
  it('bones without length give numbers all the same', () => {
    for (const s of [chain(6, 0), chain(1, 1)]) {
      const solver = createFigureSolver(s, {}, [0, 0, 0, 1])
      const last = s.names.length - 1
      const found = solver.solve(restingPose(s), [{ joint: last, place: [1, 1, 1], strength: 'pull' }])
      expect([...found.rotations, ...found.translations].every(Number.isFinite)).toBe(true)
    }
  })
})
