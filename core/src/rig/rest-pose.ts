import {
  ChiraxisError,
  conjugate,
  dot,
  fromTo,
  length,
  multiply,
  normalize,
  quatAt,
  rotate,
  setQuat,
  setVec3,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import { bindPose, findJoint, worldPose, type Skeleton } from '../skeleton'
import type { Rig } from './rig'

/**
 * Makes a pose the rest pose. The place the skin was bound in is kept beside it, so the body, its morphs
 * and every frame of every take look exactly as before.
 * @param rotations local rotation by joint; joints left out keep theirs
 */
export function setRestPose(rig: Rig, rotations: ReadonlyMap<number, Quat>): Rig {
  const { skeleton } = rig
  const restRotations = skeleton.restRotations.slice()
  for (const [j, q] of rotations) setQuat(restRotations, j, q)
  const bind = skeleton.bind ?? {
    ...bindPose(skeleton),
    locals: { translations: skeleton.restTranslations, rotations: skeleton.restRotations },
  }
  return { ...rig, skeleton: { ...skeleton, restRotations, bind } }
}

/** A figure that rests as it was bound; one that rests so already stays as it is. */
export function restAsBound(rig: Rig): Rig {
  const { skeleton } = rig
  if (!skeleton.bind) return rig
  const { positions, rotations } = skeleton.bind
  const restTranslations = skeleton.restTranslations.slice()
  const restRotations = skeleton.restRotations.slice()
  skeleton.parents.forEach((p, j) => {
    const parent: Quat = p < 0 ? [0, 0, 0, 1] : quatAt(rotations, p)
    const from: Vec3 = p < 0 ? [0, 0, 0] : vec3At(positions, p)
    setVec3(restTranslations, j, rotate(conjugate(parent), sub(vec3At(positions, j), from)))
    setQuat(restRotations, j, multiply(conjugate(parent), quatAt(rotations, j)))
  })
  return { ...rig, skeleton: { ...skeleton, restTranslations, restRotations } }
}

/** Local rotations that bring both arms to an angle below straight out, elbows and wrists straight. */
export function armsAt(skeleton: Skeleton, degreesDown: number): Map<number, Quat> {
  const out = new Map<number, Quat>()
  const world = worldPose(skeleton)
  const P = (j: number): Vec3 => vec3At(world.positions, j)
  for (const [side, s] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    const chain = ['UpperArm', 'LowerArm', 'Hand'].map(part => findJoint(skeleton, side + part))
    if (chain.some(j => j < 0))
      throw new ChiraxisError(
        'no-roles',
        `The skeleton has no whole ${side} arm, so its rest pose cannot be changed by itself.`,
      )
    const a = (degreesDown * Math.PI) / 180
    const wish: Vec3 = [s * Math.cos(a), -Math.sin(a), 0]
    let turned: Quat = [0, 0, 0, 1]
    chain.forEach((j, i) => {
      const next = chain[i + 1]
      // the hand goes on as the forearm does
      if (next !== undefined) {
        const bone = sub(P(next), P(j))
        if (length(bone) < 1e-7)
          throw new ChiraxisError('bad-skeleton', `${skeleton.names[j]} has no length, so the arm cannot be turned.`)
        const now = rotate(turned, normalize(bone))
        // the natural bend of the elbow is kept: the forearm turns along and only the whole arm is aimed
        if (i === 0) turned = multiply(fromTo(rotate(turned, normalize(sub(P(chain[2]), P(j)))), wish), turned)
        else if (dot(now, wish) < 0.5) turned = multiply(fromTo(now, wish), turned)
      }
      const p = skeleton.parents[j]
      const parentNow =
        p >= 0
          ? out.has(p) || i > 0
            ? worldAfter(skeleton, out, p)
            : quatAt(world.rotations, p)
          : ([0, 0, 0, 1] as Quat)
      out.set(j, multiply(conjugate(parentNow), multiply(turned, quatAt(world.rotations, j))))
    })
  }
  return out
}

/** World rotation of a joint after some local rotations changed. */
function worldAfter(skeleton: Skeleton, changed: ReadonlyMap<number, Quat>, j: number): Quat {
  const own = changed.get(j) ?? quatAt(skeleton.restRotations, j)
  const p = skeleton.parents[j]
  return p < 0 ? own : multiply(worldAfter(skeleton, changed, p), own)
}

/** How far both upper arms hang below straight out at rest, degrees; undefined where there are none. */
export function armsDown(skeleton: Skeleton): number | undefined {
  const world = worldPose(skeleton)
  const angles = ['left', 'right'].flatMap(side => {
    const a = skeleton.roles.indexOf(`${side}UpperArm`),
      b = skeleton.roles.indexOf(`${side}LowerArm`)
    if (a < 0 || b < 0) return []
    const d = sub(vec3At(world.positions, b), vec3At(world.positions, a))
    return [(Math.atan2(-d[1], Math.hypot(d[0], d[2])) * 180) / Math.PI]
  })
  return angles.length === 0 ? undefined : angles.reduce((x, y) => x + y, 0) / angles.length
}
