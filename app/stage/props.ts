import { Group } from 'three'
import type { ImageFile, Material, Mesh } from '@chiraxis/core/mesh'
import { BodyOnStage } from './body'

export interface PropToDraw {
  readonly id: string
  readonly mesh: Mesh
  readonly materials: readonly Material[]
  readonly images: readonly ImageFile[]
}
/** Where something rigid is; x y z w. */
export interface DrawnPlace {
  readonly at: readonly [number, number, number]
  readonly turn: readonly [number, number, number, number]
}

/** What the figure carries, each at its place. */
export class PropsOnStage {
  readonly object = new Group()
  private readonly drawn = new Map<string, { mesh: Mesh; body: BodyOnStage }>()

  /** @param changed told when an image has been decoded */
  set(list: readonly PropToDraw[], changed: () => void): void {
    const wanted = new Map(list.map(p => [p.id, p]))
    for (const [id, { mesh, body }] of this.drawn) {
      if (wanted.get(id)?.mesh === mesh) continue
      this.object.remove(body.object)
      body.dispose()
      this.drawn.delete(id)
    }
    for (const { id, mesh, materials, images } of list) {
      if (this.drawn.has(id)) continue
      const body = new BodyOnStage()
      body.setMesh(mesh, materials, images, changed)
      body.object.visible = false
      this.object.add(body.object)
      this.drawn.set(id, { mesh, body })
    }
  }

  /** Props without a place are not drawn. */
  place(places: ReadonlyMap<string, DrawnPlace>): void {
    for (const [id, { body }] of this.drawn) {
      const place = places.get(id)
      body.object.visible = place !== undefined
      if (!place) continue
      body.object.position.set(...place.at)
      body.object.quaternion.set(...place.turn)
    }
  }

  dispose(): void {
    for (const { body } of this.drawn.values()) body.dispose()
    this.drawn.clear()
  }
}
