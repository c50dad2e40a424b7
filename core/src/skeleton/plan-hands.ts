import { add, addScaled, cross, dot, fromDirections, normalize, scale, sub, type Vec3 } from '../math'
import type { PlanPoint } from './plan-biped'
import type { WorldJoint } from './skeleton'

const PARTS: Readonly<Record<string, readonly string[]>> = {
  Thumb: ['Metacarpal', 'Proximal', 'Distal'],
  Other: ['Proximal', 'Intermediate', 'Distal'],
}

/**
 * Finger joints of one hand on their landmarks: +Y along the bone, +X the hinge about which the finger curls
 * into the palm. With fewer joints a finger, the outer ones are left out.
 * @param hand place of the hand in the list of joints  @param count joints a finger, 1 to 3
 */
export function fingerChain(
  side: 'left' | 'right',
  fingers: readonly string[],
  landmarks: readonly PlanPoint[],
  hand: number,
  wrist: Vec3,
  from: number,
  count: number,
): WorldJoint[] {
  const at = (id: string): Vec3 | undefined => landmarks.find(l => l.id === id)?.position
  const frame = palmFrame(side, fingers, at, wrist)
  const joints: WorldJoint[] = []
  for (const finger of fingers) {
    const parts = PARTS[finger === 'Thumb' ? 'Thumb' : 'Other'].slice(0, count)
    const points = parts.map(p => at(side + finger + p))
    const tip = at(`${side}${finger}Tip`)
    if (points.some(p => !p) || !tip) continue
    let parent = hand
    parts.forEach((part, i) => {
      const position = points[i]!
      const end = points[i + 1] ?? tip
      const along = normalize(sub(end, position))
      // the thumb closes across the palm, the fingers into it
      const towards =
        finger === 'Thumb' ? normalize(add(scale(frame.thumbward, -1), scale(frame.back, -0.6))) : scale(frame.back, -1)
      joints.push({
        name: side + finger + part,
        role: side + finger + part,
        parent,
        position,
        rotation: fromDirections(along, cross(along, towards)),
        tip: points[i + 1] ? undefined : tip,
      })
      parent = from + joints.length - 1
    })
  }
  return joints
}

/** Across the palm towards the thumb, and out of the back of the hand. */
function palmFrame(
  side: 'left' | 'right',
  fingers: readonly string[],
  at: (id: string) => Vec3 | undefined,
  wrist: Vec3,
): { thumbward: Vec3; back: Vec3 } {
  const own = fingers.filter(f => f !== 'Thumb')
  const knuckles = own.map(f => at(`${side}${f}Proximal`)).filter(p => p !== undefined)
  const ahead =
    knuckles.length > 0
      ? normalize(
          sub(
            scale(
              knuckles.reduce((s, p) => add(s, p), [0, 0, 0] as Vec3),
              1 / knuckles.length,
            ),
            wrist,
          ),
        )
      : ([side === 'left' ? 1 : -1, 0, 0] as Vec3)
  const flat = (v: Vec3): Vec3 => normalize(addScaled(v, ahead, -dot(v, ahead)), [0, 0, 1])
  const thumb = fingers.includes('Thumb') ? at(`${side}ThumbDistal`) : undefined
  const thumbward =
    knuckles.length > 1
      ? flat(sub(knuckles[0], knuckles[knuckles.length - 1]))
      : thumb
        ? flat(sub(thumb, wrist))
        : flat([0, 0, 1])
  const back = side === 'left' ? cross(thumbward, ahead) : cross(ahead, thumbward)
  return { thumbward, back: normalize(back) }
}
