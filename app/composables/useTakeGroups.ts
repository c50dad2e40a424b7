import { counted } from '@chiraxis/core/words'
import type { TakeRef } from '@chiraxis/core/recipe'

export interface TakeGroup {
  readonly performer: string
  readonly label: string
  readonly takes: readonly TakeRef[]
  readonly ids: readonly string[]
}

const others = ref(false)

/** The takes of the project by performer, as searched for; those recorded on the other number of legs are kept out of the way. */
export function useTakeGroups(query: () => string) {
  const project = useProject()
  const derived = useDerived()
  const found = computed(() =>
    project.recipe.takes.filter(
      t =>
        !query() ||
        `${t.name} ${t.performer} ${(t.tags ?? []).join(' ')}`.toLowerCase().includes(query().toLowerCase()),
    ),
  )
  const unfit = computed(() => found.value.filter(t => !derived.fits(t)).length)
  const groups = computed<TakeGroup[]>(() => {
    const out = new Map<string, TakeRef[]>()
    for (const t of found.value)
      if (others.value || derived.fits(t)) out.set(t.performer, [...(out.get(t.performer) ?? []), t])
    return [...out].map(([performer, takes]) => ({
      performer,
      takes,
      label: performer === 'own file' ? 'Brought in' : `Performer ${performer}`,
      ids: takes.map(t => t.id),
    }))
  })
  /** What is kept out of the way, in words. */
  const unfitWords = computed(() =>
    unfit.value === 0
      ? ''
      : `${counted(unfit.value, 'take')} for bodies on ${derived.kind === 'fourleg' ? 'two' : 'four'} legs`,
  )
  return { groups, unfitWords, others }
}
