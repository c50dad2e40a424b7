import { roleLabel } from '../body'
import { vec3At } from '../math'
import { jointRef, worldPose, type Doubt } from '../skeleton'
import type { Finding, Rule } from './finding'

/** More doubts of one skeleton than this are one finding. */
const MOST = 6

const about = ({ about: what }: Doubt): string =>
  what === 'kind'
    ? 'Whether the body stands on two legs or four is doubtful'
    : what === 'sides'
      ? 'Which side is left is doubtful'
      : `Which joint is the ${roleLabel(what).toLowerCase()} is doubtful`

/** A skeleton of somebody else that could be read in more ways than one: a person says which is right. */
export const doubtfulReading: Rule = {
  id: 'doubtful-reading',
  detect: ({ skeleton, source, doubts = [], performed = [] }) => {
    const out: Finding[] = []
    if (skeleton && source) {
      const world = worldPose(skeleton)
      for (const d of doubts.slice(0, MOST)) {
        const joint = d.joint !== undefined && d.joint < skeleton.names.length ? d.joint : undefined
        out.push({
          rule: 'doubtful-reading',
          severity: 'warning',
          value: doubts.length,
          unit: 'doubts',
          where: joint === undefined ? 'skeleton' : skeleton.names[joint],
          message: `${about(d)}: ${d.why}. Say in Names what is right.`,
          mendable: false,
          ...(joint !== undefined && {
            target: jointRef(skeleton, joint),
            place: vec3At(world.positions, joint),
          }),
        })
      }
    }
    const told = new Set<string>()
    for (const { take, performer, performerSkeleton, figureSkeleton } of performed) {
      const key = performerSkeleton.names.join('|')
      const [first] = performer.doubts
      if (!first || told.has(key) || performerSkeleton === figureSkeleton) continue
      told.add(key)
      out.push({
        rule: 'doubtful-reading',
        severity: 'warning',
        value: performer.doubts.length,
        unit: 'doubts',
        where: take.name,
        message: `The skeleton that performs ${take.name} may be read wrongly. ${about(first)}: ${first.why}. Look at its role map before the take is used.`,
        mendable: false,
      })
    }
    return out
  },
}
