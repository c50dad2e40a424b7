import { dot, type Vec3 } from '../math'
import type { CanvasGround } from './canvas'

/** What a brush reaches from where it touches. */
export interface Reach {
  /** Metres. */
  readonly radius: number
  /** 0: a hard edge; 1: fading from the middle on. */
  readonly falloff: number
  /** Whether the far side of the body within the brush is reached too. */
  readonly through: boolean
  /** Welded vertices that may be reached, where not all may. */
  readonly inside?: Uint8Array
}

/**
 * Calls for every welded vertex under a dab, with how much of it the vertex gets: 1 up to where it begins to fade, then straight
 * down to the edge.
 * @param place metres as bound  @param normal the surface's direction where the brush touches
 */
export function underDab(
  { grid, normals }: Pick<CanvasGround, 'grid' | 'normals'>,
  { radius, falloff, through, inside }: Reach,
  place: Vec3,
  normal: Vec3,
  each: (v: number, share: number) => void,
): void {
  grid.within(place[0], place[1], place[2], radius, (v, squared) => {
    if (inside && !inside[v]) return
    // the front is what looks the same way as where the brush touches
    if (!through && dot([normals[3 * v], normals[3 * v + 1], normals[3 * v + 2]], normal) < 0.1) return
    const t = Math.sqrt(squared) / radius
    const share = t <= 1 - falloff ? 1 : falloff > 0 ? (1 - t) / falloff : 0
    if (share > 0) each(v, share)
  })
}

/** The share with a soft beginning and end. */
export const softly = (x: number): number => x * x * (3 - 2 * x)
