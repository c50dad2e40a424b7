import { SIDES } from '../body'
import { PLACES, type HandHolds } from './hand-places'
import { easedWhere, toldOf, type PlacedContact } from './told-contacts'

type Side = (typeof SIDES)[number]

/** Where hands were told to touch and not to, eased: how firmly in each frame, 0..1. */
export interface AskedHands {
  readonly together: Float32Array
  readonly apart: Float32Array
  readonly body: Readonly<Record<Side, AskedHand>>
}

/** What was told of one hand on the body; `free` by part, by its number in PLACES. */
interface AskedHand {
  readonly weight: Float32Array
  readonly place: Int16Array
  readonly free: ReadonlyMap<number, Float32Array>
}

/** What was told of hands; undefined where nothing was. @param ease frames over which it comes and goes */
export function askedHands(told: readonly PlacedContact[], frames: number, ease: number): AskedHands | undefined {
  if (!told.some(t => /Hand$/.test(t.part) && t.onto !== 'ground')) return undefined
  const eased = (flags: Int8Array | undefined, value: 1 | -1): Float32Array =>
    flags ? easedWhere(flags, value, ease) : new Float32Array(frames)
  const both = toldOf(told, 'leftHand', 'rightHand', frames)
  const ofHand = (side: Side): AskedHand => {
    const weight = new Float32Array(frames)
    const place = new Int16Array(frames).fill(-1)
    const free = new Map<number, Float32Array>()
    PLACES.forEach((role, k) => {
      const flags = toldOf(told, `${side}Hand`, role, frames)
      if (!flags) return
      free.set(k, eased(flags, -1))
      eased(flags, 1).forEach((w, f) => {
        if (w <= weight[f]) return
        weight[f] = w
        place[f] = k
      })
    })
    return { weight, place, free }
  }
  return {
    together: eased(both, 1),
    apart: eased(both, -1),
    body: { left: ofHand('left'), right: ofHand('right') },
  }
}

/** What was found with what was told laid over it. */
export function withAsked(found: HandHolds, asked: AskedHands): HandHolds {
  const hand = (side: Side): HandHolds['body'][Side] => {
    const { weight, place } = found.body[side]
    const told = asked.body[side]
    const out = { weight: weight.slice(), place: place.slice() }
    for (let f = 0; f < weight.length; f++) {
      const free = told.free.get(place[f])
      if (free) out.weight[f] *= 1 - free[f]
      if (told.weight[f] <= 0) continue
      out.weight[f] = Math.max(out.weight[f], told.weight[f])
      out.place[f] = told.place[f]
    }
    return out
  }
  return {
    together: found.together.map((w, f) => Math.max(w * (1 - asked.apart[f]), asked.together[f])),
    body: { left: hand('left'), right: hand('right') },
  }
}
