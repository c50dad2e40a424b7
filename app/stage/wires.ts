import { BufferAttribute, BufferGeometry, Group, LineBasicMaterial, LineSegments, Vector2 } from 'three'
import { LineMaterial } from 'three/examples/jsm/lines/LineMaterial.js'
import { LineSegments2 } from 'three/examples/jsm/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/examples/jsm/lines/LineSegmentsGeometry.js'

/** Edges drawn on a surface that stands still, and some of them marked. */
export class WiresOnStage {
  readonly object = new Group()
  private readonly thin = new LineBasicMaterial({ color: 0x2e2924, transparent: true, opacity: 0.5 })
  private readonly broad: LineMaterial
  private lines?: LineSegments
  private marked?: LineSegments2

  constructor(color: number) {
    this.broad = new LineMaterial({ color, linewidth: 3 })
  }

  /** Whether any edges are drawn. */
  get shown(): boolean {
    return this.lines !== undefined
  }

  /** Pairs of vertices; none takes the lines away. */
  set(positions: Float32Array | undefined, edges: Uint32Array | undefined): void {
    if (this.lines) {
      this.object.remove(this.lines)
      this.lines.geometry.dispose()
      this.lines = undefined
    }
    if (!positions || !edges) return
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(positions, 3))
    geometry.setIndex(new BufferAttribute(edges, 1))
    this.lines = new LineSegments(geometry, this.thin)
    this.lines.frustumCulled = false
    this.object.add(this.lines)
  }

  /** Places of the ends of marked edges, 6 a piece. */
  mark(ends: readonly number[]): void {
    if (this.marked) {
      this.object.remove(this.marked)
      this.marked.geometry.dispose()
      this.marked = undefined
    }
    if (ends.length === 0) return
    const geometry = new LineSegmentsGeometry()
    geometry.setPositions([...ends])
    this.marked = new LineSegments2(geometry, this.broad)
    this.marked.frustumCulled = false
    this.object.add(this.marked)
  }

  /** Room it is drawn in, which broad lines are measured in. */
  sizeTo(width: number, height: number): void {
    this.broad.resolution = new Vector2(width, height)
  }

  dispose(): void {
    this.set(undefined, undefined)
    this.mark([])
    this.thin.dispose()
    this.broad.dispose()
  }
}
