import { isFinger } from '../body'
import type { Landmark } from './landmark'

/** How many joints stand or fall with a landmark: ends of the trunk carry limbs, ends of limbs only themselves. */
const WEIGHT: readonly (readonly [RegExp, number])[] = [
  [/Shoulder$|Hip$/, 4],
  [/hips|neckBase/, 3.5],
  [/Elbow|Knee|chest|loin/, 2.5],
  [/Wrist|Ankle|Hock|skullBase/, 2],
  [/Toes|crown|chin|nose/, 1],
  [/Tip$|Ear|tail/, 0.6],
]

const weightOf = (id: string): number => (isFinger(id) ? 0.3 : (WEIGHT.find(([ids]) => ids.test(id))?.[1] ?? 1))

/** The one landmark whose placing by hand would settle most: unsure itself, and much hangs on it. */
export function mostSettling(landmarks: readonly Landmark[]): Landmark | undefined {
  const gain = (l: Landmark): number => (1 - l.confidence) * weightOf(l.id)
  const open = landmarks.filter(l => l.confidence < 0.6)
  return open.sort((a, b) => gain(b) - gain(a))[0]
}
