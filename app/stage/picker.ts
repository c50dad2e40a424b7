import { maxOf } from '@chiraxis/core/math'
import { BufferAttribute, BufferGeometry, DoubleSide, type Ray } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import type { Mesh } from '@chiraxis/core/mesh'

export interface SurfaceHit {
  /** On the body as it was bound, metres, with the surface's direction there. */
  readonly place: [number, number, number]
  readonly normal: [number, number, number]
  /** The corner nearest to the place. */
  readonly vertex: number
}

/** Finds what a ray meets first on the body in the pose it is shown in, and tells where that is on the body as bound. */
export class SurfacePicker {
  private bvh?: MeshBVH
  private geometry?: BufferGeometry
  private mesh?: Mesh

  setMesh(mesh: Mesh | undefined): void {
    this.mesh = mesh
    this.bvh = undefined
    this.geometry = undefined
  }

  /** The body as it is shown; built when first asked for, refitted when only the pose changed. */
  setShape(positions: Float32Array): void {
    if (!this.mesh) return
    if (this.geometry && this.bvh) {
      ;(this.geometry.getAttribute('position') as BufferAttribute).array.set(positions)
      this.bvh.refit()
      return
    }
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(positions.slice(), 3))
    geometry.setIndex(new BufferAttribute(this.mesh.indices.slice(), 1))
    this.geometry = geometry
    this.bvh = new MeshBVH(geometry)
  }

  get isReady(): boolean {
    return this.bvh !== undefined
  }

  /**
   * The middle of the flesh a ray goes through first. Cloth thinner than `thin` is gone through, unless there is nothing else.
   * @returns undefined where it meets nothing
   */
  middle(ray: Ray, thin: number): [number, number, number] | undefined {
    const { bvh } = this
    if (!bvh) return undefined
    const hits = bvh.raycast(ray, DoubleSide).sort((a, b) => a.distance - b.distance)
    let depth = 0,
      from = 0
    const runs: { from: number; to: number }[] = []
    for (const h of hits) {
      const inwards = (h.face?.normal.dot(ray.direction) ?? 0) < 0
      if (inwards && depth++ === 0) from = h.distance
      else if (!inwards && depth > 0 && --depth === 0) runs.push({ from, to: h.distance })
    }
    const first = hits[0]
    if (!first) return undefined
    const thick = runs.filter(r => r.to - r.from > thin)
    const run = thick[0] ?? runs.sort((a, b) => b.to - b.from - (a.to - a.from))[0]
    const at = run ? (run.from + run.to) / 2 : first.distance
    const p = ray.at(at, first.point.clone())
    return [p.x, p.y, p.z]
  }

  cast(ray: Ray): SurfaceHit | undefined {
    const { bvh, geometry, mesh } = this
    if (!bvh || !geometry || !mesh) return undefined
    const hit = bvh.raycastFirst(ray, DoubleSide)
    if (!hit?.face) return undefined
    const shown = geometry.getAttribute('position')
    const { a, b, c } = hit.face
    const shares = barycentric(shown as BufferAttribute, a, b, c, hit.point.x, hit.point.y, hit.point.z)
    const p = mesh.positions
    const place: [number, number, number] = [0, 0, 0]
    ;[a, b, c].forEach((v, i) => {
      for (let k = 0; k < 3; k++) place[k]! += shares[i]! * p[3 * v + k]!
    })
    const u = [0, 1, 2].map(k => p[3 * b + k]! - p[3 * a + k]!),
      w = [0, 1, 2].map(k => p[3 * c + k]! - p[3 * a + k]!)
    const n = [u[1]! * w[2]! - u[2]! * w[1]!, u[2]! * w[0]! - u[0]! * w[2]!, u[0]! * w[1]! - u[1]! * w[0]!]
    const l = Math.hypot(n[0]!, n[1]!, n[2]!) || 1
    const vertex = [a, b, c][shares.indexOf(maxOf(shares))]!
    return { place, normal: [n[0]! / l, n[1]! / l, n[2]! / l], vertex }
  }
}

function barycentric(
  p: BufferAttribute,
  a: number,
  b: number,
  c: number,
  x: number,
  y: number,
  z: number,
): [number, number, number] {
  const ux = p.getX(b) - p.getX(a),
    uy = p.getY(b) - p.getY(a),
    uz = p.getZ(b) - p.getZ(a)
  const vx = p.getX(c) - p.getX(a),
    vy = p.getY(c) - p.getY(a),
    vz = p.getZ(c) - p.getZ(a)
  const wx = x - p.getX(a),
    wy = y - p.getY(a),
    wz = z - p.getZ(a)
  const uu = ux * ux + uy * uy + uz * uz,
    uv = ux * vx + uy * vy + uz * vz,
    vv = vx * vx + vy * vy + vz * vz
  const wu = wx * ux + wy * uy + wz * uz,
    wv = wx * vx + wy * vy + wz * vz
  const det = uu * vv - uv * uv || 1
  const s = Math.min(1, Math.max(0, (vv * wu - uv * wv) / det)),
    t = Math.min(1 - s, Math.max(0, (uu * wv - uv * wu) / det))
  return [1 - s - t, s, t]
}
