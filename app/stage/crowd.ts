import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DataTexture,
  FloatType,
  Group,
  InstancedMesh,
  type Material as ThreeMaterial,
  MeshLambertMaterial,
  NearestFilter,
  RGBAFormat,
} from 'three'
import type { Mesh } from '@chiraxis/core/mesh'
import type { Skin } from '@chiraxis/core/skin'
import { colorsOf, putRow } from './vertices'

/** A figure many agents look like. */
export interface CrowdKind {
  readonly mesh: Mesh
  readonly skin: Skin
  readonly joints: number
  /** Triangles that are drawn of it. */
  readonly index: Uint32Array
  /** Linear colours, one an agent. */
  readonly tints: readonly (readonly [number, number, number])[]
}

/**
 * A crowd, one draw a kind: every agent's joints lie in a row of a texture (a turn and a shift away from the bind pose, two
 * texels a joint), and the GPU skins by them.
 */
export class CrowdOnStage {
  readonly object = new Group()
  private kinds: { mesh: InstancedMesh; poses: DataTexture }[] = []

  set(kinds: readonly CrowdKind[]): void {
    this.clear()
    for (const kind of kinds) {
      const agents = kind.tints.length
      if (agents === 0) continue
      const poses = new DataTexture(new Float32Array(8 * kind.joints * agents), 2 * kind.joints, agents, RGBAFormat, FloatType) // prettier-ignore
      poses.minFilter = poses.magFilter = NearestFilter
      const mesh = new InstancedMesh(geometryOf(kind), skinnedBy(poses), agents)
      mesh.frustumCulled = false
      const c = new Color()
      kind.tints.forEach((t, i) => mesh.setColorAt(i, c.setRGB(...(t as [number, number, number]))))
      this.kinds.push({ mesh, poses })
      this.object.add(mesh)
    }
  }

  /** Where every joint and every agent is now, kind by kind. @param shown agents that are drawn of each, the first ones */
  pose(joints: readonly Float32Array[], matrices: readonly Float32Array[], shown?: readonly number[]): void {
    this.kinds.forEach(({ mesh, poses }, k) => {
      if (joints[k]?.length !== (poses.image.data as Float32Array).length) return
      ;(poses.image.data as Float32Array).set(joints[k])
      poses.needsUpdate = true
      ;(mesh.instanceMatrix.array as Float32Array).set(matrices[k]!)
      mesh.instanceMatrix.needsUpdate = true
      mesh.count = Math.min(shown?.[k] ?? Infinity, matrices[k]!.length / 16)
    })
  }

  private clear(): void {
    for (const { mesh, poses } of this.kinds) {
      this.object.remove(mesh)
      mesh.geometry.dispose()
      ;(mesh.material as ThreeMaterial).dispose()
      mesh.dispose()
      poses.dispose()
    }
    this.kinds = []
  }
  dispose(): void {
    this.clear()
  }
}

function geometryOf({ mesh, skin, index }: CrowdKind): BufferGeometry {
  const geometry = new BufferGeometry()
  const vertices = mesh.positions.length / 3
  geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
  geometry.setIndex(new BufferAttribute(index, 1))
  if (mesh.normals) geometry.setAttribute('normal', new BufferAttribute(mesh.normals, 3))
  else geometry.computeVertexNormals()
  geometry.setAttribute('color', new BufferAttribute(colorsOf(mesh), 3))
  // four joints a vertex: the strongest come first in a skin
  const rows = new Float32Array(4 * vertices),
    weights = new Float32Array(4 * vertices)
  for (let v = 0; v < vertices; v++)
    putRow(rows, weights, v, skin.joints, skin.weights, v * skin.influences, skin.influences)
  geometry.setAttribute('rows', new BufferAttribute(rows, 4))
  geometry.setAttribute('shares', new BufferAttribute(weights, 4))
  return geometry
}

/** A plain material whose vertices are bent by rows of a texture. */
function skinnedBy(poses: DataTexture): MeshLambertMaterial {
  const material = new MeshLambertMaterial({ vertexColors: true })
  material.onBeforeCompile = shader => {
    shader.uniforms.poses = { value: poses }
    shader.vertexShader = shader.vertexShader
      .replace(
        '#include <common>',
        `#include <common>
uniform highp sampler2D poses;
attribute vec4 rows;
attribute vec4 shares;
vec3 turned(vec4 q, vec3 v) { return v + 2.0 * cross(q.xyz, cross(q.xyz, v) + q.w * v); }
vec4 poseOf(float joint, int part) { return texelFetch(poses, ivec2(2 * int(joint) + part, gl_InstanceID), 0); }`,
      )
      .replace(
        '#include <beginnormal_vertex>',
        `vec3 objectNormal = vec3(0.0);
vec3 bent = vec3(0.0);
for (int k = 0; k < 4; k++) {
  if (shares[k] <= 0.0) continue;
  vec4 q = poseOf(rows[k], 0);
  bent += shares[k] * (turned(q, position) + poseOf(rows[k], 1).xyz);
  objectNormal += shares[k] * turned(q, normal);
}`,
      )
      .replace('#include <begin_vertex>', 'vec3 transformed = bent;')
  }
  return material
}
