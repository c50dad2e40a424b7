import {
  decompose,
  multiply,
  quatAt,
  scale,
  setQuat,
  setVec3,
  transformPoint,
  vec3At,
  type Mat4,
  type Quat,
  type Vec3,
} from '../math'
import { transformMesh } from '../mesh'
import type { Take } from '../motion'
import type { Skeleton, WorldPose } from '../skeleton'
import type { Rig } from './rig'

/** A skeleton moved by a rotation, an even scale and a shift. Its joints turn along; their lengths scale. */
export function transformSkeleton(skeleton: Skeleton, m: Mat4): Skeleton {
  const { rotation, size } = partsOf(m)
  const n = skeleton.names.length
  const restTranslations = new Float32Array(3 * n)
  const restRotations = skeleton.restRotations.slice()
  for (let j = 0; j < n; j++)
    moveLocal(
      skeleton.parents[j] < 0,
      skeleton.restTranslations,
      skeleton.restRotations,
      j,
      restTranslations,
      restRotations,
      m,
      rotation,
      size,
    )
  return {
    ...skeleton,
    restTranslations,
    restRotations,
    tips: skeleton.tips?.map(v => v * size),
    bind: skeleton.bind && movePose(skeleton.bind, m, rotation),
  }
}

/** A take of the same skeleton, moved alike. */
export function transformTake(take: Take, parents: Int16Array, m: Mat4): Take {
  const { rotation, size } = partsOf(m)
  const n = parents.length
  const translations = new Float32Array(take.translations.length)
  const rotations = take.rotations.slice()
  for (let i = 0; i < n * take.frames; i++)
    moveLocal(parents[i % n] < 0, take.translations, take.rotations, i, translations, rotations, m, rotation, size)
  const { root } = take
  if (!root) return { ...take, translations, rotations }
  const moved = { translations: root.translations.slice(), rotations: root.rotations.slice() }
  for (let f = 0; f < take.frames; f++) {
    setVec3(moved.translations, f, transformPoint(m, vec3At(root.translations, f)))
    setQuat(moved.rotations, f, multiply(rotation, quatAt(root.rotations, f)))
  }
  return { ...take, translations, rotations, root: moved }
}

/** Body, skeleton and takes moved together. */
export function transformRig(rig: Rig, m: Mat4): Rig {
  return {
    ...rig,
    mesh: rig.mesh && transformMesh(rig.mesh, m),
    skeleton: transformSkeleton(rig.skeleton, m),
    takes: rig.takes.map(t => transformTake(t, rig.skeleton.parents, m)),
  }
}

function partsOf(m: Mat4): { rotation: Quat; size: number } {
  const { rotation, scale: s } = decompose(m)
  return { rotation, size: (s[0] + s[1] + s[2]) / 3 }
}

function moveLocal(
  root: boolean,
  t: ArrayLike<number>,
  r: ArrayLike<number>,
  i: number,
  outT: Float32Array,
  outR: Float32Array,
  m: Mat4,
  rotation: Quat,
  size: number,
): void {
  const p: Vec3 = vec3At(t, i)
  setVec3(outT, i, root ? transformPoint(m, p) : scale(p, size))
  if (root) setQuat(outR, i, multiply(rotation, quatAt(r, i)))
}

function movePose(pose: WorldPose, m: Mat4, rotation: Quat): WorldPose {
  const positions = new Float64Array(pose.positions.length)
  const rotations = new Float64Array(pose.rotations.length)
  for (let j = 0; j < positions.length / 3; j++) {
    setVec3(positions, j, transformPoint(m, vec3At(pose.positions, j)))
    setQuat(rotations, j, multiply(rotation, quatAt(pose.rotations, j)))
  }
  return { positions, rotations }
}
