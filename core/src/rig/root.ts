import { ChiraxisError, type Vec3 } from '../math'
import { ROOT_CHANNELS } from '../motion'
import { rootJoint, type RootSettings } from '../root-motion'
import { freshName, type Skeleton } from '../skeleton'
import type { EditOf } from './edit'
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

/** A record that adds a root on the ground where the body stands. @param taken names of the joints there are */
export const rootRecord = (taken: readonly string[], wish = 'root'): EditOf<'root'> => ({
  kind: 'root',
  name: freshName(taken, wish),
  at: [0, 0, 0],
})

/**
 * The joint that settings of travel ask to be carried by: one that is there, or one a record adds.
 * @param named what it is to be called; left out, any joint above the hips will do
 * @throws ChiraxisError `bad-settings` for a joint of that name that does not carry the hips
 */
export function askedRoot(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  settings: RootSettings,
  named?: string,
): { readonly root?: string; readonly add?: EditOf<'root'> } {
  const { names } = skeleton
  const there = rootJoint(skeleton, joints, named)
  const root = there === undefined ? undefined : names[there]
  const asked = named !== undefined || ROOT_CHANNELS.some(c => settings[c] === 'root')
  if (!asked || (root !== undefined && root === (named ?? root))) return { root }
  if (named !== undefined && names.includes(named))
    throw new ChiraxisError('bad-settings', `The joint ${named} does not carry the hips, so travel cannot go on it.`)
  const add = rootRecord(names, named)
  return { root: add.name, add }
}
