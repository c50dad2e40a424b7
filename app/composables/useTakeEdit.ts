import { ADJUST_DEFAULTS, type AdjustSettings } from '@chiraxis/core/adjust'
import type { TakeCorrections } from '@chiraxis/core/perform'
import type { TakeRef } from '@chiraxis/core/recipe'
import { EMPTY_NOTE, type PerformerNote } from '@chiraxis/core/retarget'

/** The take in play, what is changed about it, and what is settled about its performer. */
export function useTakeEdit() {
  const project = useProject()
  const derived = useDerived()
  const take = computed<TakeRef | undefined>(() => project.recipe.takes.find(t => t.id === derived.wantedTake))
  const adjust = computed<AdjustSettings>(() => ({ ...ADJUST_DEFAULTS, ...take.value?.adjust }))
  const key = computed(() =>
    derived.performed?.id === derived.wantedTake ? derived.performed?.answer.performerKey : undefined,
  )
  const note = computed<PerformerNote>(() => (key.value && project.recipe.performers[key.value]) || EMPTY_NOTE)

  /** Only what differs from leaving the take alone is kept. */
  const trimmed = (settings: Partial<AdjustSettings>): TakeRef['adjust'] => {
    const own = Object.fromEntries(
      Object.entries(settings).filter(
        ([k, v]) => v !== undefined && JSON.stringify(v) !== JSON.stringify(ADJUST_DEFAULTS[k as keyof AdjustSettings]),
      ),
    )
    return Object.keys(own).length > 0 ? own : undefined
  }
  /** Changes the take in play. @param words what the change is called, from the take's name */
  function editTake(words: (name: string) => string, change: Partial<TakeRef>, joins = false): void {
    const t = take.value
    if (!t) return
    const takes = project.recipe.takes.map(o => (o.id === t.id ? { ...o, ...change } : o))
    project.change(words(t.name), { ...project.recipe, takes }, joins)
  }
  const setTake = (name: string, change: Partial<TakeRef>, joins = false): void =>
    editTake(of => `${name}: ${of}`, change, joins)
  function setAdjust(name: string, change: Partial<AdjustSettings>, joins = false): void {
    setTake(name, { adjust: trimmed({ ...take.value?.adjust, ...change }) }, joins)
  }
  /** Gives every take of the same performer the settings of this one, but for what is cut away. */
  function spread(): void {
    const t = take.value
    if (!t) return
    project.change(`Tune all takes of ${t.performer} alike`, {
      ...project.recipe,
      takes: project.recipe.takes.map(o =>
        o.performer === t.performer ? { ...o, adjust: trimmed({ ...t.adjust, trim: o.adjust?.trim }) } : o,
      ),
    })
  }
  function resetAdjust(): void {
    editTake(name => `Leave ${name} as recorded`, { adjust: undefined })
  }
  function setNote(name: string, change: Partial<PerformerNote>, joins = false): void {
    if (!key.value) return
    project.change(
      name,
      { ...project.recipe, performers: { ...project.recipe.performers, [key.value]: { ...note.value, ...change } } },
      joins,
    )
  }
  const setTransfer = (name: string, change: Partial<typeof project.recipe.transfer>, joins = false): void =>
    project.change(name, { ...project.recipe, transfer: { ...project.recipe.transfer, ...change } }, joins)
  /** What is corrected of the take in play, and whether that is settled for it alone. */
  const corrections = computed(() => ({ ...project.recipe.transfer, ...take.value?.correct }))
  const alone = computed(() => take.value?.correct !== undefined)
  /** Changes a correction of all takes, or of the one in play where it is settled for it alone. */
  function setCorrection(name: string, change: TakeCorrections, joins = false): void {
    if (take.value?.correct) setTake(name, { correct: { ...take.value.correct, ...change } }, joins)
    else setTransfer(name, change, joins)
  }
  const setAlone = (own: boolean): void =>
    setTake(own ? 'Correct this take otherwise' : 'Correct as all takes', { correct: own ? {} : undefined })
  return {
    take,
    adjust,
    key,
    note,
    setAdjust,
    spread,
    resetAdjust,
    setNote,
    setTransfer,
    editTake,
    setTake,
    corrections,
    alone,
    setCorrection,
    setAlone,
  }
}
