import { cycleSeconds, placeOf, sharesAt, type Share } from '../blend'
import type { Clip } from '../clip'
import { ANY, type Condition, type Rule, type State, type Table } from './document'

/** What rules ask for at a moment. */
export interface Values {
  /** By name: those every figure has and one's own. */
  readonly of: Readonly<Record<string, number>>
  readonly ground: boolean
  /** Keys that went down since the last step, and those that are down. */
  readonly pressed: ReadonlySet<string>
  readonly held: ReadonlySet<string>
}

/** A clip that is played: where it is now and was at the step before, and how much of the whole it is. */
export interface Part {
  readonly clip: Clip
  readonly phase: number
  readonly before: number
  readonly weight: number
}
export interface Playing {
  readonly parts: readonly Part[]
  /** The state that was gone over to last, and those of tables within it. */
  readonly state: readonly string[]
  /** Share of it already. */
  readonly share: number
  /** A rule holds and waits for steps to be where what follows begins. */
  readonly waits: boolean
  /** The rule that was taken in this step, by the table it stands in. */
  readonly took?: { readonly table: Table; readonly rule: Rule }
}
/** A state that played, and since when, seconds. */
export interface Played {
  readonly state: string
  readonly since: number
}

/** Steps that are kept together: all clips in it are at the same share of their cycle. */
interface Pace {
  phase: number
  before: number
}
interface Active {
  readonly state: State
  readonly pace: Pace
  readonly rule?: Rule
  /** Seconds since it was gone over to. */
  age: number
  readonly within?: Machine
}
/** One table at play: the first active state lies under all others, each over those before it by its own share. */
interface Machine {
  readonly table: Table
  active: Active[]
}

/** Seconds of what played that are told. */
export const TOLD_SECONDS = 10
/** How far into its cycle the first leg counts as just landed. */
const IN_STEP = 0.06
/** What is over by less than this goes on no more. */
const GONE = 1e-4

/**
 * Plays a table of states: takes the first rule that holds, blends from whatever was played, keeps steps together that
 * are to go on in step. A table in a table begins at its own first state each time.
 * @param clips by the names the table calls them; what is missing plays nothing
 */
export function createPlayer(table: Table, clips: ReadonlyMap<string, Clip>) {
  const firstOf = (t: Table): State => t.states.find(s => s.name === t.first) ?? t.states[0]
  const enter = (state: State, pace: Pace, rule?: Rule): Active => ({
    state,
    pace,
    rule,
    age: 0,
    ...('table' in state.plays && { within: machine(state.plays.table, pace) }),
  })
  const machine = (t: Table, pace: Pace): Machine => ({ table: t, active: [enter(firstOf(t), pace)] })
  /** Steps go on where they were left, over a stand between them too. */
  let stepped: Pace = { phase: 0, before: 0 }
  const root = machine(table, stepped)
  let time = 0
  let told: Played[] = [{ state: root.active[0].state.name, since: 0 }]

  /** What a state plays now: clips with shares of it. */
  function sharesOf({ plays }: State, { of }: Values): readonly Share[] {
    if ('table' in plays) return []
    if ('take' in plays) {
      const gait = clips.get(plays.take)
      return gait ? [{ gait, share: 1 }] : []
    }
    // by the places that were told: somebody may want a walk for a slower speed
    const known = plays.takes.filter(t => clips.has(t.take))
    const turns = plays.by === 'speed and turn'
    const shares = sharesAt(
      known.map(t => placeOf(t.speed, turns ? t.turn : undefined)),
      placeOf(of.speed ?? 0, turns ? ((of.turn ?? 0) * Math.PI) / 180 : undefined),
    )
    return known.map((t, i) => ({ gait: clips.get(t.take)!, share: shares[i] })).filter(s => s.share > GONE)
  }
  const leaf = (a: Active): Active => (a.within ? leaf(a.within.active[a.within.active.length - 1]) : a)

  function holds(c: Condition, a: Active, v: Values): boolean {
    if ('value' in c) return c.is === 'over' ? (v.of[c.value] ?? 0) > c.than : (v.of[c.value] ?? 0) < c.than
    if ('ground' in c) return c.ground === v.ground
    if ('key' in c)
      return c.is === 'pressed' ? v.pressed.has(c.key) : c.is === 'held' ? v.held.has(c.key) : !v.held.has(c.key)
    const { state, pace } = leaf(a)
    const main = [...sharesOf(state, v)].sort((p, q) => q.share - p.share)[0]?.gait
    if (!main) return 'left' in c
    if ('left' in c) return main.seconds * (1 - Math.min(1, pace.phase)) <= c.left
    const [from, to] = [pace.before, pace.phase]
    return (main.cues ?? []).some(
      cue => cue.name === c.cue && (from <= to ? cue.at > from && cue.at <= to : cue.at > from || cue.at <= to),
    )
  }
  /** What a state that plays one take plays. */
  const takeOf = (t: Table, name: string): Clip | undefined => {
    const plays = t.states.find(s => s.name === name)?.plays
    return plays && 'take' in plays ? clips.get(plays.take) : undefined
  }
  let waits = false
  function next({ table: t, active }: Machine, v: Values): Rule | undefined {
    const now = active[active.length - 1]
    const rule = t.rules.find(
      r =>
        (r.from === now.state.name || (r.from === ANY && r.to !== now.state.name)) &&
        t.states.some(s => s.name === r.to) &&
        leaf(now).pace.phase >= (r.after >= 1 ? 1 - 1e-6 : r.after) &&
        r.when.every(c => holds(c, now, v)),
    )
    // what comes out of steps is gone over to as they are where it begins: as the first leg lands
    const at = leaf(now)
    if (rule?.enters === 'in step' && takeOf(t, rule.to)?.begins !== undefined && hasSteps(at.state)) {
      const { before, phase } = at.pace
      if (before <= phase && phase > IN_STEP) {
        waits = true
        return undefined
      }
    }
    return rule
  }
  const weightOf = ({ rule, age }: Active): number => {
    if (!rule || rule.blend <= 0) return 1
    const t = Math.min(1, age / rule.blend)
    return rule.curve === 'even' ? t : rule.curve === 'soft' ? t * t * (3 - 2 * t) : 1 - (1 - t) ** 3
  }
  /** Every active state with no table within, and how much of the whole it is. */
  function weighed(m: Machine, whole: number, out: { a: Active; weight: number }[]): void {
    let left = whole
    for (let i = m.active.length - 1; i >= 0; i--) {
      const a = m.active[i]
      const own = left * (i === 0 ? 1 : weightOf(a))
      left -= own
      if (a.within) weighed(a.within, own, out)
      else out.push({ a, weight: own })
    }
  }
  const hasSteps = (state: State): boolean =>
    !('table' in state.plays) &&
    ('take' in state.plays ? [state.plays.take] : state.plays.takes.map(t => t.take)).some(
      n => clips.get(n)?.kind === 'steps',
    )

  let took: Playing['took']
  function advance(m: Machine, dt: number, v: Values): void {
    const rule = next(m, v)
    if (rule) {
      const state = m.table.states.find(s => s.name === rule.to)!
      const from = leaf(m.active[m.active.length - 1])
      if (hasSteps(from.state)) stepped = from.pace
      // and what goes over into them has the first leg land at its end
      else if (takeOf(m.table, from.state.name)?.ends !== undefined) stepped = { phase: 0, before: 0 }
      const pace = rule.enters === 'in step' && ('table' in state.plays || hasSteps(state)) ? stepped : { phase: 0, before: 0 } // prettier-ignore
      m.active.push(enter(state, pace, rule))
      took = { table: m.table, rule }
      if (m === root) told.push({ state: state.name, since: time })
    }
    for (const a of m.active) {
      a.age += dt
      if (a.within) advance(a.within, dt, v)
    }
    // what is wholly over all before it is all that is left
    let bottom = m.active.length - 1
    while (bottom > 0 && weightOf(m.active[bottom]) < 1 - GONE) bottom--
    if (bottom > 0) m.active = m.active.slice(bottom)
  }

  return {
    step(dt: number, v: Values): Playing {
      time += dt
      took = undefined
      waits = false
      advance(root, dt, v)
      const all: { a: Active; weight: number }[] = []
      weighed(root, 1, all)
      const played = all.map(({ a, weight }) => ({ a, weight, shares: sharesOf(a.state, v) }))
      // each pace goes on once, as all that is kept in it does together
      for (const pace of new Set(played.map(p => p.a.pace))) {
        const own = played.filter(p => p.a.pace === pace)
        const shares = own.flatMap(p => p.shares.map(s => ({ gait: s.gait, share: s.share * p.weight })))
        const steps = shares.filter(s => s.gait.kind === 'steps')
        pace.before = pace.phase
        if (steps.length > 0) pace.phase = (pace.phase + dt / cycleSeconds(steps, v.of.speed ?? 0)) % 1
        else if (shares.length > 0) {
          const sum = shares.reduce((s, x) => s + x.share, 0)
          const seconds = sum > 0 ? shares.reduce((s, x) => s + x.share * x.gait.seconds, 0) / sum : shares[0].gait.seconds // prettier-ignore
          const on = pace.phase + dt / seconds
          pace.phase = shares.every(s => s.gait.kind === 'once') ? Math.min(1, on) : on % 1
        }
      }
      told = told.filter((_, i) => i === told.length - 1 || told[i + 1].since > time - TOLD_SECONDS)
      const path = (m: Machine): string[] => {
        const a = m.active[m.active.length - 1]
        return [a.state.name, ...(a.within ? path(a.within) : [])]
      }
      return {
        parts: played.flatMap(({ a, weight, shares }) =>
          shares
            .map(s => ({ clip: s.gait, phase: a.pace.phase, before: a.pace.before, weight: weight * s.share }))
            .filter(p => p.weight > GONE),
        ),
        state: path(root),
        share: weightOf(root.active[root.active.length - 1]),
        took,
        waits,
      }
    },
    /** What played in the last ten seconds, oldest first; `since` counts from the beginning, as `time` does. */
    told: (): { readonly time: number; readonly list: readonly Played[] } => ({ time, list: told }),
  }
}
export type Player = ReturnType<typeof createPlayer>
