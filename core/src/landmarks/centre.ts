import { sideOf } from '../body'
import { distance, normalize, sub, type Vec3 } from '../math'
import { sectionOf, type Mesh, type Section, type Weld } from '../mesh'
import type { Landmark } from './landmark'

/** The limb neighbours that tell which way a landmark's limb runs. */
const ALONG: Readonly<Record<string, readonly [string, string]>> = {
  Shoulder: ['Shoulder', 'Elbow'],
  Elbow: ['Shoulder', 'Wrist'],
  Wrist: ['Elbow', 'HandTip'],
  HandTip: ['Wrist', 'HandTip'],
  Hip: ['Hip', 'Knee'],
  Knee: ['Hip', 'Ankle'],
  Ankle: ['Knee', 'Ankle'],
  Toes: ['Ankle', 'ToeTip'],
  ToeTip: ['Toes', 'ToeTip'],
}
const TRUNK = ['hips', 'chest', 'neckBase', 'skullBase', 'crown']

/** The direction of the limb or trunk at a landmark, unit. */
export function limbDirection(landmarks: readonly Landmark[], id: string): Vec3 {
  const at = (name: string): Vec3 | undefined => landmarks.find(l => l.id === name)?.position
  const side = sideOf(id) === 'middle' ? '' : sideOf(id)
  const pair = side ? ALONG[id.slice(side.length)] : undefined
  const i = TRUNK.indexOf(id)
  const from = pair ? at(side + pair[0]) : at(TRUNK[Math.max(0, i - 1)])
  const to = pair ? at(side + pair[1]) : at(TRUNK[Math.min(TRUNK.length - 1, i + 1)])
  return from && to && (pair || i > 0) ? normalize(sub(to, from)) : [0, 1, 0]
}

/** Landmarks that belong on the skin, not in the middle of the body. */
const ON_SKIN: ReadonlySet<string> = new Set([
  'crown',
  'chin',
  'leftHandTip',
  'rightHandTip',
  'leftToeTip',
  'rightToeTip',
])

/** Whether a landmark lies within a limb or the trunk, and so has a middle to go to. */
export const hasMiddle = (id: string): boolean => !ON_SKIN.has(id) && !id.endsWith('Tip')

/** The cut of the body across the limb at a landmark, and how far off the middle the landmark is, metres. */
export function landmarkSection(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  landmarks: readonly Landmark[],
  id: string,
  weld?: Weld,
): { section: Section; off: number; direction: Vec3 } | undefined {
  const landmark = landmarks.find(l => l.id === id)
  if (!landmark) return undefined
  const direction = limbDirection(landmarks, id)
  const section = sectionOf(mesh, landmark.position, direction, weld)
  return { section, direction, off: section.centre ? distance(section.centre, landmark.position) : 0 }
}
