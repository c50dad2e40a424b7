import { mirroredEvent } from '@chiraxis/core/adjust'
import {
  CUE_DEFAULTS,
  FOUND_CUES,
  type CueData,
  type CueSettings,
  type FoundCue,
  type FoundCurve,
  type TakeCues,
  type ToldCue,
} from '@chiraxis/core/cues'
import type { TakeEvent } from '@chiraxis/core/motion'

export const CUE_WORDS: Record<FoundCue, string> = {
  footstep: 'Footsteps',
  crossing: 'Feet passing',
  touch: 'Hands touching',
  apex: 'Highest moments',
}

/** A moment as the score shows it. */
export interface ShownCue {
  readonly key: string
  readonly event: TakeEvent
  /** The record, where it was told by hand. */
  readonly told?: ToldCue
}

/** The moment that is chosen, and where it is while it is dragged. */
const chosenKey = ref<string>()

/** Moments and curves of the take in play. */
export function useCues() {
  const project = useProject()
  const derived = useDerived()
  const player = usePlayer()
  const { take, adjust, setTake } = useTakeEdit()
  const ownId = computed(() => (derived.ownShown ? derived.performed?.id : undefined))
  const mirrored = computed(() => !ownId.value && adjust.value.mirror)
  const settings = computed<CueSettings>(() => project.recipe.cues ?? (ownId.value ? {} : CUE_DEFAULTS))
  const told = computed<TakeCues>(() => (ownId.value ? project.recipe.ownCues?.[ownId.value] : take.value?.cues) ?? {})
  /** A record as the take shows it, sides and all. */
  function shown(cue: ToldCue): TakeEvent {
    const event: TakeEvent = { time: player.toTake(cue.at), name: cue.name, ...(cue.data && { data: cue.data }) }
    return mirrored.value ? mirroredEvent(event) : event
  }
  const list = computed<ShownCue[]>(() => {
    const events = derived.performed?.answer.take.events ?? []
    const left = (told.value.cues ?? []).filter(c => !c.without).map(c => ({ cue: c, at: shown(c) }))
    return events.map((event, i) => {
      const k = left.findIndex(l => l.at.name === event.name && Math.abs(l.at.time - event.time) < 1e-3)
      const [own] = k >= 0 ? left.splice(k, 1) : []
      return { key: own?.cue.id ?? `found-${i}-${event.name}`, event, ...(own && { told: own.cue }) }
    })
  })
  const chosen = computed(() => list.value.find(c => c.key === chosenKey.value))

  function keep(name: string, change: Partial<TakeCues>, joins = false): void {
    const next = Object.fromEntries(
      Object.entries({ ...told.value, ...change }).filter(
        ([, v]) => v !== undefined && !(Array.isArray(v) && v.length === 0),
      ),
    ) as TakeCues
    const cues = Object.keys(next).length > 0 ? next : undefined
    if (!ownId.value) return setTake(name, { cues }, joins)
    const { [ownId.value]: _, ...others } = project.recipe.ownCues ?? {}
    const kept = cues ? { ...others, [ownId.value]: cues } : others
    project.change(name, { ...project.recipe, ownCues: Object.keys(kept).length > 0 ? kept : undefined }, joins)
  }
  /** What is told of a moment of the take, of the recording's own sides. */
  function record(event: TakeEvent, without = false): ToldCue {
    const { time, name, data } = mirrored.value ? mirroredEvent(event) : event
    return {
      id: crypto.randomUUID(),
      at: Math.max(0, player.toRecording(time)),
      name,
      ...(data && { data: { ...data } }),
      ...(without && { without: true }),
    }
  }
  const cues = computed(() => told.value.cues ?? [])
  function add(name = 'cue'): void {
    const made = record({ time: player.frame / player.fps, name })
    keep(`Add a moment: ${name}`, { cues: [...cues.value, made] })
    chosenKey.value = made.id
  }
  /** Puts another moment in the place of one: a found one gives way by a record of its own. */
  function replace(words: string, cue: ShownCue, event: TakeEvent): void {
    const next = { ...record(event), ...(cue.told && { id: cue.told.id }) }
    const others = cue.told ? cues.value.filter(c => c.id !== cue.told!.id) : [...cues.value, record(cue.event, true)]
    keep(words, { cues: [...others, next] })
    chosenKey.value = next.id
  }
  const move = (cue: ShownCue, time: number): void => replace(`Move ${cue.event.name}`, cue, { ...cue.event, time })
  const rename = (cue: ShownCue, name: string): void => {
    if (name) replace(`Call a moment ${name}`, cue, { ...cue.event, name })
  }
  const setData = (cue: ShownCue, data: CueData | undefined): void =>
    replace(`What goes along with ${cue.event.name}`, cue, {
      time: cue.event.time,
      name: cue.event.name,
      ...(data && Object.keys(data).length > 0 && { data }),
    })
  function remove(cue: ShownCue): void {
    chosenKey.value = undefined
    keep(`Remove ${cue.event.name}`, {
      cues: cue.told ? cues.value.filter(c => c.id !== cue.told!.id) : [...cues.value, record(cue.event, true)],
    })
  }
  /** Found ones that were taken out, to be brought back. */
  const removed = computed(() => cues.value.filter(c => c.without))
  const bringBack = (id: string): void => keep('Moment as found', { cues: cues.value.filter(c => c.id !== id) })

  function set(name: string, change: CueSettings): void {
    project.change(name, { ...project.recipe, cues: { ...settings.value, ...change } })
  }
  const finds = (kind: FoundCue): boolean => settings.value.find?.includes(kind) === true
  const setFind = (kind: FoundCue, on: boolean): void =>
    set(on ? `Find ${CUE_WORDS[kind].toLowerCase()}` : `Leave out ${CUE_WORDS[kind].toLowerCase()}`, {
      find: FOUND_CUES.filter(k => (k === kind ? on : finds(k))),
    })
  const writes = (curve: FoundCurve): boolean => settings.value.curves?.includes(curve) === true
  const setWrites = (curve: FoundCurve, on: boolean): void =>
    set(on ? `Write the ${curve} along` : `Leave out the ${curve}`, {
      curves: [...(settings.value.curves ?? []).filter(c => c !== curve), ...(on ? [curve] : [])],
    })
  const setSurface = (surface: string): void => set('What feet step on', { surface: surface || undefined })
  return {
    settings,
    list,
    chosen,
    chosenKey,
    add,
    move,
    rename,
    setData,
    remove,
    removed,
    bringBack,
    finds,
    setFind,
    writes,
    setWrites,
    setSurface,
  }
}
