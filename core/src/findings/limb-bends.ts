import { vec3At } from '../math'
import { readBends, worldPose, type BendReading } from '../skeleton'
import { rounded, type Finding, type FindingContext } from './finding'

const DEGREES = 180 / Math.PI
/** Less than this tells no solver which way a limb bends. */
export const LEAST_BEND = 1

/** Knees and elbows whose bend at rest is amiss, as findings of one rule. */
export function bendFindings(
  rule: string,
  { skeleton }: FindingContext,
  wrong: (degrees: number) => boolean,
  words: (b: BendReading, degrees: number) => string,
  severity: Finding['severity'],
): Finding[] {
  if (!skeleton) return []
  const world = worldPose(skeleton)
  return readBends(skeleton).flatMap((b): Finding[] => {
    const degrees = b.bend * DEGREES
    if (!wrong(degrees)) return []
    return [
      {
        rule,
        severity,
        value: rounded(degrees, 2),
        unit: 'degrees',
        where: b.word,
        message: words(b, degrees),
        mendable: true,
        remedy: `Moves the joint so that the limb bends 2 degrees the natural way.`,
        target: b.role,
        place: vec3At(world.positions, b.joint),
      },
    ]
  })
}
