import { OrthographicCamera, PerspectiveCamera, Vector3 } from 'three'
import type { ViewName } from '~/stores/view'

export interface Rect {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}
export type Camera = OrthographicCamera | PerspectiveCamera

/** The box that must be seen, metres. */
export interface Extent {
  readonly min: Vector3
  readonly max: Vector3
}

const FAR = 40

/** One camera per named view. */
export function createCameras(): Record<ViewName, Camera> {
  const turn = new PerspectiveCamera(26, 1, 0.05, 80)
  const flat = (): OrthographicCamera => new OrthographicCamera(-1, 1, 1, -1, 0.01, 2 * FAR)
  return { turn, front: flat(), side: flat(), top: flat() }
}

/**
 * Points a camera at an extent so that it fills the rectangle, leaving `room` around it; `shift` moves it
 * to the right by a share of the width. A body leaves the corners of its box empty; with `corners` they are seen as well.
 * @returns the point it looks at
 */
export function fitCamera(
  name: ViewName,
  camera: Camera,
  extent: Extent,
  rect: Rect,
  room: { across: number; along: number; shift: number; corners?: boolean },
): Vector3 {
  const centre = extent.min.clone().add(extent.max).multiplyScalar(0.5)
  const size = extent.max.clone().sub(extent.min)
  const aspect = rect.width / Math.max(1, rect.height)
  if (camera instanceof PerspectiveCamera) {
    camera.aspect = aspect
    const half = Math.tan((camera.fov * Math.PI) / 360)
    const tall = size.y / (2 * half * room.along)
    // seen half from the side, depth adds to the width; a body longer than it is tall leaves the corners of its box empty
    const deep = size.z > 1.2 * size.y ? 0.35 * size.z : size.z
    const wide = (size.x * Math.cos(0.5) + deep * Math.sin(0.5)) / (2 * half * aspect * room.across)
    const distance = room.corners
      ? toCorners(size, [half * aspect * room.across, half * room.along])
      : Math.max(tall, wide) + deep / 2
    camera.position.copy(centre).add(FROM.clone().multiplyScalar(distance))
    camera.lookAt(centre)
    camera.updateProjectionMatrix()
    return centre
  }
  const [across, up] = name === 'front' ? [size.x, size.y] : name === 'side' ? [size.z, size.y] : [size.x, size.z]
  const half = Math.max(up / 2 / room.along, across / 2 / room.across / aspect, 0.01)
  camera.top = half
  camera.bottom = -half
  camera.left = -half * aspect
  camera.right = half * aspect
  camera.zoom = 1
  camera.up.set(0, 1, 0)
  if (name !== 'side') centre.x -= 2 * half * aspect * room.shift
  else centre.z += 2 * half * aspect * room.shift
  camera.position.copy(centre)
  if (name === 'front') camera.position.z += FAR
  else if (name === 'side') camera.position.x += FAR
  else {
    camera.position.y += FAR
    camera.up.set(0, 0, -1)
  }
  camera.lookAt(centre)
  camera.updateProjectionMatrix()
  return centre
}

/** Where the perspective view looks from. */
const FROM = new Vector3(Math.sin(0.5), 0.16, Math.cos(0.5)).normalize()

/** How far off a box of a size is seen whole, by the tangents of half the angles of view. */
function toCorners(size: Vector3, [across, along]: readonly [number, number]): number {
  const right = new Vector3(0, 1, 0).cross(FROM).normalize()
  const up = FROM.clone().cross(right)
  let distance = 0
  for (let i = 0; i < 8; i++) {
    const corner = new Vector3(i & 1 ? 0.5 : -0.5, i & 2 ? 0.5 : -0.5, i & 4 ? 0.5 : -0.5).multiply(size)
    const near = corner.dot(FROM)
    distance = Math.max(distance, near + Math.abs(corner.dot(right)) / across, near + Math.abs(corner.dot(up)) / along)
  }
  return distance
}

/** Keeps the framing of a camera when its rectangle changes shape. */
export function reshapeCamera(camera: Camera, rect: Rect): void {
  const aspect = rect.width / Math.max(1, rect.height)
  if (camera instanceof PerspectiveCamera) camera.aspect = aspect
  else {
    camera.left = camera.bottom * aspect
    camera.right = camera.top * aspect
  }
  camera.updateProjectionMatrix()
}
