import { ADJUST_DEFAULTS, type AdjustSettings } from '@chiraxis/core/adjust'
import type { TakeCorrections } from '@chiraxis/core/perform'
import type { ToldContact } from '@chiraxis/core/correct'
import type { TakeRef } from '@chiraxis/core/recipe'
import { EMPTY_NOTE, type PerformerNote } from '@chiraxis/core/retarget'
import type { ShownContact, Stretch } from '~/stores/stretch'

/** What is told of a take, and where a recipe keeps it of those that came with the body. */
const KEPT_APART = {
  root: 'ownRoot',
  cues: 'ownCues',
  layers: 'ownLayers',
  props: 'ownProps',
  contacts: 'ownContacts',
} as const
export type ToldKind = keyof typeof KEPT_APART

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
  /** The take in play where it came with the body: what is told of it is kept by its id. */
  const ownId = computed(() => (derived.ownShown ? derived.performed?.id : undefined))
  /** What is told of the take in play, wherever that is kept. */
  const toldOf = <K extends ToldKind>(kind: K): TakeRef[K] =>
    ownId.value
      ? (project.recipe[KEPT_APART[kind]] as Record<string, TakeRef[K]> | undefined)?.[ownId.value]
      : take.value?.[kind]
  /** Tells something of the take in play. @param beside what changes of its record along with it, where it has one */
  function tell<K extends ToldKind>(
    name: string,
    kind: K,
    value: TakeRef[K],
    joins = false,
    beside: Partial<TakeRef> = {},
  ): void {
    const bare = Array.isArray(value) && value.length === 0 ? undefined : value
    if (!ownId.value) return setTake(name, { ...beside, [kind]: bare }, joins)
    const { [KEPT_APART[kind]]: before, ...recipe } = project.recipe
    const { [ownId.value]: _, ...others } = (before ?? {}) as Record<string, TakeRef[K]>
    const kept = bare === undefined ? others : { ...others, [ownId.value]: bare }
    const words = `${derived.performed?.answer.take.name ?? 'Take'}: ${name}`
    const next = { ...recipe, ...(Object.keys(kept).length > 0 && { [KEPT_APART[kind]]: kept }) }
    project.change(words, next as unknown as typeof project.recipe, joins)
  }
  const contacts = computed<readonly ToldContact[]>(() => toldOf('contacts') ?? [])
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
  const stretch = useStretch()
  const ownStretch = computed(() => take.value?.stretches?.find(s => alike(s, stretch.span)))
  /** What is corrected of the chosen stretch, or of the take in play, and whether that is settled for the take alone. */
  const corrections = computed(() => ({
    ...project.recipe.transfer,
    ...take.value?.correct,
    ...(stretch.span && ownStretch.value?.correct),
  }))
  const alone = computed(() => take.value?.correct !== undefined)
  /** Changes a correction of the chosen stretch; of all takes, or of the one in play where it is settled for it alone. */
  function setCorrection(name: string, change: TakeCorrections, joins = false): void {
    const span = stretch.span
    if (span && take.value) {
      const before = ownStretch.value
      const made = { from: span.from, to: span.to, correct: { ...before?.correct, ...change } }
      const others = (take.value.stretches ?? []).filter(s => s !== before)
      setTake(`${name} for a stretch`, { stretches: [...others, made] }, joins)
    } else if (take.value?.correct) setTake(name, { correct: { ...take.value.correct, ...change } }, joins)
    else setTransfer(name, change, joins)
  }
  const setAlone = (own: boolean): void =>
    setTake(own ? 'Correct this take otherwise' : 'Correct as all takes', { correct: own ? {} : undefined })
  function removeStretch(of: Stretch): void {
    const left = (take.value?.stretches ?? []).filter(s => !alike(s, of))
    setTake('Correct a stretch as the rest', { stretches: left.length > 0 ? left : undefined })
  }
  /** Tells that something touches, or does not, over what is found. */
  function tellContact(told: ToldContact): void {
    const words = `${told.holds ? 'Add' : 'Remove'} contact, ${contactWords(told)}`
    const within = { ...told, from: Math.max(0, told.from), to: Math.max(0, told.to) }
    tell(words, 'contacts', [...contacts.value, within])
  }
  /** Removes the contact that is chosen in the score. */
  function removeContact(): void {
    const { contact } = stretch
    if (!contact) return
    stretch.clear()
    tellContact({ ...contact, holds: false })
  }
  /** Records of one contact that a new one covers wholly say nothing any more. */
  function withContacts(words: string, made: readonly ToldContact[]): void {
    const covered = (old: ToldContact): boolean =>
      made.some(m => m.part === old.part && m.onto === old.onto && m.from <= old.from + 1e-6 && m.to >= old.to - 1e-6)
    tell(words, 'contacts', [...contacts.value.filter(c => !covered(c)), ...made])
  }
  /** A contact that begins or ends at another time: what is new of it is told to hold, what is cut off not to. */
  function reshapeContact(contact: ShownContact, from: number, to: number): void {
    const { part, onto } = contact
    const made: ToldContact[] = []
    const answer = derived.performed?.answer
    const frame = 1 / (answer?.recorded.fps ?? answer?.take.fps ?? 30)
    if (from < contact.from - 1e-6) made.push({ part, onto, from, to: contact.from, holds: true })
    if (from > contact.from + 1e-6) made.push({ part, onto, from: contact.from, to: from - frame, holds: false })
    if (to > contact.to + 1e-6) made.push({ part, onto, from: contact.to, to, holds: true })
    if (to < contact.to - 1e-6) made.push({ part, onto, from: to + frame, to: contact.to, holds: false })
    if (made.length === 0) return
    withContacts(`Change contact, ${contactWords(contact)}`, made)
    stretch.chooseContact({ part, onto, from, to })
  }
  /** Two contacts in the place of one: it lets go at a moment, for so many seconds. */
  function splitContact(contact: ShownContact, at: number, gap: number): void {
    const { part, onto } = contact
    withContacts(`Split contact, ${contactWords(contact)}`, [
      { part, onto, from: Math.max(0, at - gap / 2), to: at + gap / 2, holds: false },
    ])
    stretch.clear()
  }
  /** One contact in the place of two. */
  function joinContacts(contact: ShownContact, next: ShownContact): void {
    const { part, onto } = contact
    withContacts(`Join contacts, ${contactWords(contact)}`, [
      { part, onto, from: Math.min(contact.to, next.to), to: Math.max(contact.from, next.from), holds: true },
    ])
    stretch.clear()
  }
  function forgetContact(index: number): void {
    tell(
      'Contact back to auto',
      'contacts',
      contacts.value.filter((_, i) => i !== index),
    )
  }
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
    ownId,
    toldOf,
    tell,
    contacts,
    corrections,
    alone,
    setCorrection,
    setAlone,
    removeStretch,
    tellContact,
    removeContact,
    forgetContact,
    reshapeContact,
    splitContact,
    joinContacts,
  }
}

const alike = (a: Stretch, b: Stretch | undefined): boolean =>
  b !== undefined && Math.abs(a.from - b.from) < 1e-6 && Math.abs(a.to - b.to) < 1e-6
