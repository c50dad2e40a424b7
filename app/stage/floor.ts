import {
  BoxGeometry,
  BufferAttribute,
  BufferGeometry,
  CanvasTexture,
  EdgesGeometry,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  MeshLambertMaterial,
  RepeatWrapping,
  SRGBColorSpace,
} from 'three'
import { seededRandom } from '@chiraxis/core/math'
import type { Mesh } from '@chiraxis/core/mesh'
import { heightOf, surfaceByName, SURFACES, type Patch, type Surface } from '@chiraxis/core/trial'

/** Pixels a metre of a drawn surface. */
const PIXELS = 96
/** How thick ground is drawn where its side is seen, metres. */
const THICK = 0.4

/** What the figure is led over, drawn as a plate would have it: flat tones and ink lines, no pictures. */
export class FloorOnStage {
  readonly object = new Group()
  private readonly ink = new LineBasicMaterial({ color: 0x36413f })
  private readonly drawn = new Map<Surface, MeshLambertMaterial>()

  /** Patches of ground, or a mesh of one's own; undefined takes it away. */
  set(floor: readonly Patch[] | Mesh | undefined): void {
    this.clear()
    if (!floor) return
    if ('positions' in floor) this.own(floor)
    else floor.forEach((p, i) => this.object.add(this.patch(p, i)))
  }

  private patch(p: Patch, layer: number): ThreeMesh {
    const [wide, deep] = [p.x[1] - p.x[0], p.z[1] - p.z[0]]
    const geometry = new BoxGeometry(wide, THICK, deep, 1, 1, 1)
    const places = geometry.getAttribute('position') as BufferAttribute
    const uv = geometry.getAttribute('uv') as BufferAttribute
    const [mx, mz] = [(p.x[0] + p.x[1]) / 2, (p.z[0] + p.z[1]) / 2]
    for (let i = 0; i < places.count; i++) {
      const [x, z] = [places.getX(i) + mx, places.getZ(i) + mz]
      // patches lie over each other a hair apart
      const top = heightOf(p, x, z) + 0.0008 * (layer - 12)
      places.setXYZ(i, x, places.getY(i) > 0 ? top : top - THICK, z)
      // boards of a ramp lie across the way up
      uv.setXY(i, ...((p.rises?.along === 'x' ? [z, x] : [x, z]) as [number, number]))
    }
    geometry.computeVertexNormals()
    return new ThreeMesh(geometry, this.material(p.surface))
  }

  /** A mesh of one's own, each part drawn as what its name says it is made of, its edges in ink. */
  private own(mesh: Mesh): void {
    const places = new BufferAttribute(mesh.positions, 3)
    const uv = new Float32Array((2 * mesh.positions.length) / 3)
    for (let v = 0; 2 * v < uv.length; v++) {
      uv[2 * v] = mesh.positions[3 * v]!
      uv[2 * v + 1] = mesh.positions[3 * v + 2]!
    }
    const ways = new BufferAttribute(uv, 2)
    for (const part of mesh.parts) {
      const geometry = new BufferGeometry()
      geometry.setAttribute('position', places)
      geometry.setAttribute('uv', ways)
      geometry.setIndex(new BufferAttribute(mesh.indices.slice(part.start, part.start + part.count), 1))
      const flat = geometry.toNonIndexed()
      flat.computeVertexNormals()
      const edges = new LineSegments(new EdgesGeometry(geometry, 20), this.ink)
      this.object.add(new ThreeMesh(flat, this.material(surfaceByName(part.name))), edges)
    }
  }

  private material(surface: string): MeshLambertMaterial {
    const kind = SURFACES.find(s => s === surface) ?? 'stone'
    const made = this.drawn.get(kind) ?? new MeshLambertMaterial({ map: drawnSurface(kind) })
    this.drawn.set(kind, made)
    return made
  }

  private clear(): void {
    for (const child of [...this.object.children] as ThreeMesh[]) {
      this.object.remove(child)
      child.geometry.dispose()
    }
  }
  dispose(): void {
    this.clear()
    this.ink.dispose()
    for (const m of this.drawn.values()) {
      m.map?.dispose()
      m.dispose()
    }
  }
}

/** Two metres of a surface that repeat. */
function drawnSurface(kind: Surface): CanvasTexture {
  const size = 2 * PIXELS
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = size
  const c = canvas.getContext('2d')!
  // seeded, so that every picture is the same
  const next = seededRandom(kind.length * 97)
  /** Draws what may hang over an edge once more where it comes in again. */
  const around = (draw: (ox: number, oy: number) => void): void => {
    for (const [ox, oy] of [[0, 0], [size, 0], [-size, 0], [0, size], [0, -size]] as const) draw(ox, oy) // prettier-ignore
  }
  const tone = (l: number): string => `rgb(${l * 1.0}, ${l * 0.985}, ${l * 0.94})`
  const ink = 'rgba(30, 40, 42, 0.5)'
  c.lineCap = 'round'
  if (kind === 'planks') {
    const boards = 10
    for (let b = 0; b < boards; b++) {
      const y = (b * size) / boards
      c.fillStyle = tone(150 + 14 * next())
      c.fillRect(0, y, size, size / boards)
      c.strokeStyle = ink
      c.lineWidth = 1.4
      c.beginPath()
      c.moveTo(0, y)
      c.lineTo(size, y)
      c.stroke()
      // one end of a board, and grain
      const x = size * next()
      c.beginPath()
      c.moveTo(x, y)
      c.lineTo(x, y + size / boards)
      c.stroke()
      c.strokeStyle = 'rgba(30, 40, 42, 0.16)'
      c.lineWidth = 1
      for (let g = 0; g < 2; g++) {
        const gy = y + (size / boards) * (0.25 + 0.5 * next()),
          gx = size * next()
        c.beginPath()
        c.moveTo(gx, gy)
        c.lineTo(gx + size * 0.25, gy)
        c.stroke()
      }
    }
  } else if (kind === 'mud') {
    c.fillStyle = tone(118)
    c.fillRect(0, 0, size, size)
    c.strokeStyle = 'rgba(25, 33, 34, 0.28)'
    c.lineWidth = 1.2
    for (let i = 0; i < 26; i++) {
      const [x, y, r] = [size * next(), size * next(), 6 + 16 * next()]
      around((ox, oy) => {
        c.beginPath()
        c.ellipse(x + ox, y + oy, r, r * 0.32, 0, Math.PI * 0.1, Math.PI * 0.9)
        c.stroke()
      })
    }
  } else if (kind === 'shingle') {
    c.fillStyle = tone(134)
    c.fillRect(0, 0, size, size)
    c.strokeStyle = 'rgba(30, 40, 42, 0.42)'
    c.lineWidth = 1
    for (let i = 0; i < 360; i++) {
      const [x, y, r, a] = [size * next(), size * next(), 2.2 + 3.4 * next(), Math.PI * next()]
      c.fillStyle = tone(146 + 40 * next())
      around((ox, oy) => {
        c.beginPath()
        c.ellipse(x + ox, y + oy, r, r * 0.66, a, 0, 2 * Math.PI)
        c.fill()
        c.stroke()
      })
    }
  } else {
    c.fillStyle = tone(160)
    c.fillRect(0, 0, size, size)
    c.strokeStyle = ink
    c.lineWidth = 1.3
    for (let row = 0; row < 4; row++) {
      const y = (row * size) / 4
      c.beginPath()
      c.moveTo(0, y)
      c.lineTo(size, y)
      for (const x of [(row % 2 ? 0.25 : 0) * size, (row % 2 ? 0.75 : 0.5) * size]) {
        c.moveTo(x, y)
        c.lineTo(x, y + size / 4)
      }
      c.stroke()
    }
  }
  const texture = new CanvasTexture(canvas)
  texture.wrapS = texture.wrapT = RepeatWrapping
  texture.repeat.set(0.5, 0.5)
  texture.colorSpace = SRGBColorSpace
  texture.anisotropy = 2
  return texture
}
