import { scale, sub, add, type Vec3 } from '../math'
import { mirrored, partnerOf, type Landmark } from './landmark'

/** A landmark placed by hand: its place as a share of the body's height, so that it survives a change of unit or body. */
export type LandmarkEdits = Readonly<Record<string, Vec3>>

/** Landmarks with those placed by hand in their places, sure of themselves. */
export function applyEdits(found: readonly Landmark[], edits: LandmarkEdits, height: number): Landmark[] {
  return found.map(l => (edits[l.id] ? { id: l.id, position: scale(edits[l.id], height), confidence: 1 } : l))
}

export interface PlaceOptions {
  /** The landmark across the midline goes with it. */
  readonly mirror: boolean
  /** Landmarks found and not placed by hand: what the midline ones keep to. */
  readonly height: number
}

/**
 * Places one landmark by hand.
 * Mirrored, a landmark of the midline stays on it, and one of a side moves its partner by the mirrored way
 * from where both stood, so that a body a little lopsided keeps its own shape on either side.
 */
export function placeLandmark(landmarks: readonly Landmark[], edits: LandmarkEdits, id: string, position: Vec3, options: PlaceOptions): Record<string, Vec3> {
  const share = (p: Vec3): Vec3 => scale(p, 1 / options.height)
  const partner = partnerOf(id)
  if (!options.mirror) return { ...edits, [id]: share(position) }
  if (partner === id) return { ...edits, [id]: share([0, position[1], position[2]]) }
  const before = landmarks.find(l => l.id === id)
  const other = landmarks.find(l => l.id === partner)
  if (!before || !other) return { ...edits, [id]: share(position) }
  const moved = add(other.position, mirrored(sub(position, before.position)))
  return { ...edits, [id]: share(position), [partner]: share(moved) }
}
