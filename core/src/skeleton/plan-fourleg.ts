import {
  add,
  addScaled,
  ChiraxisError,
  cross,
  dot,
  fromDirections,
  length,
  lerp,
  normalize,
  scale,
  sub,
  type Vec3,
} from '../math'
import type { PlanPoint } from './plan-biped'
import { skeletonFromWorld, type Skeleton, type WorldJoint } from './skeleton'

/**
 * The four-legged skeleton on its landmarks: a spine along the back, neck and head, a tail of as many joints
 * as wished, ears where there are any; forelegs from shoulder blade to toes, hind legs from hip to toes.
 * +Y of every joint runs along its bone, +X is its hinge, across the body.
 * @throws ChiraxisError `bad-input` where a landmark is missing
 */
export function fourlegJoints(landmarks: readonly PlanPoint[], tailJoints: number): WorldJoint[] {
  const maybe = (id: string): Vec3 | undefined => landmarks.find(l => l.id === id)?.position
  const at = (id: string): Vec3 => {
    const p = maybe(id)
    if (!p)
      throw new ChiraxisError('bad-input', `The landmark ${id} is missing; the skeleton cannot be built without it.`)
    return p
  }
  const joints: WorldJoint[] = []
  const put = (
    role: string,
    parent: string | undefined,
    position: Vec3,
    end: Vec3,
    hinge: Vec3 = [1, 0, 0],
    tip = false,
  ): void => {
    joints.push({
      name: role,
      role,
      position,
      parent: parent ? joints.findIndex(j => j.role === parent) : -1,
      rotation: fromDirections(normalize(sub(end, position)), hinge),
      tip: tip ? end : undefined,
    })
  }
  const hips = at('hips'),
    loin = at('loin'),
    chest = at('chest'),
    neck = at('neckBase'),
    skull = at('skullBase')
  put('hips', undefined, hips, loin)
  put('spine', 'hips', loin, chest)
  put('chest', 'spine', chest, neck)
  put('neck', 'chest', neck, lerp(neck, skull, 0.5))
  put('neck2', 'neck', lerp(neck, skull, 0.5), skull)
  put('head', 'neck2', skull, at('nose'), [1, 0, 0], true)
  for (const side of ['left', 'right'] as const) {
    const ear = maybe(`${side}EarBase`),
      tip = maybe(`${side}EarTip`)
    if (ear && tip) put(`${side}Ear`, 'head', ear, tip, [1, 0, 0], true)
  }
  const base = maybe('tailBase'),
    end = maybe('tailTip')
  if (base && end && tailJoints > 0) {
    const middle = maybe('tailMiddle') ?? lerp(base, end, 0.5)
    const point = (t: number): Vec3 => bowed(base, middle, end, t)
    for (let i = 0; i < tailJoints; i++)
      put(
        `tail${i + 1}`,
        i === 0 ? 'hips' : `tail${i}`,
        point(i / tailJoints),
        point((i + 1) / tailJoints),
        [1, 0, 0],
        i === tailJoints - 1,
      )
  }
  for (const side of ['left', 'right'] as const) {
    const front = ['FrontShoulder', 'FrontHip', 'FrontElbow', 'FrontWrist', 'FrontToes', 'FrontTip'].map(p =>
      at(side + p),
    )
    const roles = ['FrontShoulder', 'FrontUpperLeg', 'FrontLowerLeg', 'FrontFoot', 'FrontToes']
    roles.forEach((r, i) =>
      put(side + r, i === 0 ? 'chest' : side + roles[i - 1], front[i], front[i + 1], [1, 0, 0], i === roles.length - 1),
    )
    const hind = ['HindHip', 'HindKnee', 'HindHock', 'HindToes', 'HindTip'].map(p => at(side + p))
    const own = ['HindUpperLeg', 'HindLowerLeg', 'HindFoot', 'HindToes']
    own.forEach((r, i) =>
      put(side + r, i === 0 ? 'hips' : side + own[i - 1], hind[i], hind[i + 1], kneeHinge(hind), i === own.length - 1),
    )
  }
  return joints
}

export const buildFourleg = (landmarks: readonly PlanPoint[], tailJoints = 6): Skeleton =>
  skeletonFromWorld(fourlegJoints(landmarks, tailJoints))

/** The axis across the body about which a hind leg folds. */
function kneeHinge(hind: readonly Vec3[]): Vec3 {
  const n = cross(sub(hind[1], hind[0]), sub(hind[2], hind[1]))
  const hinge = length(n) > 1e-9 ? normalize(n) : ([1, 0, 0] as Vec3)
  return dot(hinge, [1, 0, 0]) >= 0 ? hinge : scale(hinge, -1)
}

/** A curve through three points, at even parameter. */
function bowed(a: Vec3, m: Vec3, b: Vec3, t: number): Vec3 {
  const k = sub(scale(m, 2), scale(add(a, b), 0.5))
  return add(add(scale(a, (1 - t) ** 2), scale(k, 2 * t * (1 - t))), addScaled([0, 0, 0], b, t * t))
}
