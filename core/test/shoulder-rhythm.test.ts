import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { raiseGirdle } from '../src/correct'
import {
  conjugate,
  fromAxisAngle,
  multiply,
  normalize,
  quatAt,
  setQuat,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../src/math'
import type { Played, Take } from '../src/motion'
import { EXACT_TRANSFER, perform } from '../src/perform'
import { EMPTY_NOTE } from '../src/retarget'
import { worldPose, type Skeleton } from '../src/skeleton'
import { biped, wildAxes, wildTake } from './skeletons'

const played = (skeleton: Skeleton, take: Take): Played => ({
  skeleton,
  joints: Object.fromEntries(skeleton.roles.flatMap((r, j) => (r ? [[r, j]] : []))),
  take,
  frame: [0, 0, 0, 1],
})
const never = (): boolean => false
const posed = (s: Skeleton, take: Take, f: number): ReturnType<typeof worldPose> => {
  const J = s.names.length
  return worldPose({
    ...s,
    restRotations: take.rotations.slice(4 * f * J, 4 * (f + 1) * J),
    restTranslations: take.translations.slice(3 * f * J, 3 * (f + 1) * J),
  })
}
const at = (s: Skeleton, role: string): number => s.roles.indexOf(role)
const armOf = (s: Skeleton, pose: ReturnType<typeof worldPose>, side: string): Vec3 =>
  normalize(sub(vec3At(pose.positions, at(s, `${side}LowerArm`)), vec3At(pose.positions, at(s, `${side}UpperArm`))))
const angle = (a: Quat, b: Quat): number =>
  (2 * Math.acos(Math.min(1, Math.abs(a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3])))) / (Math.PI / 180)

/** One frame at rest but for the left upper arm, turned in the world about an axis. */
function raised(s: Skeleton, axis: Vec3, degrees: number): Take {
  const J = s.names.length
  const take: Take = {
    name: 'raised',
    fps: 30,
    frames: 1,
    rotations: s.restRotations.slice(),
    translations: s.restTranslations.slice(),
  }
  const pose = worldPose(s)
  const arm = at(s, 'leftUpperArm')
  const world = multiply(fromAxisAngle(axis, (degrees * Math.PI) / 180), quatAt(pose.rotations, arm))
  setQuat(take.rotations, arm, multiply(conjugate(quatAt(pose.rotations, s.parents[arm])), world))
  expect(take.rotations.length).toBe(4 * J)
  return take
}

describe('the shoulder girdle', () => {
  it('follows a raised arm by a third of what goes beyond rest, and a lowered one back', () => {
    fc.assert(
      fc.property(fc.integer({ min: -50, max: 80 }), fc.nat(50), (degrees, seed) => {
        const s = biped({ axes: wildAxes(seed) })
        const take = raised(s, [0, 0, 1], degrees)
        const after = raiseGirdle(played(s, take), never)
        const [was, is] = [posed(s, take, 0), posed(s, after, 0)]
        const collar = at(s, 'leftShoulder')
        const lift = angle(quatAt(was.rotations, collar), quatAt(is.rotations, collar))
        expect(lift).toBeCloseTo(degrees < 0 ? Math.min(10, -degrees / 3) : degrees / 3, 0)
        // up with the arm, down with it
        const joint = 3 * at(s, 'leftUpperArm') + 1
        if (Math.abs(degrees) > 5)
          expect(Math.sign(is.positions[joint] - was.positions[joint])).toBe(Math.sign(degrees))
      }),
      { numRuns: 60 },
    )
  })
  it('never changes where arms point, nor the other joints, whatever the axes and the take', () => {
    fc.assert(
      fc.property(fc.nat(1000), seed => {
        const s = biped({ axes: wildAxes(seed) })
        const take = wildTake(s, seed + 1, 4)
        const after = raiseGirdle(played(s, take), never)
        for (let f = 0; f < take.frames; f++) {
          const [was, is] = [posed(s, take, f), posed(s, after, f)]
          for (const side of ['left', 'right']) {
            const [a, b] = [armOf(s, was, side), armOf(s, is, side)]
            expect(Math.hypot(...sub(a, b))).toBeLessThan(1e-5)
          }
          for (const role of ['head', 'hips', 'leftFoot', 'upperChest']) {
            const j = at(s, role)
            if (j >= 0) expect(angle(quatAt(was.rotations, j), quatAt(is.rotations, j))).toBeLessThan(0.1)
          }
        }
      }),
      { numRuns: 25 },
    )
  })
  it('leaves a take at rest, and sides that are told already, to the bit', () => {
    const s = biped({ axes: wildAxes(3) })
    const still = raised(s, [0, 0, 1], 0)
    expect(raiseGirdle(played(s, still), never)).toBe(still)
    const take = raised(s, [0, 0, 1], 60)
    expect(raiseGirdle(played(s, take), () => true)).toBe(take)
    const right = raiseGirdle(played(s, take), side => side === 'left')
    expect(right).toBe(take)
  })
  it('is asked for in the settings, and then only where the performer has no collar bones', async () => {
    const figure = biped()
    const without = biped({ axes: wildAxes(8) })
    // a performer whose arms hang on the chest: the collar bones are joints of no role
    const performer: Skeleton = {
      ...without,
      names: without.names.map((n, j) => (/Shoulder$/.test(without.roles[j] ?? '') ? `part ${j}` : n)),
      roles: without.roles.map(r => (r && /Shoulder$/.test(r) ? undefined : r)),
    }
    const take = raised(performer, [0, 0, 1], 60)
    const map = Object.fromEntries(performer.roles.flatMap((r, j) => (r ? [[r, performer.names[j]]] : [])))
    const note = { ...EMPTY_NOTE, map: { ...map, leftShoulder: '', rightShoulder: '' } }
    const collar = at(figure, 'leftShoulder')
    const turned = async (girdle: boolean): Promise<number> => {
      const done = await perform(performer, take, figure, {
        settings: { ...EXACT_TRANSFER, girdle },
        note,
      })
      return angle(quatAt(done.take.rotations, collar), quatAt(figure.restRotations, collar))
    }
    expect(await turned(false)).toBeLessThan(0.1)
    expect(await turned(true)).toBeCloseTo(20, 0)
  })
})
