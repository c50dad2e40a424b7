import { ballRole, legsOf, partnerOf } from '../body'
import { HAND_PLACES, type HandHolds } from '../correct'
import { minOf } from '../math'
import { quantile, rootPath, tracksOf, type Contacts, type Played, type TakeEvent } from '../motion'
import { wayGone } from '../root-motion'
import type { FoundCue } from './settings'

/** What is known of a take in which moments are looked for. */
export interface CueScene {
  readonly played: Played
  /** When feet rest, by leg. */
  readonly contacts: Contacts
  readonly hands?: HandHolds
  /** What the feet step on. */
  readonly surface?: string
  /** Metres a unit of the skeleton is. */
  readonly unit?: number
}

/** Seconds no foot may touch the ground before a jump has a highest moment. */
const FLIGHT = 0.05
/** Seconds a foot must have been off the ground before it steps. */
const LIFTED = 0.06

/** Finds moments of the given kinds, in the order of time. */
export function findCues(scene: CueScene, kinds: readonly FoundCue[]): TakeEvent[] {
  const all: TakeEvent[] = []
  if (kinds.includes('footstep')) all.push(...footsteps(scene))
  if (kinds.includes('crossing')) all.push(...crossings(scene))
  if (kinds.includes('touch')) all.push(...touches(scene))
  if (kinds.includes('apex')) all.push(...apexes(scene))
  return inOrder(all)
}

export const inOrder = (events: readonly TakeEvent[]): TakeEvent[] =>
  [...events].sort((a, b) => a.time - b.time || a.name.localeCompare(b.name))

/** Frames at which flags begin to be set, after they were not for so long; what is set from the beginning begins nowhere. */
function beginnings(flags: ArrayLike<number>, gap: number): number[] {
  const out: number[] = []
  let last = flags[0] ? 0 : -Infinity
  // what rests before the beginning is not known
  let seen = flags[0] ? true : false
  for (let f = 1; f < flags.length; f++) {
    if (!flags[f]) continue
    if (last < f - 1 && (f - last > gap || !seen)) out.push(f)
    last = f
    seen = true
  }
  return out
}

/** Feet that come down, and how fast. */
function footsteps({ played, contacts, surface, unit = 1 }: CueScene): TakeEvent[] {
  const { joints, take } = played
  const tracks = tracksOf(
    played,
    legsOf(joints).map(leg => ballRole(joints, leg)),
  )
  return Object.entries(contacts).flatMap(([leg, flags]) =>
    beginnings(flags, LIFTED * take.fps).map((f): TakeEvent => {
      const track = tracks[ballRole(joints, leg)]
      const before = Math.max(0, f - Math.max(1, Math.round(0.05 * take.fps)))
      const fall = track ? ((track[3 * before + 1] - track[3 * f + 1]) * take.fps) / Math.max(1, f - before) : 0
      return {
        time: f / take.fps,
        name: 'footstep',
        data: { foot: leg, ...(surface && { surface }), fall: hundredth(unit * Math.max(0, fall)) },
      }
    }),
  )
}

/** Seconds between two moments in which the same feet pass each other. */
const APART = 0.12

/** Metres one foot gets ahead of the other within half a second, at least, when they really pass. */
const STRIDE = 0.06

/** Feet that pass each other along the way the body goes: one of them in the air. */
function crossings({ played, contacts, unit = 1 }: CueScene): TakeEvent[] {
  const { joints, take } = played
  const { fps, frames } = take
  const { heading } = wayGone(rootPath(played, 0.6))
  const reach = Math.round(0.25 * fps)
  const events: TakeEvent[] = []
  for (const leg of legsOf(joints).filter(l => l.startsWith('left'))) {
    const other = partnerOf(leg)
    const tracks = tracksOf(played, [`${leg}Foot`, `${other}Foot`])
    const a = tracks[`${leg}Foot`],
      b = tracks[`${other}Foot`]
    if (!a || !b) continue
    let last = -Infinity
    for (let f = 1; f < frames; f++) {
      if (contacts[leg]?.[f] && contacts[other]?.[f]) continue
      const [s, c] = [Math.sin(heading[f]), Math.cos(heading[f])]
      const ahead = (g: number): number => unit * ((a[3 * g] - b[3 * g]) * s + (a[3 * g + 2] - b[3 * g + 2]) * c)
      const [p, q] = [ahead(f - 1), ahead(f)]
      if (p > 0 === q > 0) continue
      const time = (f - 1 + p / (p - q)) / fps
      // feet side by side that merely tremble pass nobody
      const stride = Math.abs(ahead(Math.min(frames - 1, f + reach)) - ahead(Math.max(0, f - reach)))
      if (time - last < APART || stride < STRIDE) continue
      last = time
      events.push({ time, name: 'crossing', data: { ahead: q > 0 ? leg : other } })
    }
  }
  return events
}

/** Hands that come to each other or onto the body. */
function touches({ played, hands }: CueScene): TakeEvent[] {
  if (!hands) return []
  const { fps } = played.take
  const gap = LIFTED * fps
  const firm = (weights: ArrayLike<number>): Uint8Array => Uint8Array.from(weights, w => (w > 0.5 ? 1 : 0))
  const events = beginnings(firm(hands.together), gap).map((f): TakeEvent => ({
    time: f / fps,
    name: 'touch',
    data: { hand: 'left', on: 'rightHand' },
  }))
  for (const side of ['left', 'right'] as const) {
    const { weight, place } = hands.body[side]
    for (const f of beginnings(firm(weight), gap))
      events.push({ time: f / fps, name: 'touch', data: { hand: side, on: HAND_PLACES[place[f]] ?? 'body' } })
  }
  return events
}

/** How high over where it rests an ankle is in the air, at least, as a share of the height of the hips over it. */
const CLEAR = 0.025

/** The highest moment of each time in the air. */
function apexes({ played, contacts, unit = 1 }: CueScene): TakeEvent[] {
  const { take } = played
  const legs = Object.keys(contacts)
  if (legs.length === 0 || legs.every(leg => !contacts[leg].includes(1))) return []
  const tracks = tracksOf(played, ['hips', ...legs.map(leg => `${leg}Foot`)])
  const height = tracks.hips
  if (!height) return []
  // a heel is on the ground before its ball is
  const heels = legs.flatMap(leg => {
    const track = tracks[`${leg}Foot`]
    if (!track) return []
    const heights = Float32Array.from({ length: take.frames }, (_, f) => track[3 * f + 1])
    return [{ heights, low: quantile(heights, 0.05) }]
  })
  const clear =
    CLEAR *
    (quantile(
      Float32Array.from({ length: take.frames }, (_, f) => height[3 * f + 1]),
      0.5,
    ) -
      minOf(heels.map(h => h.low)))
  const stands = (f: number): boolean =>
    legs.some(leg => contacts[leg][f]) || heels.some(({ heights, low }) => heights[f] < low + clear)
  const events: TakeEvent[] = []
  for (let f = 0; f < take.frames; f++) {
    if (stands(f)) continue
    let end = f
    while (end + 1 < take.frames && !stands(end + 1)) end++
    // what begins or ends in the air has no highest moment that could be told
    if (f > 0 && end < take.frames - 1 && (end - f + 1) / take.fps > FLIGHT) {
      let top = f
      for (let g = f; g <= end; g++) if (height[3 * g + 1] > height[3 * top + 1]) top = g
      const low = Math.min(height[3 * (f - 1) + 1], height[3 * (end + 1) + 1])
      events.push({
        time: top / take.fps,
        name: 'apex',
        data: { rise: hundredth(unit * (height[3 * top + 1] - low)), seconds: hundredth((end - f + 1) / take.fps) },
      })
    }
    f = end
  }
  return events
}

const hundredth = (v: number): number => Math.round(100 * v) / 100
