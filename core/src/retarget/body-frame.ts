import {
  add,
  addScaled,
  ChiraxisError,
  conjugate,
  cross,
  dot,
  fromAxes,
  normalize,
  rotate,
  scale,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import { worldPose, type Skeleton } from '../skeleton'
import { FOUR_LEGS, kindOf } from '../body'

/** The turn that brings a skeleton's own space to Y up, facing +Z, left at +X. */
export function bodyFrame(skeleton: Skeleton, roles: Readonly<Record<string, number>>): Quat {
  const world = worldPose(skeleton)
  const at = (role: string): Vec3 | undefined =>
    roles[role] === undefined ? undefined : vec3At(world.positions, roles[role])
  if (kindOf(roles) === 'fourleg') return frameOnFour(at)
  const hipsLeft = at('leftUpperLeg')
  const hipsRight = at('rightUpperLeg')
  const top = at('neck') ?? at('head') ?? at('upperChest') ?? at('chest')
  if (!hipsLeft || !hipsRight || !top)
    throw new ChiraxisError('no-roles', 'The skeleton lacks hips, legs or a head, so its up and front cannot be told.')
  const pelvis = scale(add(hipsLeft, hipsRight), 0.5)
  const up = whole(normalize(sub(top, pelvis)), 25)
  const across = sub(hipsLeft, hipsRight)
  const left = whole(normalize(addScaled(across, up, -dot(across, up))), 6)
  const front = normalize(cross(left, up))
  return conjugate(fromAxes(cross(up, front), up, front))
}

/** On four legs up is away from the paws, and ahead is from the hind legs to the front ones. */
function frameOnFour(at: (role: string) => Vec3 | undefined): Quat {
  const mean = (roles: readonly string[]): Vec3 => {
    const found = roles.flatMap(r => {
      const p = at(r)
      return p ? [p] : []
    })
    if (found.length < roles.length)
      throw new ChiraxisError(
        'no-roles',
        'The skeleton lacks some of its four legs, so its up and front cannot be told.',
      )
    return scale(
      found.reduce((s, p) => add(s, p), [0, 0, 0] as Vec3),
      1 / found.length,
    )
  }
  const up = whole(normalize(sub(mean(FOUR_LEGS.map(l => `${l}UpperLeg`)), mean(FOUR_LEGS.map(l => `${l}Foot`)))), 25)
  const ahead = sub(mean(['leftFrontUpperLeg', 'rightFrontUpperLeg']), mean(['leftHindUpperLeg', 'rightHindUpperLeg']))
  const front = whole(normalize(addScaled(ahead, up, -dot(ahead, up))), 6)
  return conjugate(fromAxes(cross(up, front), up, front))
}

/** A direction within `degrees` of an axis is that axis: files are authored along axes, spines lean. */
function whole(d: Vec3, degrees: number): Vec3 {
  const k = [0, 1, 2].reduce((best, i) => (Math.abs(d[i]) > Math.abs(d[best]) ? i : best), 0)
  if (Math.abs(d[k]) < Math.cos((degrees * Math.PI) / 180)) return d
  const axis: Vec3 = [0, 0, 0]
  axis[k] = Math.sign(d[k])
  return axis
}

/** World rest positions of a skeleton after its frame is taken out. */
export function framedPositions(skeleton: Skeleton, frame: Quat): Vec3[] {
  const world = worldPose(skeleton)
  return skeleton.names.map((_, j) => rotate(frame, vec3At(world.positions, j)))
}
