import { distance, vec3At } from '../math'
import { childrenOf, jointRef, worldPose } from '../skeleton'
import type { Rule } from './finding'

/** Two joints at one place. */
export const zeroLengthBone: Rule = {
  id: 'zero-length-bone',
  detect: ({ skeleton, straightened, source }) => {
    if (!skeleton) return []
    const world = worldPose(skeleton)
    const least = 1e-4 * (straightened?.height ?? 1)
    const children = childrenOf(skeleton)
    return skeleton.names.flatMap((name, j) => {
      const p = skeleton.parents[j]
      // a root that stands on the ground, or where the hips are, is how travel is carried
      if (
        p < 0 ||
        // a mount stands where it is wanted
        (source !== 'received' && !skeleton.roles[j] && children[j].length === 0) ||
        (skeleton.parents[p] < 0 && children[p].length === 1) ||
        distance(vec3At(world.positions, j), vec3At(world.positions, p)) > least
      )
        return []
      return [
        {
          rule: 'zero-length-bone',
          severity: 'warning' as const,
          value: 0,
          unit: 'cm',
          where: name,
          message: `${name} lies exactly on ${skeleton.names[p]}, so the bone between them has no direction.`,
          mendable: true,
          remedy: `Removes ${name}; ${skeleton.names[p]} becomes the parent of its children and takes over its skin.`,
          target: jointRef(skeleton, j),
          place: vec3At(world.positions, j),
        },
      ]
    })
  },
  mend: finding => ({ rig: [{ kind: 'remove', joint: finding.target!, mirror: false }] }),
}
