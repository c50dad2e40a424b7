import {
  Bone,
  BufferGeometry,
  Float32BufferAttribute,
  Skeleton as ThreeSkeleton,
  SkinnedMesh,
  Uint16BufferAttribute,
} from 'three'
import type { Skeleton } from '@chiraxis/core/skeleton'

/** A skeleton as the 3D library's helpers take it: bones of a mesh of one point, at rest. */
export function threeMesh(skeleton: Skeleton): SkinnedMesh {
  const bones = skeleton.names.map((name, j) => {
    const bone = new Bone()
    bone.name = name.replace(/[:.]/g, '_')
    bone.position.fromArray(skeleton.restTranslations, 3 * j)
    bone.quaternion.fromArray(skeleton.restRotations, 4 * j)
    return bone
  })
  skeleton.parents.forEach((p, j) => {
    if (p >= 0) bones[p].add(bones[j])
  })
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new Float32BufferAttribute([0, 0, 0], 3))
  geometry.setAttribute('skinIndex', new Uint16BufferAttribute([0, 0, 0, 0], 4))
  geometry.setAttribute('skinWeight', new Float32BufferAttribute([1, 0, 0, 0], 4))
  const mesh = new SkinnedMesh(geometry)
  mesh.add(bones[0])
  mesh.bind(new ThreeSkeleton(bones))
  mesh.updateMatrixWorld(true)
  return mesh
}
