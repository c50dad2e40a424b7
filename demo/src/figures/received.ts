import { conjugate, distance, multiply, quatAt, vec3At, type Quat, type Vec3 } from '@chiraxis/core/math'
import type { Take } from '@chiraxis/core/motion'
import { moveJoints, rebuildRig, sameJoints, type Rig } from '@chiraxis/core/rig'
import { buildPlan, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { bind, type Skin } from '@chiraxis/core/skin'
import { detectLandmarks } from '@chiraxis/core/landmarks'
import type { Mesh } from '@chiraxis/core/mesh'

/** A clean rig of a made body, by the program's own means. */
export async function cleanRig(mesh: Mesh): Promise<Rig & { readonly mesh: Mesh; readonly skin: Skin }> {
  const skeleton = buildPlan('biped', await detectLandmarks(mesh))
  return { mesh, skeleton, skin: await bind(mesh, skeleton, { influences: 4 }), takes: [] }
}

const PREFIX = 'deck:'

/**
 * A rig as somebody else might have sent it, with faults planted: joint axes like the world, half of the names
 * without their prefix, knees bent back by one degree, the root turned a quarter, and weights of the left
 * forearm on the hip beside it.
 */
export function withFaults(
  rig: Rig & { readonly mesh: Mesh; readonly skin: Skin },
): Rig & { readonly mesh: Mesh; readonly skin: Skin } {
  const straight = bendKnees(rig, -1)
  const world = worldPose(straight.skeleton)
  const joints = sameJoints(straight.skeleton).map((joint, j) => {
    const flat = conjugate(quatAt(world.rotations, j))
    const root = joint.parent < 0
    const turn: Quat = [Math.SQRT1_2, 0, 0, Math.SQRT1_2]
    const name = joint.name
      .replace(/^(left|right)/, s => `${s === 'left' ? 'l' : 'r'}_`)
      .replace(/([A-Z])/g, c => c.toLowerCase())
    return {
      ...joint,
      role: undefined,
      name: j % 2 === 0 ? PREFIX + name : name,
      rotation: root ? multiply(flat, turn) : flat,
      tip: undefined,
    }
  })
  const turned = rebuildRig(straight, joints)
  return {
    ...turned,
    mesh: rig.mesh,
    skin: bleed(turned.skin!, rig.mesh, rig.skeleton),
    skeleton: { ...turned.skeleton, tips: undefined },
  }
}

/** Both knees moved in depth until the legs bend by an angle, degrees; negative is backwards. */
function bendKnees(rig: Rig, degrees: number): Rig {
  const world = worldPose(rig.skeleton)
  const ways = new Map<number, Vec3>()
  for (const side of ['left', 'right']) {
    const [hip, knee, ankle] = ['UpperLeg', 'LowerLeg', 'Foot'].map(p =>
      vec3At(world.positions, rig.skeleton.roles.indexOf(side + p)),
    )
    const t = (hip[1] - knee[1]) / (hip[1] - ankle[1])
    const line = hip[2] + t * (ankle[2] - hip[2])
    const shin = distance(knee, ankle),
      thigh = distance(hip, knee)
    const off = ((degrees * Math.PI) / 180) * ((thigh * shin) / (thigh + shin))
    ways.set(rig.skeleton.roles.indexOf(`${side}LowerLeg`), [0, 0, line + off - knee[2]])
  }
  return moveJoints(rig, ways, false)
}

/** Weight of the left forearm on the flesh of the left hip. */
function bleed(skin: Skin, mesh: Mesh, skeleton: Skeleton): Skin {
  const arm = skeleton.roles.indexOf('leftLowerArm')
  const at = vec3At(worldPose(skeleton).positions, skeleton.roles.indexOf('leftUpperLeg'))
  const joints = skin.joints.slice()
  const weights = skin.weights.slice()
  const k = skin.influences
  const reach = 0.06 * 1.12
  for (let v = 0; v < mesh.positions.length / 3; v++) {
    const d = distance(vec3At(mesh.positions, v), [at[0] + 0.05, at[1] + 0.02, at[2]])
    if (d > reach) continue
    const w = 0.45 * (1 - d / reach)
    for (let i = v * k; i < v * k + k; i++) weights[i] *= 1 - w
    const last = v * k + k - 1
    const lost = weights[last]
    joints[last] = arm
    weights[last] = w
    weights[v * k] += lost
  }
  return { influences: k, joints, weights }
}

/** A take of the rig's own. */
export const withTake = <T extends Rig>(rig: T, take: Take): T => ({ ...rig, takes: [...rig.takes, take] })
