import { Bone, BufferAttribute, BufferGeometry, Color, FrontSide, Matrix4, Mesh as ThreeMesh, MeshLambertMaterial, Object3D, Skeleton as ThreeSkeleton, SkinnedMesh } from 'three'
import type { Mesh } from '@chiraxis/core/mesh'
import { inverseBindMatrices, type Skeleton } from '@chiraxis/core/skeleton'
import type { Skin } from '@chiraxis/core/skin'
import { ramp } from './ramp'

/** The figure's body on the stage: still, or bent by its skeleton on the GPU. */
export class BodyOnStage {
  readonly object = new Object3D()
  private readonly material = new MeshLambertMaterial({ vertexColors: true, side: FrontSide })
  private geometry?: BufferGeometry
  private still?: ThreeMesh
  private skinned?: SkinnedMesh
  private bones: Bone[] = []
  private ownColors?: Float32Array

  setMesh(mesh: Mesh | undefined): void {
    this.clear()
    if (!mesh) return
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    geometry.setIndex(new BufferAttribute(mesh.indices, 1))
    if (mesh.normals) geometry.setAttribute('normal', new BufferAttribute(mesh.normals, 3))
    else geometry.computeVertexNormals()
    this.ownColors = colorsOf(mesh)
    geometry.setAttribute('color', new BufferAttribute(this.ownColors.slice(), 3))
    this.geometry = geometry
    this.still = new ThreeMesh(geometry, this.material)
    this.still.frustumCulled = false
    this.object.add(this.still)
  }

  /** Binds the body to a skeleton; undefined makes it still again. */
  setSkin(skeleton: Skeleton | undefined, skin: Skin | undefined): void {
    this.unskin()
    if (!this.geometry || !this.still || !skeleton || !skin) return
    const vertices = this.geometry.getAttribute('position').count
    if (skin.joints.length !== vertices * skin.influences) return
    const index = new Uint16Array(4 * vertices)
    const weight = new Float32Array(4 * vertices)
    for (let v = 0; v < vertices; v++) {
      let sum = 0
      const n = Math.min(4, skin.influences)
      for (let k = 0; k < n; k++) sum += skin.weights[v * skin.influences + k]!
      for (let k = 0; k < n; k++) {
        index[4 * v + k] = skin.joints[v * skin.influences + k]!
        weight[4 * v + k] = sum > 0 ? skin.weights[v * skin.influences + k]! / sum : 0
      }
    }
    this.geometry.setAttribute('skinIndex', new BufferAttribute(index, 4))
    this.geometry.setAttribute('skinWeight', new BufferAttribute(weight, 4))
    this.bones = skeleton.names.map(() => new Bone())
    skeleton.parents.forEach((p, j) => { if (p >= 0) this.bones[p]!.add(this.bones[j]!) })
    const inverses = inverseBindMatrices(skeleton)
    this.skinned = new SkinnedMesh(this.geometry, this.material)
    this.skinned.frustumCulled = false
    skeleton.parents.forEach((p, j) => { if (p < 0) this.skinned!.add(this.bones[j]!) })
    this.skinned.bind(new ThreeSkeleton(this.bones, this.bones.map((_, j) => new Matrix4().fromArray(inverses, 16 * j))), new Matrix4())
    this.object.remove(this.still)
    this.object.add(this.skinned)
    this.setPose(skeleton.restTranslations, skeleton.restRotations, 0)
  }

  get isSkinned(): boolean { return this.skinned !== undefined }

  /** Local joint values, from `offset` joints on. */
  setPose(translations: ArrayLike<number>, rotations: ArrayLike<number>, offset: number): void {
    this.bones.forEach((bone, j) => {
      bone.position.fromArray(translations as number[], 3 * (offset + j))
      bone.quaternion.fromArray(rotations as number[], 4 * (offset + j))
    })
  }

  /** Values 0..1 per vertex as a heat map; undefined brings the body's own colours back. */
  setHeat(values: Float32Array | undefined): void {
    const attribute = this.geometry?.getAttribute('color') as BufferAttribute | undefined
    if (!attribute || !this.ownColors) return
    if (values) {
      const table = Array.from({ length: 256 }, (_, i) => new Color().setRGB(...ramp(i / 255), 'srgb'))
      for (let v = 0; v < values.length; v++) {
        const c = table[Math.round(255 * Math.min(1, Math.max(0, values[v]!)))]!
        attribute.setXYZ(v, c.r, c.g, c.b)
      }
    } else attribute.array.set(this.ownColors)
    attribute.needsUpdate = true
  }

  /** 1 is solid. */
  setOpacity(opacity: number): void {
    this.material.transparent = opacity < 1
    this.material.opacity = opacity
    this.material.needsUpdate = true
  }

  private unskin(): void {
    if (!this.skinned) return
    this.object.remove(this.skinned)
    this.skinned.skeleton.dispose()
    this.skinned = undefined
    this.bones = []
    if (this.still) this.object.add(this.still)
  }

  private clear(): void {
    this.unskin()
    if (this.still) this.object.remove(this.still)
    this.geometry?.dispose()
    this.still = this.geometry = undefined
  }

  dispose(): void {
    this.clear()
    this.material.dispose()
  }
}

/** Colour of every vertex: its own times that of its part. */
function colorsOf(mesh: Mesh): Float32Array {
  const out = mesh.colors ? mesh.colors.slice() : new Float32Array(mesh.positions.length).fill(1)
  const done = new Uint8Array(mesh.positions.length / 3)
  for (const part of mesh.parts) {
    const [r, g, b] = part.color
    for (let i = part.start; i < part.start + part.count; i++) {
      const v = mesh.indices[i]!
      if (done[v]) continue
      done[v] = 1
      out[3 * v]! *= r
      out[3 * v + 1]! *= g
      out[3 * v + 2]! *= b
    }
  }
  return out
}
