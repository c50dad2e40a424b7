import {
  AmbientLight,
  BufferAttribute,
  BufferGeometry,
  CanvasTexture,
  DirectionalLight,
  Group,
  HemisphereLight,
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  Points,
  PointsMaterial,
  OrthographicCamera,
  Plane,
  PlaneGeometry,
  type Ray,
  Raycaster,
  Scene,
  Spherical,
  Vector2,
  Vector3,
  WebGLRenderer,
  WebGLRenderTarget,
} from 'three'
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js'
import { type ImageFile, type LightParts, type Material, type Mesh, boundsOf } from '@chiraxis/core/mesh'
import type { Skeleton } from '@chiraxis/core/skeleton'
import type { Patch } from '@chiraxis/core/trial'
import type { Drive } from '@chiraxis/core/corrective'
import type { Skin } from '@chiraxis/core/skin'
import type { ViewName } from '~/stores/view'
import { BodyOnStage } from './body'
import { CrowdOnStage, type CrowdKind } from './crowd'
import type { SurfaceShape } from './face'
import { FloorOnStage } from './floor'
import { WiresOnStage } from './wires'
import { PropsOnStage, type DrawnPlace, type PropToDraw } from './props'
import { SurfacePicker, type SurfaceHit } from './picker'
import { createCameras, fitCamera, reshapeCamera, type Extent, type Rect } from './views'

export interface Placed {
  readonly view: ViewName
  readonly rect: Rect
  readonly main: boolean
}
type Point = readonly [number, number, number]
const SHEETS_IN_SOFTWARE_MS = 240
/** Pictures of the large view between two of the sheets, at the least. */
const PICTURES_BETWEEN = 6
/** While things are still being worked out, a picture in software waits this long for the next: both want the same cores. */
const UNFINISHED_IN_SOFTWARE_MS = 500
/** The large view shows every triangle again when nothing has moved for so long. */
const STILL_MS = 300
/** The longest the sheets wait, and how often those of a crowd are drawn. */
const SHEETS_AT_LAST_MS = 450,
  CROWD_SHEETS_MS = 1500
/** A colour the heat ramp does not have. */
const MARKED = 0xff8a75

const lengthOf = ({ min, max }: Extent): number => max.distanceTo(min)

/**
 * Everything three.js: one canvas under the large view and the sheets. Draws only when something
 * changed; on a renderer in software it gives up anti-aliasing and sharp pixels by itself.
 */
export class Stage {
  private readonly renderer: WebGLRenderer
  private readonly scene = new Scene()
  private readonly world = new Group()
  private readonly body = new BodyOnStage()
  private readonly props = new PropsOnStage()
  private readonly floor = new FloorOnStage()
  private readonly crowd = new CrowdOnStage()
  private readonly wires = new WiresOnStage(MARKED)
  private readonly cameras = createCameras()
  private readonly controls: Partial<Record<ViewName, OrbitControls>> = {}
  private readonly shadow: ThreeMesh
  private readonly tape: LineSegments
  private placed: readonly Placed[] = []
  private extent: Extent = { min: new Vector3(-0.8, 0, -0.2), max: new Vector3(0.8, 1.75, 0.2) }
  private fitted = new Set<string>()
  private readonly dirty = { main: false, sheets: false }
  private handle = 0
  private sheetsAt = -Infinity
  private drawnAt = -Infinity
  private pace = 0
  private sheetsLater?: ReturnType<typeof setTimeout>
  private unfinished = false
  private unfinishedLater?: ReturnType<typeof setTimeout>
  private wholeLater?: ReturnType<typeof setTimeout>
  private passing = false
  private readonly listeners = new Set<() => void>()
  private widened = 0
  private closeUp?: Extent
  private tapeWanted = false
  private floored = false
  private crowded = false
  private crowdSheetsAt = -Infinity
  private focus: Point = [0, 0, 0]
  private lastPose?: [ArrayLike<number>, ArrayLike<number>, number]
  private small?: WebGLRenderTarget
  private marks?: Points<BufferGeometry, PointsMaterial>
  /** Small pictures show form, not colours. */
  private readonly clay = new MeshLambertMaterial({ color: 0xd8cdb8 })
  readonly picker = new SurfacePicker()
  /** Whether WebGL runs in software here. */
  readonly isSoft: boolean

  constructor(private readonly canvas: HTMLCanvasElement) {
    const probe = document.createElement('canvas').getContext('webgl2')
    const info = probe?.getExtension('WEBGL_debug_renderer_info')
    const name = info && probe ? String(probe.getParameter(info.UNMASKED_RENDERER_WEBGL)) : ''
    this.isSoft = /swiftshader|llvmpipe|software/i.test(name)
    probe?.getExtension('WEBGL_lose_context')?.loseContext()
    this.renderer = new WebGLRenderer({ canvas, antialias: !this.isSoft, alpha: true, preserveDrawingBuffer: true })
    this.renderer.setPixelRatio(this.isSoft ? 1 : Math.min(2, window.devicePixelRatio))
    this.renderer.setScissorTest(true)
    this.renderer.autoClear = false
    this.renderer.setClearColor(0x000000, 0)
    const key = new DirectionalLight(0xfff4e2, 2.1)
    key.position.set(1.2, 2.4, 2.2)
    const fill = new DirectionalLight(0xdde8f2, 0.7)
    fill.position.set(-2, 0.8, 0.6)
    const back = new DirectionalLight(0xffffff, 0.8)
    back.position.set(-0.6, 1.6, -2.4)
    this.scene.add(key, fill, back, new HemisphereLight(0xeef3f4, 0x7c7468, 1.25), new AmbientLight(0xffffff, 0.25))
    this.tape = measuringTape()
    this.shadow = softShadow()
    this.world.add(
      this.body.object,
      this.props.object,
      this.tape,
      this.floor.object,
      this.crowd.object,
      this.wires.object,
    )
    this.scene.add(this.world, this.shadow)
  }

  /** Told after every drawing, when projections may have changed. */
  onDrawn(listener: () => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  /** Puts the views in place, in CSS pixels from the canvas corner. */
  setLayout(placed: readonly Placed[], width: number, height: number): void {
    this.placed = placed
    this.renderer.setSize(width, height, false)
    this.wires.sizeTo(width, height)
    for (const p of placed) {
      const key = `${p.view} ${p.main}`
      // a sheet always shows the whole; only the large view keeps what the person framed
      if (p.main && this.fitted.has(key)) reshapeCamera(this.cameras[p.view], p.rect)
      else this.fit(p)
    }
    this.enableControls()
    this.invalidate()
  }

  /** Frames the body anew in every view. */
  frameAll(): void {
    this.fitted.clear()
    for (const p of this.placed) this.fit(p)
    this.invalidate()
  }

  private fit(p: Placed): void {
    for (const key of [...this.fitted]) if (key.startsWith(`${p.view} `)) this.fitted.delete(key)
    this.fitted.add(`${p.view} ${p.main}`)
    const whole = this.closeUp ?? this.extent
    const extent = { min: whole.min.clone(), max: whole.max.clone() }
    // a stretch of way that is larger than the figure is seen as it is
    const wide = this.closeUp !== undefined && lengthOf(this.closeUp) > lengthOf(this.extent)
    if (this.tapeWanted && !wide) {
      // sheets keep more room for arms than the large view, which is wide
      const reach = (p.main ? 0.2 : 0.3) * (extent.max.y - extent.min.y)
      extent.min.x = Math.max(extent.min.x, -reach)
      extent.max.x = Math.min(extent.max.x, reach)
      extent.min.z = Math.min(-reach, extent.min.z)
      extent.max.z = Math.max(reach, extent.max.z)
    }
    if (p.main && !wide) extent.max.x += this.widened
    const centre = fitCamera(
      p.view,
      this.cameras[p.view],
      extent,
      p.rect,
      p.main
        ? wide
          ? { across: 0.86, along: 0.86, shift: 0, corners: true }
          : { across: this.closeUp ? 0.6 : 0.74, along: this.closeUp ? 0.7 : 0.84, shift: 0.045 }
        : { across: 0.86, along: 0.84, shift: 0 },
    )
    this.controls[p.view]?.target.copy(centre)
    this.controls[p.view]?.update()
  }

  /** Takes turning, shifting and zooming of the large view from an element over it. */
  listenOn(element: HTMLElement): void {
    for (const [name, camera] of Object.entries(this.cameras) as [ViewName, (typeof this.cameras)[ViewName]][]) {
      const controls = new OrbitControls(camera, element)
      controls.enableDamping = false
      controls.enableRotate = name === 'turn'
      controls.screenSpacePanning = true
      controls.minDistance = 0.3
      controls.maxDistance = 20
      controls.addEventListener('change', () => this.invalidate('main'))
      this.controls[name] = controls
    }
    for (const p of this.placed) this.fit(p)
    this.enableControls()
  }

  /** Turns the large view about the figure, radians; views that are not turned are shifted by as many metres. */
  turnBy(across: number, up: number): void {
    const main = this.placed.find(p => p.main)?.view
    const controls = main && this.controls[main]
    if (!main || !controls) return
    const camera = this.cameras[main]
    const away = camera.position.clone().sub(controls.target)
    if (main === 'turn') {
      const at = new Spherical().setFromVector3(away)
      at.theta += across
      at.phi += up
      at.makeSafe()
      camera.position.copy(controls.target).add(new Vector3().setFromSpherical(at))
    } else {
      const shift = new Vector3(across, up, 0).applyQuaternion(camera.quaternion)
      controls.target.add(shift)
      camera.position.add(shift)
    }
    controls.update()
    this.invalidate('main')
  }
  /** Brings the large view nearer, or farther with less than 1. */
  zoomBy(times: number): void {
    const main = this.placed.find(p => p.main)?.view
    const controls = main && this.controls[main]
    if (!main || !controls) return
    const camera = this.cameras[main]
    if ('isOrthographicCamera' in camera) {
      camera.zoom = Math.min(40, Math.max(0.2, camera.zoom * times))
      camera.updateProjectionMatrix()
    } else {
      const away = camera.position.clone().sub(controls.target).divideScalar(times)
      away.clampLength(controls.minDistance, controls.maxDistance)
      camera.position.copy(controls.target).add(away)
    }
    controls.update()
    this.invalidate('main')
  }

  private enableControls(): void {
    const main = this.placed.find(p => p.main)?.view
    for (const [name, controls] of Object.entries(this.controls)) controls.enabled = name === main
  }

  setBody(mesh: Mesh | undefined, materials: readonly Material[] = [], images: readonly ImageFile[] = []): void {
    this.body.setMesh(mesh, materials, images, () => this.invalidate())
    this.picker.setMesh(mesh)
    if (mesh) {
      const { min, max } = boundsOf(mesh.positions)
      const before = this.extent
      this.extent = { min: new Vector3(...min), max: new Vector3(...max) }
      const reach = Math.max(max[1] - min[1], 0.2)
      this.shadow.scale.set(reach * 0.7, reach * 0.5, 1)
      // another surface of the same figure is seen as the one before was
      const off = before.min.distanceTo(this.extent.min) + before.max.distanceTo(this.extent.max)
      if (off > 0.02 * reach) this.frameAll()
    }
    this.invalidate()
  }

  /** Fewer triangles of the body, for small and passing pictures. */
  setRough(parts: LightParts | undefined): void {
    this.body.setRough(parts)
    if (parts) this.invalidate()
  }

  /** Edges drawn on the body as it stands at rest, and those of some loops marked. */
  setWires(positions: Float32Array | undefined, edges?: Uint32Array): void {
    this.wires.set(positions, edges)
    this.invalidate()
  }
  markWires(ends: readonly number[]): void {
    this.wires.mark(ends)
    this.invalidate()
  }

  /** What the figure carries. */
  setProps(list: readonly PropToDraw[]): void {
    this.props.set(list, () => this.invalidate())
    this.invalidate()
  }
  /** Where it is; what has no place is not drawn. */
  placeProps(places: ReadonlyMap<string, DrawnPlace>): void {
    this.props.place(places)
    this.invalidate()
  }

  /** What the figure is led over. */
  setFloor(floor: readonly Patch[] | Mesh | undefined): void {
    this.floor.set(floor)
    this.floored = floor !== undefined
    this.invalidate()
  }
  /** Many figures in the place of the one. */
  setCrowd(kinds: readonly CrowdKind[]): void {
    this.crowd.set(kinds)
    this.crowdSheetsAt = -Infinity
    this.body.object.visible = kinds.length === 0
    this.crowded = kinds.length > 0
    this.invalidate()
  }
  poseCrowd(joints: readonly Float32Array[], matrices: readonly Float32Array[], shown?: readonly number[]): void {
    this.crowd.pose(joints, matrices, shown)
    // the sheets follow now and then
    const now = performance.now()
    const sheets = now - this.crowdSheetsAt > CROWD_SHEETS_MS
    if (sheets) this.crowdSheetsAt = now
    this.invalidate(sheets ? 'all' : 'main')
  }

  /** Turns the view in the round to look from so many radians to the left of ahead, and how high over the level. */
  lookFrom(around: number, above?: number): void {
    const controls = this.controls.turn
    const camera = this.cameras.turn
    if (!controls) return
    const offset = camera.position.clone().sub(controls.target)
    const far = offset.length()
    const up = above ?? Math.asin(Math.min(1, Math.max(-1, offset.y / far)))
    camera.position
      .set(Math.sin(around) * Math.cos(up), Math.sin(up), Math.cos(around) * Math.cos(up))
      .multiplyScalar(far)
      .add(controls.target)
    camera.lookAt(controls.target)
    this.invalidate()
  }

  /** Pieces that are not drawn. */
  setHidden(names: ReadonlySet<string>): void {
    this.body.setHidden(names)
    this.invalidate()
  }

  /** Frames a part of the body in every view, or the whole again. */
  setCloseUp(part: { min: Point; max: Point } | undefined): void {
    const next = part && { min: new Vector3(...part.min), max: new Vector3(...part.max) }
    const same =
      next && this.closeUp
        ? next.min.distanceTo(this.closeUp.min) + next.max.distanceTo(this.closeUp.max) < 1e-4
        : next === this.closeUp
    if (same) return
    this.closeUp = next
    this.frameAll()
  }

  setSkin(skeleton: Skeleton | undefined, skin: Skin | undefined): void {
    this.body.setSkin(skeleton, skin)
    this.invalidate()
  }

  /** Shapes the body takes while its joints are turned. */
  setShapes(offsets: readonly Float32Array[], drive: Drive): void {
    this.body.setShapes(offsets, drive)
    this.invalidate()
  }
  /** Shapes of the face that expressions show. */
  setFaceShapes(shapes: readonly SurfaceShape[]): void {
    this.body.setFaceShapes(shapes)
    this.invalidate()
  }
  setFace(weights: Readonly<Record<string, number>>): void {
    if (this.body.setFace(weights)) this.invalidate()
  }
  showShapes(shown: boolean): void {
    this.body.showShapes(shown)
    this.invalidate()
  }

  /** Shows the body bent by other means than its joints; undefined gives it back to them. */
  setBent(positions: Float32Array | undefined): void {
    this.body.setBent(positions)
    this.invalidate()
  }

  /** @param most joints a vertex may keep */
  setRows(vertices: readonly number[], skin: Skin, rowOf: ArrayLike<number>, most: number): void {
    this.body.setRows(vertices, skin, rowOf, most)
    this.invalidate('main')
  }

  setHeatOf(vertices: readonly number[], value: (vertex: number) => number): void {
    this.body.setHeatOf(vertices, value)
    this.invalidate('main')
  }

  /** Draws dots at places of the body as it is shown, 3·n; undefined takes them away. */
  setMarked(places: Float32Array | undefined): void {
    if (this.marks) {
      this.world.remove(this.marks)
      this.marks.geometry.dispose()
      this.marks.material.dispose()
      this.marks = undefined
    }
    if (places) {
      const geometry = new BufferGeometry()
      geometry.setAttribute('position', new BufferAttribute(places, 3))
      const material = new PointsMaterial({ color: MARKED, size: 5, sizeAttenuation: false })
      // drawn a hair nearer, so that the surface they lie on does not swallow them
      material.onBeforeCompile = shader => {
        shader.vertexShader = shader.vertexShader.replace(
          '#include <fog_vertex>',
          '#include <fog_vertex>\n  gl_Position.z -= 0.0008 * gl_Position.w;',
        )
      }
      this.marks = new Points(geometry, material)
      this.marks.frustumCulled = false
      this.world.add(this.marks)
    }
    this.invalidate()
  }

  setColors(colors: Float32Array): void {
    this.body.setColors(colors)
    this.invalidate()
  }

  /** What lies under the pointer on the body in the shape it was last given to be picked in. */
  pick(p: Placed, x: number, y: number): SurfaceHit | undefined {
    return this.picker.cast(this.rayAt(p, x, y))
  }

  /** The middle of what lies under the pointer, through cloth thinner than `thin` metres; undefined beside the body. */
  middleUnder(p: Placed, x: number, y: number, thin: number): Point | undefined {
    return this.picker.middle(this.rayAt(p, x, y), thin)
  }

  private rayAt(p: Placed, x: number, y: number): Ray {
    const ray = new Raycaster()
    ray.setFromCamera(
      new Vector2(((x - p.rect.x) / p.rect.width) * 2 - 1, 1 - ((y - p.rect.y) / p.rect.height) * 2),
      this.cameras[p.view],
    )
    return ray.ray
  }

  /** Metres that a pixel covers at a place of a view. */
  metresPerPixel(p: Placed, at: Point): number {
    const a = this.project(p, at)
    const b = this.unproject(p, a.x + 10, a.y, at)
    return Math.hypot(b[0] - at[0], b[1] - at[1], b[2] - at[2]) / 10 || 1e-6
  }

  /**
   * A small picture of the body in a pose, as a data address.
   * @param clay in one plain colour
   * @param near of this part of the body alone, seen almost from ahead
   */
  pictureOf(
    translations: ArrayLike<number>,
    rotations: ArrayLike<number>,
    width: number,
    height: number,
    clay = true,
    near?: { readonly centre: Point; readonly reach: number },
  ): string {
    const target = (this.small ??= new WebGLRenderTarget(width, height))
    target.setSize(width, height)
    const camera = new OrthographicCamera()
    const wide = { min: this.extent.min.clone(), max: this.extent.max.clone() }
    const tall = wide.max.y - wide.min.y
    const middle = (wide.min.x + wide.max.x) / 2,
      reach = 0.28 * tall
    // room for raised arms
    wide.max.y += 0.26 * tall
    wide.min.x = middle - reach
    wide.max.x = middle + reach
    fitCamera('front', camera, wide, { x: 0, y: 0, width, height }, { across: 0.98, along: 0.9, shift: 0 })
    // half from the side, so that arms and legs ahead are seen
    if (!near) {
      camera.position.applyAxisAngle(new Vector3(0, 1, 0), 0.45)
      camera.lookAt(middle, (wide.min.y + wide.max.y) / 2, 0)
    } else {
      const { centre, reach: r } = near
      const across = (r * width) / height
      Object.assign(camera, { left: -across, right: across, top: r, bottom: -r })
      camera.position.set(centre[0] + 6 * r * Math.sin(0.3), centre[1] + 0.4 * r, centre[2] + 6 * r * Math.cos(0.3))
      camera.lookAt(...centre)
    }
    camera.updateProjectionMatrix()
    const place = this.world.position.clone()
    const shown = [this.body.object.visible, this.crowd.object.visible] as const
    this.body.object.visible = true
    this.crowd.object.visible = false
    this.world.position.set(0, 0, 0)
    this.body.setPose(translations, rotations, 0)
    this.body.drawRough(!near)
    this.tape.visible = this.shadow.visible = this.props.object.visible = this.floor.object.visible = false
    if (clay) this.scene.overrideMaterial = this.clay
    this.renderer.setRenderTarget(target)
    this.renderer.setScissorTest(false)
    this.renderer.clear()
    this.renderer.render(this.scene, camera)
    const pixels = new Uint8Array(4 * width * height)
    this.scene.overrideMaterial = null
    this.props.object.visible = this.floor.object.visible = true
    ;[this.body.object.visible, this.crowd.object.visible] = shown
    this.renderer.readRenderTargetPixels(target, 0, 0, width, height, pixels)
    this.renderer.setRenderTarget(null)
    this.renderer.setScissorTest(true)
    this.world.position.copy(place)
    const canvas = document.createElement('canvas')
    canvas.width = width
    canvas.height = height
    const context = canvas.getContext('2d')!
    const image = context.createImageData(width, height)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const from = 4 * ((height - 1 - y) * width + x),
          to = 4 * (y * width + x)
        // targets hold light; pictures hold sRGB
        for (let c = 0; c < 3; c++) image.data[to + c] = 255 * Math.pow(pixels[from + c]! / 255, 1 / 2.2)
        image.data[to + 3] = pixels[from + 3]!
      }
    context.putImageData(image, 0, 0)
    return canvas.toDataURL('image/png')
  }

  /** Brings back the pose that was set last, after pictures were taken. */
  poseAgain(): void {
    if (this.lastPose) this.body.setPose(...this.lastPose)
  }

  setPose(translations: ArrayLike<number>, rotations: ArrayLike<number>, offset: number): void {
    this.lastPose = [translations, rotations, offset]
    this.body.setPose(translations, rotations, offset)
    this.invalidate()
  }

  /**
   * The place that stays in the middle of the picture, and how far it has risen from the ground.
   * @param stands where the figure stands, where that is not the middle
   * @param ground how high what it stands on is
   */
  setFocus(x: number, z: number, y = 0, stands: readonly [x: number, z: number] = [x, z], ground = 0): void {
    this.focus = [x, y, z]
    this.world.position.set(-x, -y, -z)
    this.shadow.position.set(stands[0] - x, 0.001 + ground - y, stands[1] - z)
    // the tape repeats every metre, so it can follow without an end
    this.tape.position.set(Math.round(x), 0, Math.round(z))
    this.invalidate()
  }

  setHeat(values: Float32Array | undefined): void {
    this.body.setHeat(values)
    this.invalidate()
  }

  setOpacity(opacity: number): void {
    this.body.setOpacity(opacity)
    this.invalidate()
  }

  /** A moving figure stands on the measuring tape and keeps its arms nearer than at rest. */
  setMoving(moving: boolean): void {
    if (moving === this.tapeWanted) return
    this.tapeWanted = moving
    this.frameAll()
  }

  /** Makes room on the figure's left for somebody beside it, metres. */
  setRoom(metres: number): void {
    if (metres === this.widened) return
    this.widened = metres
    this.frameAll()
  }

  /** Where a point of the figure's space lies in a view, CSS pixels from the canvas corner; `depth` grows away from the viewer. */
  project(p: Placed, point: Point): { x: number; y: number; depth: number } {
    const camera = this.cameras[p.view]
    const v = new Vector3(point[0] - this.focus[0], point[1] - this.focus[1], point[2] - this.focus[2]).project(camera)
    return { x: p.rect.x + ((v.x + 1) / 2) * p.rect.width, y: p.rect.y + ((1 - v.y) / 2) * p.rect.height, depth: v.z }
  }

  /** The point under the pointer as far from the viewer as `anchor` is. */
  unproject(p: Placed, x: number, y: number, anchor: Point): Point {
    const camera = this.cameras[p.view]
    const ray = new Raycaster()
    ray.setFromCamera(
      new Vector2(((x - p.rect.x) / p.rect.width) * 2 - 1, 1 - ((y - p.rect.y) / p.rect.height) * 2),
      camera,
    )
    const normal = camera.getWorldDirection(new Vector3())
    const at = new Vector3(anchor[0] - this.focus[0], anchor[1] - this.focus[1], anchor[2] - this.focus[2])
    const hit = ray.ray.intersectPlane(new Plane().setFromNormalAndCoplanarPoint(normal, at), new Vector3())
    const q = hit ?? at
    return [q.x + this.focus[0], q.y + this.focus[1], q.z + this.focus[2]]
  }

  get bodyExtent(): { min: Point; max: Point } {
    return { min: this.extent.min.toArray(), max: this.extent.max.toArray() }
  }

  invalidate(what: 'main' | 'all' = 'all'): void {
    this.dirty.main = true
    if (what === 'all') this.dirty.sheets = true
    if (this.handle !== 0) return
    // what somebody moves is followed at once
    const wait = this.isSoft && this.unfinished && what === 'all' ? this.drawnAt + UNFINISHED_IN_SOFTWARE_MS - performance.now() : 0 // prettier-ignore
    if (wait <= 0) this.drawSoon()
    else this.unfinishedLater ??= setTimeout(() => this.drawSoon(), wait)
  }

  /** Whether things are still being worked out: more of what is to be seen will come. */
  setUnfinished(unfinished: boolean): void {
    this.unfinished = unfinished
    if (!unfinished && this.unfinishedLater) this.drawSoon()
    else this.wholeWhenStill()
  }

  /** A passing picture is followed by a whole one, if nothing else comes. */
  private wholeWhenStill(): void {
    clearTimeout(this.wholeLater)
    if (this.passing && !this.unfinished) this.wholeLater = setTimeout(() => this.invalidate('main'), STILL_MS + 20)
  }

  private drawSoon(): void {
    clearTimeout(this.unfinishedLater)
    this.unfinishedLater = undefined
    if (this.handle === 0) this.handle = requestAnimationFrame(() => this.draw())
  }

  private draw(): void {
    this.handle = 0
    const main = this.dirty.main
    const sheets = this.dirty.sheets && !this.sheetsWait()
    if (main) {
      this.passing = this.body.hasRough && (this.unfinished || performance.now() - this.drawnAt < STILL_MS)
      this.notePace()
      this.dirty.main = false
    }
    if (sheets) this.dirty.sheets = false
    const height = this.canvas.clientHeight
    for (const p of this.placed) {
      if (!(p.main ? main : sheets)) continue
      const { x, y, width, height: h } = p.rect
      if (width < 2 || h < 2) continue
      this.renderer.setViewport(x, height - y - h, width, h)
      this.renderer.setScissor(x, height - y - h, width, h)
      this.renderer.clear()
      this.tape.visible = this.tapeWanted && !this.floored && p.main && p.view === 'turn'
      this.shadow.visible = p.view === 'turn' && !this.crowded
      // edges lie on the surface as it is
      this.body.drawRough(!this.wires.shown && (this.passing || !p.main))
      this.renderer.render(this.scene, this.cameras[p.view])
    }
    this.canvas.dataset.drawn = this.passing || this.dirty.sheets ? 'passing' : 'whole'
    this.wholeWhenStill()
    for (const listener of this.listeners) listener()
  }

  /** How long pictures of something that moves take, one after another. */
  private notePace(): void {
    const now = performance.now()
    const took = now - this.drawnAt
    this.drawnAt = now
    // what stood still in between tells nothing
    if (took < 1000) this.pace = this.pace === 0 ? took : 0.8 * this.pace + 0.2 * took
  }

  /** In software the sheets follow a moving picture a few times a second; the large view always. */
  private sheetsWait(): boolean {
    const since = performance.now() - this.sheetsAt
    const wait = Math.min(SHEETS_AT_LAST_MS, Math.max(SHEETS_IN_SOFTWARE_MS, PICTURES_BETWEEN * this.pace))
    if (!this.isSoft || since > wait) {
      this.sheetsAt = performance.now()
      return false
    }
    this.sheetsLater ??= setTimeout(
      () => {
        this.sheetsLater = undefined
        this.drawSoon()
      },
      wait - since + 1,
    )
    return true
  }

  dispose(): void {
    cancelAnimationFrame(this.handle)
    clearTimeout(this.sheetsLater)
    clearTimeout(this.unfinishedLater)
    clearTimeout(this.wholeLater)
    for (const c of Object.values(this.controls)) c.dispose()
    this.small?.dispose()
    this.clay.dispose()
    this.body.dispose()
    this.wires.dispose()
    this.props.dispose()
    this.floor.dispose()
    this.crowd.dispose()
    this.renderer.dispose()
  }
}

/** A measuring tape laid on the ground: a rung every metre. */
function measuringTape(): LineSegments {
  const points: number[] = []
  const reach = 9
  const half = 0.5
  // in short runs, because some software renderers lose a line that passes behind the viewer
  for (const x of [-half, half]) for (let z = -reach; z < reach; z++) points.push(x, 0, z, x, 0, z + 1)
  for (let z = -reach; z <= reach; z++) points.push(-half, 0, z, half, 0, z)
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from(points), 3))
  const tape = new LineSegments(geometry, new LineBasicMaterial({ color: 0x6d7876 }))
  tape.frustumCulled = false
  return tape
}

function softShadow(): ThreeMesh {
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = 64
  const context = canvas.getContext('2d')!
  const gradient = context.createRadialGradient(32, 32, 0, 32, 32, 32)
  gradient.addColorStop(0, 'rgba(24,32,34,0.42)')
  gradient.addColorStop(1, 'rgba(24,32,34,0)')
  context.fillStyle = gradient
  context.fillRect(0, 0, 64, 64)
  const shadow = new ThreeMesh(
    new PlaneGeometry(1, 1),
    new MeshBasicMaterial({ map: new CanvasTexture(canvas), transparent: true, depthWrite: false }),
  )
  shadow.rotation.x = -Math.PI / 2
  shadow.position.y = 0.001
  return shadow
}
