import { freshDocument, namedNodes, sourceAsRead, type PropToWrite } from '../document'
import { ChiraxisError } from '../math'
import type { Take } from '../motion'
import {
  GROUND,
  propsInPose,
  propThing,
  ridesOn,
  stillCourse,
  type Prop,
  type PropCourse,
  type PropsOnFigure,
  type PropThing,
} from '../props'
import { findJoint, type Skeleton } from '../skeleton'
import type { Received } from './received'

/** What a prop's file comes to. @throws ChiraxisError `no-triangles` */
export function thingOf(received: Received, prop: Prop): PropThing {
  if (!received.mesh || received.mesh.indices.length === 0)
    throw new ChiraxisError('no-triangles', `${prop.file.name} holds nothing that could be carried.`)
  return propThing(received.mesh, received.document ? namedNodes(received.document) : [], prop)
}

/**
 * Props as nodes of their own: on the joint they ride on, else with motion of their own.
 * @param files what came in, one a prop  @param courses of every take, where it has any
 */
export function propsToWrite(
  on: PropsOnFigure,
  files: readonly Received[],
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  takes: readonly Take[],
  courses: readonly (readonly PropCourse[] | undefined)[],
): PropToWrite[] {
  const resting = { translations: skeleton.restTranslations, rotations: skeleton.restRotations }
  const rest = propsInPose(on, skeleton, resting).places
  return on.list.map(({ prop }, p): PropToWrite => {
    const { mesh, materials = [], images = [] } = files[p]
    const { document, way } = sourceAsRead(files[p]) ?? freshDocument(prop.name, mesh, materials, images)
    const own = takes.map((take, i) => courses[i]?.[p] ?? stillCourse(prop, rest[p], take))
    const joint = prop.carry.by === GROUND ? -1 : (joints[prop.carry.by] ?? findJoint(skeleton, prop.carry.by))
    const rides = joint >= 0 && ridesOn(skeleton, joint, rest[p], takes, own)
    return {
      id: prop.id,
      name: prop.name,
      document,
      scene: way.scene,
      unit: prop.scale ?? 1,
      joint: rides ? joint : -1,
      rest: rest[p],
      ...(!rides && { courses: own.map((c, i) => ({ places: c.places, turns: c.turns, fps: takes[i].fps })) }),
    }
  })
}
