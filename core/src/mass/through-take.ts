import type { Take } from '../motion'
import { forwardKinematics, worldPoseBuffer, type Skeleton } from '../skeleton'
import { centreOfMass, type Load } from './centre'
import { roomWithin } from './support'
import type { BodyMass } from './segments'
import { supportOf, type TouchPlaces } from './touch'

/** Who is higher over the ground than this share of its height is carried by nothing. */
const IN_THE_AIR = 0.04

/**
 * How far within what carries it the mass of a figure lies in every frame of a take, metres; negative outside, NaN where it is
 * in the air.
 * @param touching what lies this near over the lowest place still carries, metres  @param tall of the figure, metres
 * @param loads what it carries in a frame
 */
export function balanceThrough(
  mass: BodyMass,
  touch: TouchPlaces,
  skeleton: Skeleton,
  take: Take,
  touching: number,
  tall: number,
  loads: (frame: number) => readonly Load[] = () => [],
): Float32Array {
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  const out = new Float32Array(take.frames)
  for (let f = 0; f < take.frames; f++) {
    forwardKinematics(skeleton.parents, undefined, take.translations, take.rotations, f * J, pose)
    const support = supportOf(touch, pose, touching)
    const centre = centreOfMass(mass, pose, undefined, loads(f))
    const room = centre && roomWithin(support.outline, centre.place[0], centre.place[2])
    out[f] = room === undefined || support.lowest > IN_THE_AIR * tall ? NaN : room
  }
  return out
}
