import { scale, sub, add, type Vec3 } from '../math'
import { mirrored, type Landmark } from './landmark'
import { partnerOf } from '../body'

/** A landmark placed by hand: its place as a share of the body's height, so that it survives a change of unit or body. */
export type LandmarkEdits = Readonly<Record<string, Vec3>>

/** Landmarks along one limb or the trunk, neighbours beside each other. */
const CHAINS: readonly (readonly string[])[] = [
  ['crown', 'skullBase', 'neckBase', 'chest', 'loin', 'hips'],
  ['nose', 'skullBase'],
  ['hips', 'tailBase', 'tailMiddle', 'tailTip'],
  ...['left', 'right'].flatMap(s => [
    ['Shoulder', 'Elbow', 'Wrist', 'HandTip'].map(p => s + p),
    ['Hip', 'Knee', 'Ankle', 'Toes', 'ToeTip'].map(p => s + p),
    ['FrontShoulder', 'FrontHip', 'FrontElbow', 'FrontWrist', 'FrontToes', 'FrontTip'].map(p => s + p),
    ['HindHip', 'HindKnee', 'HindHock', 'HindToes', 'HindTip'].map(p => s + p),
  ]),
]

/**
 * Landmarks with those placed by hand in their places, sure of themselves. What a hand put right tells of its
 * neighbours too: those not touched follow by half its way, the more the less sure they were.
 */
export function applyEdits(found: readonly Landmark[], edits: LandmarkEdits, height: number): Landmark[] {
  if (Object.keys(edits).length === 0) return [...found]
  const way = new Map(found.filter(l => edits[l.id]).map(l => [l.id, sub(scale(edits[l.id], height), l.position)]))
  return found.map(l => {
    if (edits[l.id]) return { id: l.id, position: scale(edits[l.id], height), confidence: 1 }
    const told: Vec3[] = []
    for (const chain of CHAINS) {
      const i = chain.indexOf(l.id)
      if (i < 0) continue
      for (const n of [chain[i - 1], chain[i + 1]]) if (n && way.has(n)) told.push(scale(way.get(n)!, 0.5))
    }
    if (told.length === 0) return l
    const mean = scale(
      told.reduce((s, v) => add(s, v), [0, 0, 0] as Vec3),
      1 / told.length,
    )
    const yields = Math.min(1, 2 * (1 - l.confidence)) ** 2
    return {
      ...l,
      position: add(l.position, scale(mean, yields)),
      confidence: l.confidence + (1 - l.confidence) * 0.3 * yields,
    }
  })
}

/** All landmarks of a body as they stand: found, those of hands with them, and those placed by hand in their places. */
export const landmarksAsPlaced = (
  found: readonly Landmark[],
  hands: readonly Landmark[],
  edits: LandmarkEdits,
  height: number,
): Landmark[] => applyEdits([...applyEdits(found, edits, height), ...hands], edits, height)

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
export function placeLandmark(
  landmarks: readonly Landmark[],
  edits: LandmarkEdits,
  id: string,
  position: Vec3,
  options: PlaceOptions,
): Record<string, Vec3> {
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
