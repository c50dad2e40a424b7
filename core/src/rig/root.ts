import { ChiraxisError, type Vec3 } from '../math'
import { rebuildRig, sameJoints } from './rebuild'
import type { Rig } from './rig'

/**
 * A root above all that have none yet: it stands still in the world, turned as the body stands, and moves no skin. Several
 * roots hang on one from then on.
 * @param at where it stands, metres
 * @throws ChiraxisError `bad-settings` where the name is taken
 */
export function addRoot(rig: Rig, name: string, at: Vec3): Rig {
  const { skeleton } = rig
  if (skeleton.names.includes(name)) throw new ChiraxisError('bad-settings', `there is a joint called ${name} already.`)
  const joints = sameJoints(skeleton)
  const root = joints.length
  return rebuildRig(
    rig,
    [
      ...joints.map(j => (j.parent < 0 ? { ...j, parent: root } : j)),
      { name, parent: -1, carrier: -1, translation: at },
    ],
    old => old,
  )
}
