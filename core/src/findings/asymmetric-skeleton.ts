import { distance, vec3At, type Vec3 } from '../math'
import { bindPose, jointRef, partnerJoint } from '../skeleton'
import { roleLabel } from '../body'
import { rounded, type Rule } from './finding'

const LIMIT = 0.012

/** The two sides of the skeleton stand at different places although the body is even. */
export const asymmetricSkeleton: Rule = {
  id: 'asymmetric-skeleton',
  detect: ({ skeleton, straightened, source, edited }) => {
    // on a lopsided body uneven joints are right
    if (!skeleton || !straightened || straightened.asymmetry > 0.02) return []
    if (source !== 'received' && !edited) return []
    const pose = bindPose(skeleton)
    let worst = 0,
      at = -1
    skeleton.names.forEach((_, j) => {
      const role = skeleton.roles[j]
      const other = role?.startsWith('left') ? partnerJoint(skeleton, j) : -1
      if (other < 0 || other === j) return
      const p = vec3At(pose.positions, j),
        q = vec3At(pose.positions, other)
      const off = distance(p, [-q[0], q[1], q[2]] as Vec3) / straightened.height
      if (off > worst) {
        worst = off
        at = j
      }
    })
    if (at < 0 || worst < LIMIT) return []
    return [
      {
        rule: 'asymmetric-skeleton',
        // what was placed by hand on one side alone is not put right without being asked
        severity: edited ? 'note' : 'warning',
        value: rounded(worst * straightened.height * 100),
        unit: 'cm',
        where: roleLabel(skeleton.roles[at]!),
        message: `The sides of the skeleton differ by up to ${(worst * straightened.height * 100).toFixed(1)} cm, most at ${roleLabel(skeleton.roles[at]!).toLowerCase()}, although the body is even.`,
        mendable: !edited,
        remedy: 'Puts the joints of the right where those of the left mirror to.',
        target: jointRef(skeleton, at),
        place: vec3At(pose.positions, at),
      },
    ]
  },
  mend: () => ({ rig: [{ kind: 'match', from: 'left' }] }),
}
