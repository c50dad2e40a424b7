import type { Clip } from '../clip'
import type { Action, Rule, State, StatesDocument } from './document'

/** Under this, metres a second, a figure is on its way to standing; over it it goes. */
const STANDS = 0.3,
  GOES = 0.12
/** Degrees it must be led aside for a turn on the spot. */
const ASIDE = 55
/** Seconds before the end of something done once that it goes over. */
const OVER = 0.25
/** Words of takes that are done with the arms and trunk. */
const ARMS = /wave|point|talk|salute|shrug|clap|nod|reach|beckon|throw|drink|lift/i
const JUMPS = /(^|[^\p{L}])(jump|hop|leap)/iu
/** Keys actions are put on, in their order: what lies around those that lead. */
const KEYS = ['q', 'e', 'r', 'f', 'c', 'v', 'x', 'z', 't', 'g']

/** Whether something done once turns the body where it stands: by how much, radians. */
export function turnOnTheSpot(clip: Clip): number {
  if (clip.kind !== 'once' || !clip.way) return 0
  const [x, z, turned] = clip.way.subarray(3 * (clip.samples - 1))
  return Math.hypot(x, z) < 0.5 && Math.abs(turned) > 0.6 ? turned : 0
}

/** The table a figure has of itself: it stands, goes as fast as it is led, turns where it has takes for it, jumps, and does on keys what it has been recorded doing. */
export function standardStates(clips: readonly Clip[]): StatesDocument {
  const steps = clips.filter(c => c.kind === 'steps').sort((a, b) => a.speed - b.speed)
  const stands = clips.filter(c => c.kind === 'stand')
  const stand = stands.find(c => /idle/i.test(c.name)) ?? stands[0]
  const once = clips.filter(c => c.kind === 'once')
  const straight = steps.filter(c => Math.abs(c.turn) * c.seconds < 0.35)
  const turning = steps.length > straight.length && straight.length > 0
  const states: State[] = []
  const rules: Rule[] = []
  const plain = { curve: 'soft', after: 0, enters: 'in step' } as const
  if (stand) states.push({ name: 'stands', plays: { take: stand.name } })
  for (const side of [1, -1] as const) {
    const turn = once.find(c => turnOnTheSpot(c) * side > 0)
    if (!turn || !stand || steps.length === 0) continue
    const name = side > 0 ? 'turns left' : 'turns right'
    states.push({ name, plays: { take: turn.name } })
    rules.push(
      { ...plain, from: 'stands', to: name, when: [{ value: 'bearing', is: side > 0 ? 'over' : 'under', than: side * ASIDE }], blend: 0.2, enters: 'start' }, // prettier-ignore
      { ...plain, from: name, to: 'goes', when: [{ value: 'bearing', is: side > 0 ? 'under' : 'over', than: side * 15 }, { value: 'wish', is: 'over', than: GOES }], blend: 0.3 }, // prettier-ignore
      { ...plain, from: name, to: 'stands', when: [{ left: OVER }], blend: OVER, enters: 'start' },
    )
  }
  if (steps.length > 0)
    states.push({
      name: 'goes',
      plays: {
        by: turning ? 'speed and turn' : 'speed',
        takes: (turning ? steps : straight.length > 0 ? straight : steps).map(c => ({
          take: c.name,
          speed: rounded(c.speed),
          turn: rounded(c.turn),
        })),
      },
    })
  // where there are takes for it, it sets off and comes to stand by them
  const sets = once.find(c => c.ends !== undefined)
  const stops = once.find(c => c.begins !== undefined)
  if (stand && steps.length > 0 && sets) {
    states.push({ name: 'sets off', plays: { take: sets.name } })
    rules.push(
      { ...plain, from: 'stands', to: 'sets off', when: [{ value: 'wish', is: 'over', than: GOES }], blend: 0.2, enters: 'start' }, // prettier-ignore
      { ...plain, from: 'sets off', to: 'goes', when: [{ left: 0.15 }], blend: 0.15 },
      { ...plain, from: 'sets off', to: 'stands', when: [{ value: 'wish', is: 'under', than: GOES }], blend: 0.35, enters: 'start' }, // prettier-ignore
    )
  }
  if (stand && steps.length > 0 && stops) {
    states.push({ name: 'stops', plays: { take: stops.name } })
    rules.push(
      {
        ...plain,
        from: 'goes',
        to: 'stops',
        when: [
          { value: 'wish', is: 'under', than: GOES },
          { value: 'speed', is: 'over', than: hundredth(0.7 * stops.begins!) },
          { value: 'speed', is: 'under', than: hundredth(1.3 * stops.begins!) },
        ],
        blend: 0.2,
      },
      { ...plain, from: 'stops', to: 'goes', when: [{ value: 'wish', is: 'over', than: GOES }], blend: 0.3 },
      { ...plain, from: 'stops', to: 'stands', when: [{ left: OVER }], blend: OVER, enters: 'start' },
    )
  }
  if (stand && steps.length > 0) {
    const slow = hundredth(Math.min(STANDS, 0.4 * steps[0].speed))
    const goes = hundredth(Math.min(GOES, slow / 2))
    rules.push(
      { ...plain, from: 'stands', to: 'goes', when: [{ value: 'speed', is: 'over', than: goes }], blend: 0.25 }, // prettier-ignore
      {
        ...plain,
        from: 'goes',
        to: 'stands',
        when: [
          { value: 'speed', is: 'under', than: slow },
          { value: 'wish', is: 'under', than: goes },
        ],
        blend: 0.35,
        enters: 'start',
      },
    )
  }
  const jump = once.find(c => JUMPS.test(c.name))
  const doing = [
    ...stands.filter(c => c !== stand),
    ...once.filter(c => c !== jump && c !== sets && c !== stops && turnOnTheSpot(c) === 0),
  ]
  const actions = doing.slice(0, KEYS.length).map((c, i): Action => ({
    key: KEYS[i],
    take: c.name,
    how: c.kind === 'stand' && !ARMS.test(c.name) ? 'held' : 'once',
    part: ARMS.test(c.name) ? 'upper' : 'whole',
    blend: 0.25,
  }))
  return {
    format: 'chiraxis-states',
    version: 1,
    table: {
      first: stand ? 'stands' : 'goes',
      states: states.length > 0 ? states : [{ name: 'stands', plays: { take: clips[0]?.name ?? 'none' } }],
      rules,
    },
    actions,
    jump: { key: 'Space', ...(jump && { take: jump.name }) },
    values: [],
  }
}
const hundredth = (v: number): number => Math.round(100 * v) / 100
const rounded = (v: number): number => Math.round(1000 * v) / 1000
