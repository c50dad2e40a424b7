import {
  addScaled,
  AXIS_VECTORS,
  ChiraxisError,
  conjugate,
  cross,
  distance,
  dot,
  fromTo,
  IDENTITY,
  length,
  multiply,
  normalize,
  quatAt,
  rotate,
  scale,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import {
  aimedRotation,
  bindPose,
  findJoint,
  jointRef,
  mirroredName,
  OWN_CONVENTION,
  partnerJoint,
  readAxes,
  type Skeleton,
  freshName,
} from '../skeleton'
import type { EditOf } from './edit'
import { limbFrame } from './move'
import { rebuildRig, sameJoints, type RebuiltJoint } from './rebuild'
import type { Rig } from './rig'

type Chain = EditOf<'chain'>
const refuse = (message: string): ChiraxisError => new ChiraxisError('bad-settings', message)

/**
 * The record of a chain drawn through places on the figure: ways from the joint it hangs on, in the frame of its limb and as
 * shares of the figure's height, so that it holds on other bodies.
 * @param places metres as bound  @param parent joint it hangs on, -1 for a chain that stands on its own
 */
export function chainRecord(
  skeleton: Skeleton,
  parent: number,
  places: readonly Vec3[],
  size: number,
  told: Omit<Chain, 'kind' | 'parent' | 'points'>,
): Chain {
  const { origin, frame } = seat(skeleton, parent)
  const back = conjugate(frame)
  const points = places.map(p => scale(rotate(back, sub(p, origin)), 1 / size))
  return { kind: 'chain', ...(parent >= 0 && { parent: jointRef(skeleton, parent) }), points, ...told }
}

/** What a chain is told in: the place of the joint it hangs on and the frame of its limb. */
function seat(skeleton: Skeleton, parent: number): { origin: Vec3; frame: Quat } {
  if (parent < 0) return { origin: [0, 0, 0], frame: [...IDENTITY] }
  return { origin: vec3At(bindPose(skeleton).positions, parent), frame: limbFrame(skeleton, parent) }
}

/**
 * Adds a drawn chain, mirrored to the other side where that was asked. Its joints are aimed as the skeleton's are.
 * @param size height of the figure, metres
 */
export function drawChain(rig: Rig, edit: Chain, size: number): Rig {
  const parent = edit.parent === undefined ? -1 : findJoint(rig.skeleton, edit.parent)
  if (edit.parent !== undefined && parent < 0) throw refuse(`there is no joint ${edit.parent} to hang ${edit.name} on.`)
  const { origin, frame } = seat(rig.skeleton, parent)
  const places = edit.points.map(p => addScaled(origin, rotate(frame, p as Vec3), size))
  const partner = parent < 0 ? -1 : partnerJoint(rig.skeleton, parent)
  if (!edit.mirror || ((partner === parent || parent < 0) && onMidline(places, size)))
    return chainThrough(rig, parent, places, edit)
  const { own, other: name } = sidedNames(edit.name, places)
  const once = chainThrough(rig, parent, places, { ...edit, name: own })
  const across = partner < 0 || parent < 0 ? parent : partner
  return chainThrough(
    once,
    across < 0 ? -1 : findJoint(once.skeleton, jointRef(rig.skeleton, across)),
    places.map(([x, y, z]): Vec3 => [-x, y, z]),
    { ...edit, name, roles: edit.roles?.map(mirroredName) },
  )
}

/** Names of both sides, where the one that was told does not say its own. */
function sidedNames(name: string, places: readonly Vec3[]): { own: string; other: string } {
  const other = mirroredName(name)
  if (other !== name) return { own: name, other }
  const [own, far] = places.reduce((s, p) => s + p[0], 0) >= 0 ? ['left', 'right'] : ['right', 'left']
  return { own: `${name} ${own}`, other: `${name} ${far}` }
}

/** What lies on the midline has no other side. */
const onMidline = (places: readonly Vec3[], size: number): boolean => places.every(p => Math.abs(p[0]) < 0.004 * size)

/** A chain through places in the world as bound, hung on a joint. */
function chainThrough(rig: Rig, parent: number, places: readonly Vec3[], edit: Chain): Rig {
  const { skeleton } = rig
  const { stations, end } = stationsOf(places, edit.joints)
  const pose = bindPose(skeleton)
  const carried = parent < 0 ? IDENTITY : quatAt(pose.rotations, parent)
  const from: Vec3 = parent < 0 ? [0, 0, 0] : vec3At(pose.positions, parent)
  const back = conjugate(carried)
  const turns = aimAlong([...stations, ...(end ? [end] : [])], skeleton)
  const joints: RebuiltJoint[] = sameJoints(skeleton)
  const taken = [...skeleton.names]
  let on = parent
  stations.forEach((place, i) => {
    const name = freshName(taken, stations.length > 1 ? `${edit.name} ${i + 1}` : edit.name)
    taken.push(name)
    const role = edit.roles?.[i]
    if (role && skeleton.roles.includes(role)) throw refuse(`there is a ${role} already.`)
    const next = stations[i + 1] ?? end
    joints.push({
      name,
      ...(role && { role }),
      parent: on,
      carrier: parent,
      translation: rotate(back, sub(place, from)),
      rotation: multiply(back, turns[i]),
      // where the last bone ends; the others end at the next joint
      tip: i === stations.length - 1 && next ? rotate(conjugate(turns[i]), sub(next, place)) : null,
    })
    on = joints.length - 1
  })
  return rebuildRig(rig, joints, old => old)
}

/** Where the joints of a drawn line stand, and where its last bone ends. */
export function stationsOf(places: readonly Vec3[], joints?: number): { stations: Vec3[]; end?: Vec3 } {
  if (places.length === 1) return { stations: [places[0]] }
  if (joints === undefined) return { stations: places.slice(0, -1), end: places[places.length - 1] }
  const ways = places.slice(1).map((p, i) => distance(p, places[i]))
  const whole = ways.reduce((a, b) => a + b, 0)
  const at = (share: number): Vec3 => {
    let left = share * whole
    for (let i = 0; i < ways.length; i++) {
      if (left <= ways[i] && ways[i] > 0) return addScaled(places[i], sub(places[i + 1], places[i]), left / ways[i])
      left -= ways[i]
    }
    return places[places.length - 1]
  }
  return { stations: Array.from({ length: joints }, (_, i) => at(i / joints)), end: places[places.length - 1] }
}

/**
 * How the joints of a line are turned: along their bones as most joints of the skeleton are, the hinge carried on from bone to
 * bone without twist (parallel transport; Bishop 1975, "There is more than one way to frame a curve").
 */
function aimAlong(points: readonly Vec3[], skeleton: Skeleton): Quat[] {
  const axes = readAxes(skeleton)
  if (axes.kind === 'world' && skeleton.names.length > 3) return points.map(() => [0, 0, 0, 1])
  const along = axes.kind === 'along' ? axes.along : OWN_CONVENTION.along
  const convention = along[1] === 'x' ? { along, hinge: '+z' as const } : { along, hinge: OWN_CONVENTION.hinge }
  const out: Quat[] = []
  let bone: Vec3 | undefined
  let hinge: Vec3 = [1, 0, 0]
  points.forEach((p, i) => {
    const way = i + 1 < points.length ? sub(points[i + 1], p) : undefined
    const next = way && length(way) > 1e-7 ? normalize(way) : bone
    if (!next) {
      out.push(bone === undefined ? [0, 0, 0, 1] : out[i - 1])
      return
    }
    if (bone) hinge = rotate(fromTo(bone, next), hinge)
    else if (Math.abs(dot(next, hinge)) > 0.9) hinge = normalize(cross(next, AXIS_VECTORS['+z']), [0, 1, 0])
    bone = next
    out.push(aimedRotation(next, hinge, convention))
  })
  return out
}
