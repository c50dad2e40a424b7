import { cross, fromAxes, multiply, quatAt, rotate, setQuat, setVec3, vec3At, type Quat, type Vec3 } from '../math'
import type { Mesh } from '../mesh'
import type { Take } from '../motion'
import { worldPoseBuffer, type BoundPose, type Skeleton } from '../skeleton'
import type { GltfContent } from './gltf-write'

/** Axes and unit a file is told in. Where it is right-handed, its left is up crossed with ahead. */
export interface FileAxes {
  readonly up: FileAxis
  readonly ahead: FileAxis
  /** Metres a unit of the file is. */
  readonly unit: number
  /** Whether it is left-handed: the third axis runs the other way. */
  readonly left?: boolean
}
export const FILE_AXES = ['+x', '-x', '+y', '-y', '+z', '-z'] as const
export type FileAxis = (typeof FILE_AXES)[number]
/** Y up, facing +Z, metres: how figures are kept here. */
export const OWN_AXES: FileAxes = { up: '+y', ahead: '+z', unit: 1 }

export const directionOf = (axis: FileAxis): Vec3 => {
  const d: Vec3 = [0, 0, 0]
  d['xyz'.indexOf(axis[1])] = axis[0] === '+' ? 1 : -1
  return d
}

/** Whether two axes tell how a body stands: up and ahead must not lie along one line. */
export const axesFit = ({ up, ahead }: Pick<FileAxes, 'up' | 'ahead'>): boolean => up[1] !== ahead[1]

const isOwn = ({ up, ahead, unit, left }: FileAxes): boolean => up === '+y' && ahead === '+z' && unit === 1 && !left

/** A figure told in other axes and another unit: everything is turned and scaled alike. */
export function converted<C extends GltfContent>(content: C, axes: FileAxes): C {
  if (isOwn(axes)) return content
  const up = directionOf(axes.up),
    ahead = directionOf(axes.ahead)
  const turn = fromAxes(cross(up, ahead), up, ahead)
  const scale = 1 / axes.unit
  const place = (p: Vec3): Vec3 => rotate(turn, [p[0] * scale, p[1] * scale, p[2] * scale])
  const { mesh, skeleton, takes } = content
  const turned: C = {
    ...content,
    ...(mesh && { mesh: turnedMesh(mesh, place, turn) }),
    ...(skeleton && { skeleton: turnedSkeleton(skeleton, place, turn, scale) }),
    ...(takes && skeleton && { takes: takes.map(t => turnedTake(t, skeleton, place, turn, scale)) }),
  }
  return axes.left
    ? leftHanded(turned, 'xyz'.indexOf('xyz'.replace(axes.up[1], '').replace(axes.ahead[1], '')))
    : turned
}

/** The same figure told with one axis the other way: what is seen stays, corners go around as they went to the eye. */
function leftHanded<C extends GltfContent>(content: C, axis: number): C {
  const place = <A extends Float32Array | Float64Array>(values: A): A =>
    values.map((v, i) => (i % 3 === axis ? -v : v)) as A
  const turn = <A extends Float32Array | Float64Array>(values: A): A =>
    values.map((v, i) => (i % 4 === axis || i % 4 === 3 ? v : -v)) as A
  const { mesh, skeleton, takes } = content
  return {
    ...content,
    ...(mesh && {
      mesh: {
        ...mesh,
        positions: place(mesh.positions),
        ...(mesh.normals && { normals: place(mesh.normals) }),
        ...(mesh.morphs && { morphs: mesh.morphs.map(m => ({ ...m, offsets: place(m.offsets) })) }),
      },
    }),
    ...(skeleton && {
      skeleton: {
        ...skeleton,
        restTranslations: place(skeleton.restTranslations),
        restRotations: turn(skeleton.restRotations),
        ...(skeleton.tips && { tips: place(skeleton.tips) }),
        ...(skeleton.bind && {
          bind: { positions: place(skeleton.bind.positions), rotations: turn(skeleton.bind.rotations) },
        }),
      },
    }),
    ...(takes && {
      takes: takes.map(t => ({ ...t, translations: place(t.translations), rotations: turn(t.rotations) })),
    }),
  }
}

const each = (values: Float32Array, change: (v: Vec3) => Vec3): Float32Array => {
  const out = new Float32Array(values.length)
  for (let i = 0; i < values.length / 3; i++) setVec3(out, i, change(vec3At(values, i)))
  return out
}

function turnedMesh(mesh: Mesh, place: (p: Vec3) => Vec3, turn: Quat): Mesh {
  return {
    ...mesh,
    positions: each(mesh.positions, place),
    ...(mesh.normals && { normals: each(mesh.normals, v => rotate(turn, v)) }),
    ...(mesh.morphs && { morphs: mesh.morphs.map(m => ({ ...m, offsets: each(m.offsets, place) })) }),
  }
}

function turnedSkeleton(skeleton: Skeleton, place: (p: Vec3) => Vec3, turn: Quat, scale: number): Skeleton {
  const { bind, tips, parents } = skeleton
  const [restTranslations, restRotations] = turnedLocals(
    skeleton.restTranslations,
    skeleton.restRotations,
    parents,
    place,
    turn,
    scale,
  )
  return {
    ...skeleton,
    restTranslations,
    restRotations,
    ...(tips && { tips: tips.map(v => v * scale) }),
    ...(bind && { bind: turnedBind(bind, place, turn) }),
  }
}

function turnedBind({ positions, rotations }: BoundPose, place: (p: Vec3) => Vec3, turn: Quat): BoundPose {
  const out = worldPoseBuffer(positions.length / 3)
  for (let j = 0; j < positions.length / 3; j++) {
    setVec3(out.positions, j, place(vec3At(positions, j)))
    setQuat(out.rotations, j, multiply(turn, quatAt(rotations, j)))
  }
  return out
}

function turnedTake(take: Take, { parents }: Skeleton, place: (p: Vec3) => Vec3, turn: Quat, scale: number): Take {
  const [translations, rotations] = turnedLocals(take.translations, take.rotations, parents, place, turn, scale)
  return { ...take, translations, rotations }
}

/** Values of joints on what they hang on, frame after frame: roots are turned, all places scaled. */
function turnedLocals(
  translations: Float32Array,
  rotations: Float32Array,
  parents: Int16Array,
  place: (p: Vec3) => Vec3,
  turn: Quat,
  scale: number,
): [translations: Float32Array, rotations: Float32Array] {
  const J = parents.length
  const T = translations.map(v => v * scale)
  const R = rotations.slice()
  for (let i = 0; i < rotations.length / 4; i++) {
    if (parents[i % J] >= 0) continue
    setVec3(T, i, place(vec3At(translations, i)))
    setQuat(R, i, multiply(turn, quatAt(rotations, i)))
  }
  return [T, R]
}
