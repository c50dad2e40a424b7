import {
  angleOf,
  conjugate,
  distance,
  inverseOf,
  multiply,
  quatAt,
  setQuat,
  setVec3,
  vec3At,
  within,
  type Rigid,
} from '../math'
import type { Take } from '../motion'
import { jointPlace, worldPose, type Skeleton } from '../skeleton'
import type { Prop } from './prop'
import type { PropCourse } from './through-take'

const SAME_PLACE = 1e-4
const SAME_TURN = 1e-3

/**
 * Whether a prop rides on a joint in every frame of every take as it does at rest: then it needs no motion of its own.
 * @param rest where it is at rest, in the skeleton's space
 */
export function ridesOn(
  skeleton: Skeleton,
  joint: number,
  rest: Rigid,
  takes: readonly Take[],
  courses: readonly PropCourse[],
): boolean {
  const J = skeleton.names.length
  const lies = within(inverseOf(jointPlace(worldPose(skeleton), joint)), rest)
  return takes.every((take, i) => {
    for (let f = 0; f < take.frames; f++) {
      const w = worldPose(skeleton, take.translations, take.rotations, f * J)
      const wanted = within(jointPlace(w, joint), lies)
      if (distance(wanted.at, vec3At(courses[i].places, f)) > SAME_PLACE) return false
      if (angleOf(multiply(conjugate(wanted.turn), quatAt(courses[i].turns, f))) > SAME_TURN) return false
    }
    return true
  })
}

/** A prop that stays where it is through a take. */
export function stillCourse(
  { id, name }: Pick<Prop, 'id' | 'name'>,
  { at, turn }: Rigid,
  { frames }: Take,
): PropCourse {
  const places = new Float32Array(3 * frames),
    turns = new Float32Array(4 * frames)
  for (let f = 0; f < frames; f++) {
    setVec3(places, f, at)
    setQuat(turns, f, turn)
  }
  return { prop: id, name, places, turns, off: new Float32Array(frames) }
}
