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
  type ToldCurve,
  curveAt,
} from '@chiraxis/core/cues'
import { sameMoment } from '@chiraxis/core/layers'
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
/** The curve that is chosen, by its name. */
const chosenCurve = ref<string>()

/** Moments and curves of the take in play. */
export function useCues() {
  const project = useProject()
  const derived = useDerived()
  const player = usePlayer()
  const { adjust, ownId, toldOf, tell } = useTakeEdit()
  const mirrored = computed(() => !ownId.value && adjust.value.mirror)
  const settings = computed<CueSettings>(() => project.recipe.cues ?? (ownId.value ? {} : CUE_DEFAULTS))
  const told = computed<TakeCues>(() => toldOf('cues') ?? {})
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
    tell(name, 'cues', Object.keys(next).length > 0 ? next : undefined, joins)
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
  const bringBack = (id: string): void => keep('Moment back to auto', { cues: cues.value.filter(c => c.id !== id) })

  // --- curves of one's own ---
  const curves = computed<readonly ToldCurve[]>(() => told.value.curves ?? [])
  const curve = computed(() => curves.value.find(c => c.name === chosenCurve.value) ?? curves.value[0])
  /** The moment of the recording that is shown. */
  const at = computed(() => Math.max(0, player.toRecording(player.frame / player.fps)))
  const curveValue = computed(() => (curve.value?.keys.length ? curveAt(curve.value.keys, at.value) : 0))
  const keyed = computed(() => curve.value?.keys.some(k => sameMoment(k.at, at.value)) === true)
  function keepCurve(words: string, next: ToldCurve, joins = false): void {
    const known = curves.value.some(c => c.name === next.name)
    const list = known ? curves.value.map(c => (c.name === next.name ? next : c)) : [...curves.value, next]
    keep(words, { curves: list.map(c => ({ name: c.name, keys: c.keys.map(k => ({ ...k })) })) }, joins)
  }
  function addCurve(): void {
    const names = new Set(curves.value.map(c => c.name))
    let n = curves.value.length + 1
    while (names.has(`curve ${n}`)) n++
    chosenCurve.value = `curve ${n}`
    keepCurve('Add a curve', { name: chosenCurve.value, keys: [{ at: at.value, value: 0 }] })
  }
  function setCurveKey(value: number, joins = false): void {
    const c = curve.value
    if (!c) return
    const others = c.keys.filter(k => !sameMoment(k.at, at.value))
    const keys = [...others, { at: at.value, value }].sort((a, b) => a.at - b.at)
    keepCurve(`Key of ${c.name}`, { name: c.name, keys }, joins)
  }
  function removeCurveKey(): void {
    const c = curve.value
    if (!c || c.keys.length < 2) return
    keepCurve(`Remove a key of ${c.name}`, { name: c.name, keys: c.keys.filter(k => !sameMoment(k.at, at.value)) })
  }
  function renameCurve(name: string): void {
    const c = curve.value
    if (!c || !name || curves.value.some(o => o.name === name)) return
    chosenCurve.value = name
    keep(`Call a curve ${name}`, {
      curves: curves.value.map(o => ({ name: o === c ? name : o.name, keys: o.keys.map(k => ({ ...k })) })),
    })
  }
  function removeCurve(): void {
    const c = curve.value
    if (c) keep(`Remove ${c.name}`, { curves: curves.value.filter(o => o !== c) })
  }

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
    curves,
    curve,
    chosenCurve,
    curveValue,
    keyed,
    addCurve,
    setCurveKey,
    removeCurveKey,
    renameCurve,
    removeCurve,
  }
}
