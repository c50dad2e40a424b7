import {
  Bone,
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  FrontSide,
  Matrix4,
  Mesh as ThreeMesh,
  MeshLambertMaterial,
  Object3D,
  RepeatWrapping,
  Skeleton as ThreeSkeleton,
  SkinnedMesh,
  SRGBColorSpace,
  Texture,
} from 'three'
import type { ImageFile, LightParts, Material, Mesh } from '@chiraxis/core/mesh'
import { inverseBindMatrices, type Skeleton } from '@chiraxis/core/skeleton'
import type { Skin } from '@chiraxis/core/skin'
import type { Drive } from '@chiraxis/core/corrective'
import { FaceOnSurface, type SurfaceShape } from './face'
import { ramp } from './ramp'
import { colorsOf, putRow } from './vertices'

/** Textures larger than this are drawn smaller; the figure keeps them as they came. */
const LARGEST_TEXTURE = 1024

/** The figure's body on the stage: still, or bent by its skeleton on the GPU. */
export class BodyOnStage {
  readonly object = new Object3D()
  private readonly plain = new MeshLambertMaterial({
    vertexColors: true,
    side: FrontSide,
    // lines drawn on the surface lie before it
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  })
  private own: MeshLambertMaterial[] = []
  private geometry?: BufferGeometry
  private whole?: BufferAttribute
  /** Fewer triangles for small and passing pictures. */
  private rough?: { readonly index: BufferAttribute; readonly ranges: Uint32Array }
  private isRough = false
  private mesh?: Mesh
  private still?: ThreeMesh
  private skinned?: SkinnedMesh
  private bones: Bone[] = []
  private ownColors?: Float32Array
  private hidden: ReadonlySet<string> = new Set()
  private heated = false
  private bent?: ThreeMesh
  /** How strongly each shape shows in a pose. */
  private drive?: Drive
  private shapesShown = true
  private face?: FaceOnSurface
  /** The shapes it was made of. */
  private faceShapes?: readonly SurfaceShape[]

  /** @param changed told when an image has been decoded and the body should be drawn again */
  setMesh(
    mesh: Mesh | undefined,
    materials: readonly Material[] = [],
    images: readonly ImageFile[] = [],
    changed: () => void = () => undefined,
  ): void {
    this.clear()
    this.mesh = mesh
    if (!mesh) return
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    this.whole = new BufferAttribute(mesh.indices, 1)
    geometry.setIndex(this.whole)
    if (mesh.normals) geometry.setAttribute('normal', new BufferAttribute(mesh.normals, 3))
    else geometry.computeVertexNormals()
    if (mesh.uvs) geometry.setAttribute('uv', new BufferAttribute(mesh.uvs, 2))
    this.ownColors = colorsOf(mesh)
    geometry.setAttribute('color', new BufferAttribute(this.ownColors.slice(), 3))
    this.geometry = geometry
    this.own = materials.map(m => this.materialFor(m, images, changed))
    this.still = new ThreeMesh(geometry, this.plain)
    this.still.frustumCulled = false
    this.object.add(this.still)
    this.regroup()
  }

  /** Fewer triangles over the same vertices, part by part; undefined where every picture shows all of them. */
  setRough(parts: LightParts | undefined): void {
    this.drawRough(false)
    this.rough = parts && { index: new BufferAttribute(parts.indices, 1), ranges: parts.ranges }
  }

  get hasRough(): boolean {
    return this.rough !== undefined
  }

  /** Whether the next picture shows fewer triangles. */
  drawRough(on: boolean): void {
    const rough = on && this.rough !== undefined
    if (rough === this.isRough || !this.geometry) return
    this.isRough = rough
    this.geometry.setIndex(rough ? this.rough!.index : this.whole!)
    this.bent?.geometry.setIndex(this.geometry.getIndex())
    this.regroup()
  }

  /** Pieces that are not drawn. */
  setHidden(names: ReadonlySet<string>): void {
    this.hidden = names
    this.regroup()
  }

  /** One group a piece where pieces are hidden or textured; the whole at once elsewhere. */
  private regroup(): void {
    const { geometry, mesh } = this
    if (!geometry || !mesh) return
    const textured = !this.heated && mesh.parts.some(p => p.material !== undefined && this.own[p.material]?.map)
    geometry.clearGroups()
    const some = textured || mesh.parts.some(p => this.hidden.has(p.name))
    const list = some ? [this.plain, ...this.own] : this.plain
    if (some)
      mesh.parts.forEach((p, i) => {
        if (this.hidden.has(p.name)) return
        const own = textured && p.material !== undefined && this.own[p.material]?.map ? 1 + p.material : 0
        const ranges = this.isRough ? this.rough!.ranges : undefined
        geometry.addGroup(ranges?.[2 * i] ?? p.start, ranges?.[2 * i + 1] ?? p.count, own)
      })
    if (this.still) this.still.material = list
    if (this.skinned) this.skinned.material = list
    if (this.bent) {
      this.bent.material = list
      this.bent.geometry.groups = geometry.groups
    }
  }

  private materialFor(m: Material, images: readonly ImageFile[], changed: () => void): MeshLambertMaterial {
    const out = new MeshLambertMaterial({
      color: new Color(...m.color),
      vertexColors: false,
      side: m.doubleSided ? DoubleSide : FrontSide,
      alphaTest: m.blend === 'mask' ? 0.5 : 0,
    })
    const load = async (at: number | undefined, slot: 'map' | 'normalMap'): Promise<void> => {
      const image = at === undefined ? undefined : images[at]
      if (!image) return
      try {
        const blob = new Blob([image.bytes as Uint8Array<ArrayBuffer>], { type: image.mime })
        const whole = await createImageBitmap(blob)
        const shrink = Math.min(1, LARGEST_TEXTURE / Math.max(whole.width, whole.height))
        const bitmap =
          shrink < 1
            ? await createImageBitmap(whole, {
                resizeWidth: Math.round(whole.width * shrink),
                resizeHeight: Math.round(whole.height * shrink),
              })
            : whole
        const texture = new Texture(bitmap)
        texture.flipY = false
        texture.wrapS = texture.wrapT = RepeatWrapping
        if (slot === 'map') texture.colorSpace = SRGBColorSpace
        texture.needsUpdate = true
        out[slot] = texture
        out.needsUpdate = true
        this.regroup()
        changed()
      } catch {
        // an image the browser cannot decode leaves the plain colour
      }
    }
    void load(m.maps.color, 'map')
    void load(m.maps.normal, 'normalMap')
    return out
  }

  /** Binds the body to a skeleton; undefined makes it still again. */
  setSkin(skeleton: Skeleton | undefined, skin: Skin | undefined): void {
    this.unskin()
    if (!this.geometry || !this.still || !skeleton || !skin) return
    const vertices = this.geometry.getAttribute('position').count
    if (skin.joints.length !== vertices * skin.influences) return
    const index = new Uint16Array(4 * vertices)
    const weight = new Float32Array(4 * vertices)
    for (let v = 0; v < vertices; v++)
      putRow(index, weight, v, skin.joints, skin.weights, v * skin.influences, skin.influences)
    this.geometry.setAttribute('skinIndex', new BufferAttribute(index, 4))
    this.geometry.setAttribute('skinWeight', new BufferAttribute(weight, 4))
    this.bones = skeleton.names.map(() => new Bone())
    skeleton.parents.forEach((p, j) => {
      if (p >= 0) this.bones[p]!.add(this.bones[j]!)
    })
    const inverses = inverseBindMatrices(skeleton)
    this.skinned = new SkinnedMesh(this.geometry, this.still.material)
    this.skinned.frustumCulled = false
    skeleton.parents.forEach((p, j) => {
      if (p < 0) this.skinned!.add(this.bones[j]!)
    })
    this.skinned.bind(
      new ThreeSkeleton(
        this.bones,
        this.bones.map((_, j) => new Matrix4().fromArray(inverses, 16 * j)),
      ),
      new Matrix4(),
    )
    this.object.remove(this.still)
    this.object.add(this.skinned)
    this.setPose(skeleton.restTranslations, skeleton.restRotations, 0)
  }

  /** Takes over the influences of some vertices while they are painted. @param rowOf where a vertex's row is in the skin */
  setRows(vertices: Iterable<number>, skin: Skin, rowOf: ArrayLike<number>, most: number): void {
    const index = this.geometry?.getAttribute('skinIndex') as BufferAttribute | undefined
    const weight = this.geometry?.getAttribute('skinWeight') as BufferAttribute | undefined
    if (!index || !weight) return
    for (const v of vertices)
      putRow(
        index.array as Uint16Array,
        weight.array as Float32Array,
        v,
        skin.joints,
        skin.weights,
        rowOf[v]! * skin.influences,
        Math.min(skin.influences, most),
      )
    index.needsUpdate = true
    weight.needsUpdate = true
  }

  /** Colours of some vertices on the heat ramp. */
  setHeatOf(vertices: Iterable<number>, value: (vertex: number) => number): void {
    const attribute = this.geometry?.getAttribute('color') as BufferAttribute | undefined
    if (!attribute || !this.heated) return
    for (const v of vertices) {
      const c = rampColor(value(v))
      attribute.setXYZ(v, c.r, c.g, c.b)
    }
    attribute.needsUpdate = true
  }

  /** Linear colours per vertex in place of the body's own. */
  setColors(colors: Float32Array): void {
    const attribute = this.geometry?.getAttribute('color') as BufferAttribute | undefined
    if (!attribute) return
    attribute.array.set(colors)
    attribute.needsUpdate = true
    this.heated = true
    this.regroup()
  }

  /** Shapes the body takes while its joints are turned: how far each vertex goes, 3·V, and what drives them. */
  setShapes(offsets: readonly Float32Array[], drive: Drive): void {
    const { geometry } = this
    if (!geometry || (offsets.length === 0 && !this.drive)) return
    const fit = offsets.every(o => o.length === geometry.getAttribute('position').array.length)
    // textures of shapes are made once a geometry; other ones need it to be uploaded anew
    geometry.dispose()
    geometry.morphTargetsRelative = true
    if (offsets.length > 0 && fit) geometry.morphAttributes.position = offsets.map(o => new BufferAttribute(o, 3))
    else delete geometry.morphAttributes.position
    this.drive = offsets.length > 0 && fit ? drive : undefined
    this.still?.updateMorphTargets()
    this.skinned?.updateMorphTargets()
    this.poseShapes()
  }

  /** Shapes of the face that expressions show. */
  setFaceShapes(shapes: readonly SurfaceShape[]): void {
    const { geometry, mesh } = this
    if (!geometry || !mesh || this.faceShapes === shapes) return
    this.faceShapes = shapes
    this.face?.show({})
    this.face = undefined
    const fit = shapes.filter(s => s.offsets.length === mesh.positions.length)
    if (fit.length === 0) return
    // the body itself is others' too and stays as it is
    const position = geometry.getAttribute('position') as BufferAttribute
    const normal = geometry.getAttribute('normal') as BufferAttribute
    if (position.array === mesh.positions)
      geometry.setAttribute('position', new BufferAttribute(mesh.positions.slice(), 3))
    if (normal.array === mesh.normals) geometry.setAttribute('normal', new BufferAttribute(mesh.normals.slice(), 3))
    this.face = new FaceOnSurface(geometry, fit)
  }

  /** Shows expressions, by the names of their shapes. @returns whether anything changed */
  setFace(weights: Readonly<Record<string, number>>): boolean {
    return this.face?.show(weights) ?? false
  }

  /** Whether shapes are drawn at all. */
  showShapes(shown: boolean): void {
    this.shapesShown = shown
    this.poseShapes()
  }

  private poseShapes(): void {
    const influences = this.skinned?.morphTargetInfluences
    if (!influences || !this.drive) return
    const rotations = this.bones.flatMap(b => b.quaternion.toArray())
    const weights = this.drive.weights(rotations)
    weights.forEach((w, i) => (influences[i] = this.shapesShown ? w : 0))
  }

  /** Shows the body bent by other means than its joints; undefined gives it back to them. */
  setBent(positions: Float32Array | undefined): void {
    if (!this.geometry || !this.mesh) return
    if (!positions) {
      if (!this.bent) return
      this.object.remove(this.bent)
      this.bent.geometry.dispose()
      this.bent = undefined
      if (this.skinned) this.skinned.visible = true
      return
    }
    if (!this.bent) {
      const geometry = new BufferGeometry()
      geometry.setIndex(this.geometry.getIndex())
      geometry.setAttribute('position', new BufferAttribute(positions.slice(), 3))
      for (const name of ['color', 'uv'])
        if (this.geometry.hasAttribute(name)) geometry.setAttribute(name, this.geometry.getAttribute(name))
      geometry.groups = this.geometry.groups
      this.bent = new ThreeMesh(geometry, this.still?.material ?? this.plain)
      this.bent.frustumCulled = false
      this.object.add(this.bent)
    } else {
      const attribute = this.bent.geometry.getAttribute('position') as BufferAttribute
      attribute.array.set(positions)
      attribute.needsUpdate = true
    }
    this.bent.geometry.computeVertexNormals()
    if (this.skinned) this.skinned.visible = false
  }

  get isSkinned(): boolean {
    return this.skinned !== undefined
  }

  /** Local joint values, from `offset` joints on. */
  setPose(translations: ArrayLike<number>, rotations: ArrayLike<number>, offset: number): void {
    this.bones.forEach((bone, j) => {
      bone.position.fromArray(translations as number[], 3 * (offset + j))
      bone.quaternion.fromArray(rotations as number[], 4 * (offset + j))
    })
    this.poseShapes()
  }

  /** Values 0..1 per vertex as a heat map; undefined brings the body's own colours back. */
  setHeat(values: Float32Array | undefined): void {
    const attribute = this.geometry?.getAttribute('color') as BufferAttribute | undefined
    if (!attribute || !this.ownColors) return
    if (values) {
      for (let v = 0; v < values.length; v++) {
        const c = rampColor(values[v]!)
        attribute.setXYZ(v, c.r, c.g, c.b)
      }
    } else attribute.array.set(this.ownColors)
    attribute.needsUpdate = true
    this.heated = values !== undefined
    this.regroup()
  }

  /** 1 is solid. */
  setOpacity(opacity: number): void {
    for (const m of [this.plain, ...this.own]) {
      m.transparent = opacity < 1
      m.opacity = opacity
      m.needsUpdate = true
    }
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
    this.setBent(undefined)
    this.drive = undefined
    this.face = this.faceShapes = undefined
    this.unskin()
    if (this.still) this.object.remove(this.still)
    this.geometry?.dispose()
    for (const m of this.own) {
      m.map?.dispose()
      m.normalMap?.dispose()
      m.dispose()
    }
    this.own = []
    this.heated = false
    this.rough = undefined
    this.isRough = false
    this.still = this.geometry = this.whole = this.mesh = undefined
  }

  dispose(): void {
    this.clear()
    this.plain.dispose()
  }
}

const TABLE = Array.from({ length: 256 }, (_, i) => new Color().setRGB(...ramp(i / 255), 'srgb'))
const rampColor = (value: number): Color => TABLE[Math.round(255 * Math.min(1, Math.max(0, value)))]!
