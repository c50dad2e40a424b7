import { childrenOf, type Skeleton } from '../skeleton'
import { mixIn, restsAt, type MixedPose } from './blend'
import type { Clip } from './clip'
import type { Action, StatesDocument } from './states'

interface Acting {
  readonly clip: Clip
  readonly action: Pick<Action, 'key' | 'how' | 'part' | 'blend'>
  phase: number
  before: number
  /** Seconds since it began, and since it was let go. */
  age: number
  over?: number
  weight: number
}

/** What is held is held in its middle. */
const MIDDLE = 0.5
const soft = (t: number): number => t * t * (3 - 2 * t)

/** Things done on keys over whatever is played: once or as long as a key is held, with the whole body or from the waist up. */
export function createActions(
  { actions }: Pick<StatesDocument, 'actions'>,
  clips: ReadonlyMap<string, Clip>,
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
) {
  const children = childrenOf(skeleton)
  const under = (j: number): number[] => [j, ...children[j].flatMap(under)]
  const trunk = joints.spine ?? joints.chest
  const upper = trunk === undefined ? [] : under(trunk)
  const all = skeleton.names.map((_, j) => j)
  let acting: Acting[] = []

  function begin(take: string, action: Acting['action'] = { key: '', how: 'once', part: 'whole', blend: 0.18 }): void {
    const clip = clips.get(take)
    if (clip) acting.push({ clip, action, phase: 0, before: 0, age: 0, weight: 0 })
  }
  return {
    begin,
    step(dt: number, pressed: ReadonlySet<string>, held: ReadonlySet<string>): void {
      for (const a of actions)
        if (pressed.has(a.key) && !acting.some(x => x.action.part === a.part && x.over === undefined)) begin(a.take, a)
      for (const a of acting) {
        const { clip, action } = a
        a.age += dt
        const keeps = action.how === 'held' && held.has(action.key)
        const on = a.phase + dt / clip.seconds
        a.before = a.phase
        if (clip.kind === 'once') a.phase = Math.min(keeps ? Math.max(a.phase, MIDDLE) : 1, on)
        else if (on >= 1) {
          a.phase = on % 1
          a.before = 0
        } else a.phase = on
        const left = clip.kind === 'once' ? (1 - a.phase) * clip.seconds : Infinity
        const ends =
          clip.kind === 'once'
            ? left <= action.blend
            : action.how === 'held'
              ? !keeps
              : a.age >= clip.seconds - action.blend
        if (ends || a.over !== undefined) a.over = (a.over ?? 0) + dt
        const into = action.blend > 0 ? Math.min(1, a.age / action.blend) : 1
        const out = a.over === undefined ? 0 : action.blend > 0 ? Math.min(1, a.over / action.blend) : 1
        a.weight = soft(into) * (1 - soft(out))
      }
      acting = acting.filter(a => a.over === undefined || a.over < Math.max(a.action.blend, 1e-6))
    },
    /** Puts them over a pose. */
    mix(out: MixedPose): void {
      for (const a of acting) mixIn(out, a.clip, a.phase, a.weight, a.action.part === 'upper' ? upper : all)
    },
    /** Those the whole body does. */
    bodily: (): readonly Acting[] => acting.filter(a => a.action.part === 'whole'),
    /** Whether what the whole body does has it in the air. */
    flies: (): boolean =>
      acting.some(
        a =>
          a.action.part === 'whole' &&
          a.weight > 0.5 &&
          Object.keys(a.clip.rests).length > 0 &&
          Object.keys(a.clip.rests).every(leg => !restsAt(a.clip, leg, a.phase)),
      ),
    names: (): readonly string[] => acting.map(a => a.clip.name),
  }
}
