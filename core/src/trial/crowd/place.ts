import { seededRandom } from '../../math'
import type { Clip } from '../clip'
import type { Agent, CrowdSettings, Way } from './document'
import { alongWay, wayLength } from './ways'

/** Metres one keeps from the next where both stand, and how much more between two on one way. */
export const APART = 0.75
const MORE = 0.25
/** Metres from one to the next on a way. */
export const gapOf = (kinds: readonly { readonly room?: number }[]): number => roomOf(kinds) + MORE
const roomOf = (kinds: readonly { readonly room?: number }[]): number =>
  kinds.reduce((m, k) => Math.max(m, k.room ?? APART), APART)
/** Metres from one way to the next beside it. */
const LANES = 1.9
/** Half the width of a way's two lines. */
const RADIUS = 0.95

/** What an agent of a kind may play. */
export interface KindClips {
  /** Metres one takes up from end to end, where that is more than a person does. */
  readonly room?: number
  readonly clips: readonly Pick<Clip, 'name' | 'kind' | 'speed' | 'seconds'>[]
}

/**
 * Puts a crowd in its place: some walk along ways, the others stand where no way goes and nobody stands yet. Seeded: the same settings give the same crowd.
 * Where there is no more room fewer are placed.
 */
export function placeCrowd(
  settings: CrowdSettings,
  kinds: readonly KindClips[],
): { readonly ways: readonly Way[]; readonly agents: readonly Agent[] } {
  const { agents: wanted, walking, across, seed, heights, paces, tints } = settings
  const next = seededRandom(seed)
  const half = across / 2
  const canWalk = kinds.flatMap((k, i) => (k.clips.some(c => c.kind === 'steps') ? [i] : []))
  // what is done once ends with a jump where it is played on and on: only where there is nothing else
  const stays = kinds.map(k => {
    const stands = k.clips.filter(c => c.kind === 'stand')
    return stands.length > 0 ? stands : k.clips.filter(c => c.kind === 'once')
  })
  const canStand = stays.flatMap((list, i) => (list.length > 0 ? [i] : []))
  const pick = <T>(list: readonly T[]): T => list[Math.min(list.length - 1, Math.floor(next() * list.length))]
  const about = (kind: number): Pick<Agent, 'kind' | 'height' | 'tint' | 'pace' | 'offset'> => {
    const hue = next()
    const light = 1 - 0.35 * tints * next()
    const of = (shift: number): number =>
      light * (1 - tints * 0.45 * (0.5 + 0.5 * Math.cos(2 * Math.PI * (hue + shift))))
    return {
      kind,
      height: 1 + heights * (2 * next() - 1),
      tint: [of(0), of(1 / 3), of(2 / 3)],
      pace: 1 + paces * (2 * next() - 1),
      offset: next(),
    }
  }
  const agents: Agent[] = []
  const walkers = canWalk.length === 0 ? 0 : canStand.length === 0 ? wanted : Math.round(wanted * walking)
  // as many ways as it takes for all who walk, the middle ones first
  const straight = Math.max(1, across - 2 * RADIUS)
  const room = Math.floor(wayLength({ from: [0, 0], to: [0, straight], radius: RADIUS }) / (1.6 * gapOf(kinds)))
  const most = Math.max(1, Math.floor(across / (2 * LANES)))
  const count = walkers === 0 ? 0 : Math.min(most, Math.ceil(walkers / room))
  const ways: Way[] = Array.from({ length: count }, (_, i) => {
    const x = (i % 2 ? 1 : -1) * Math.ceil(i / 2) * 2 * LANES
    return { from: [x, -half + RADIUS], to: [x, half - RADIUS], radius: RADIUS }
  })
  for (let i = 0; i < Math.min(walkers, count * room); i++) {
    const way = i % count
    const own = Math.ceil((Math.min(walkers, count * room) - way) / count)
    const kind = pick(canWalk)
    const clip = pick(kinds[kind].clips.filter(c => c.kind === 'steps'))
    const along = (wayLength(ways[way]) * (Math.floor(i / count) + 0.3 * next())) / own
    const [x, z, heading] = alongWay(ways[way], along)
    agents.push({ ...about(kind), clip: clip.name, at: [x, z], heading, way, along })
  }
  // darts: a place is taken where it is free, tried again where not
  const apart = roomOf(kinds)
  const free = (x: number, z: number): boolean =>
    ways.every(w => Math.abs(x - w.from[0]) > RADIUS + 0.6) &&
    agents.every(a => a.way !== undefined || Math.hypot(a.at[0] - x, a.at[1] - z) >= apart)
  const standing = canStand.length === 0 ? 0 : wanted - agents.length
  for (let i = 0, tries = 0; i < standing && tries < 60 * wanted; tries++) {
    const [x, z] = [half * (2 * next() - 1), half * (2 * next() - 1)]
    if (!free(x, z)) continue
    const kind = pick(canStand)
    agents.push({ ...about(kind), clip: pick(stays[kind]).name, at: [x, z], heading: Math.PI * (2 * next() - 1) })
    i++
  }
  // in no order, so that the first of them are like all of them (Fisher and Yates 1938)
  for (let i = agents.length - 1; i > 0; i--) {
    const j = Math.floor(next() * (i + 1))
    ;[agents[i], agents[j]] = [agents[j], agents[i]]
  }
  return { ways, agents }
}
