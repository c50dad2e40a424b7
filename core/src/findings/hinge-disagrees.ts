import { AXIS_VECTORS, quatAt, rotate, vec3At } from '../math'
import { hingeOff } from '../rig'
import { readAxes, readBends, worldPose } from '../skeleton'
import { rounded, type Rule } from './finding'

const LIMIT = 12

/** The own axis nearest to the hinge of a knee or an elbow lies aslant of the limb's bend. */
export const hingeDisagrees: Rule = {
  id: 'hinge-disagrees',
  detect: ({ skeleton, source, edited }) => {
    if (!skeleton || !(source === 'received' || edited) || readAxes(skeleton).kind !== 'along') return []
    const world = worldPose(skeleton)
    return readBends(skeleton).flatMap(b => {
      if (Math.abs(b.bend) < 0.017) return []
      const off =
        (hingeOff(skeleton, b.joint, rotate(quatAt(world.rotations, b.joint), AXIS_VECTORS[b.own]), b.hinge) * 180) /
        Math.PI
      if (Math.abs(off) < LIMIT || Math.abs(off) > 45) return []
      return [
        {
          rule: 'hinge-disagrees',
          severity: 'warning' as const,
          value: rounded(off),
          unit: 'degrees',
          where: b.word,
          message: `The hinge of ${b.word.toLowerCase()} lies ${Math.abs(off).toFixed(0)} degrees off the way the limb bends; the limb will swing sideways when it folds.`,
          mendable: true,
          remedy: 'Turns the joint about its bone until its hinge agrees; nothing else moves.',
          target: b.role,
          place: vec3At(world.positions, b.joint),
        },
      ]
    })
  },
  mend: finding => ({ rig: [{ kind: 'hinge', joint: finding.target!, degrees: finding.value, mirror: false }] }),
}
