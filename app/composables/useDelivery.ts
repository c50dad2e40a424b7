import {
  checkProfile,
  MOST_PROFILES,
  plainProfile,
  readProfile,
  SHIPPED_PROFILES,
  writeProfile,
  type Profile,
} from '@chiraxis/core/delivery'
import type { DeliveryFormat } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'

export const FORMAT_NAMES: Record<DeliveryFormat, string> = {
  glb: 'GLB',
  gltf: 'glTF, files beside it',
  vrm: 'VRM 1.0',
  vrma: 'VRM Animation',
  bvh: 'BVH',
  usda: 'USD text',
  obj: 'OBJ',
}

/** A group of takes that can go along. */
export interface DeliveredGroup {
  readonly name: string
  readonly takes: readonly { readonly id: string; readonly name: string }[]
}

/** How the figure is delivered: kept with the project. */
export function useDelivery() {
  const project = useProject()
  const derived = useDerived()
  const { refusal } = useFiles()
  const kept = computed(() => project.recipe.delivery ?? {})
  const profile = computed<Profile>(() => kept.value.profile ?? SHIPPED_PROFILES[0]!)
  const own = computed<readonly Profile[]>(() => kept.value.profiles ?? [])
  const known = computed(() => [...SHIPPED_PROFILES, ...own.value])
  /** The profile as it is called, where nothing of it was changed. */
  const called = computed(() => {
    const told = JSON.stringify(profile.value)
    return known.value.find(p => p.name === profile.value.name && JSON.stringify(p) === told)?.name
  })
  function keep(words: string, change: Partial<NonNullable<typeof project.recipe.delivery>>, joins = false): void {
    const next = Object.fromEntries(Object.entries({ ...kept.value, ...change }).filter(([, v]) => v !== undefined))
    project.change(words, { ...project.recipe, delivery: Object.keys(next).length > 0 ? next : undefined }, joins)
  }
  function set(words: string, change: Partial<Profile>, joins = false): void {
    const next = Object.fromEntries(
      Object.entries({ ...profile.value, ...change }).filter(([, v]) => v !== undefined),
    ) as Profile
    try {
      keep(words, { profile: { ...checkProfile(next) } }, joins)
    } catch (error) {
      if (!(error instanceof ChiraxisError)) throw error
      refusal.value = { text: error.message, unchanged: true }
    }
  }
  function choose(name: string): void {
    const found = known.value.find(p => p.name === name)
    if (found) keep(`Write files as ${name}`, { profile: { ...found } })
  }
  function setFormat(format: DeliveryFormat): void {
    const plain = plainProfile(format)
    set(`Write files as ${FORMAT_NAMES[format]}`, {
      format,
      content: plain.content,
      split: plain.split,
      file: plain.file,
    })
  }
  /** Keeps the profile under a name of its own, in the place of one that is called so. */
  function saveProfile(name: string): void {
    if (!name || SHIPPED_PROFILES.some(p => p.name === name)) return
    const made = { ...profile.value, name }
    const others = own.value.filter(p => p.name !== name)
    if (others.length >= MOST_PROFILES) return
    keep(`Keep the profile ${name}`, { profile: made, profiles: [...others, made] })
  }
  function removeProfile(name: string): void {
    const left = own.value.filter(p => p.name !== name)
    keep(`Remove the profile ${name}`, { profiles: left.length > 0 ? left : undefined })
  }
  const exportProfile = (): void =>
    saveAs(`${fileStem(profile.value.name)}.profile.json`, writeProfile(profile.value), 'application/json')
  async function importProfile(event: Event): Promise<void> {
    const input = event.target as HTMLInputElement
    const file = input.files?.[0]
    input.value = ''
    if (!file) return
    try {
      const told = readProfile(JSON.parse(await file.text()))
      const others = own.value.filter(p => p.name !== told.name)
      const shipped = SHIPPED_PROFILES.some(p => p.name === told.name)
      keep(`Bring in the profile ${told.name}`, {
        profile: { ...told },
        ...(!shipped && { profiles: [...others, { ...told }] }),
      })
    } catch (error) {
      const words = error instanceof ChiraxisError ? error.message : `${file.name} is no JSON that can be read.`
      refusal.value = { text: words, unchanged: true }
    }
  }

  // --- takes ---
  const groups = computed<DeliveredGroup[]>(() => {
    const out = new Map<string, { id: string; name: string }[]>()
    const came = derived.rig?.takes ?? []
    if (came.length > 0) out.set('Came with the body', [...came])
    for (const { id, name, performer } of derived.fittingTakes)
      out.set(performer, [...(out.get(performer) ?? []), { id, name }])
    return [...out].map(([name, takes]) => ({ name, takes }))
  })
  /** What goes along where nothing was told: what came with the body, what was made on it, and the first performer. */
  const usual = computed(() => {
    const came = new Set((derived.rig?.takes ?? []).map(t => t.id))
    const made = groups.value.find(g => g.name === project.recipe.name)
    const first = groups.value.find(g => g !== made && !g.takes.some(t => came.has(t.id)))
    return new Set([...came, ...[made, first].flatMap(g => g?.takes.map(t => t.id) ?? [])])
  })
  const chosen = computed(() => {
    const told = kept.value.takes
    const there = groups.value.flatMap(g => g.takes.map(t => t.id))
    const wanted = told ? new Set(told) : usual.value
    return new Set(there.filter(id => wanted.has(id)))
  })
  function setTakes(words: string, ids: ReadonlySet<string>): void {
    keep(words, { takes: groups.value.flatMap(g => g.takes.map(t => t.id)).filter(id => ids.has(id)) })
  }
  function toggle(id: string, name: string): void {
    const next = new Set(chosen.value)
    if (!next.delete(id)) next.add(id)
    setTakes(next.has(id) ? `Take ${name} along` : `Leave ${name} out`, next)
  }
  function setGroup(group: DeliveredGroup, on: boolean): void {
    const next = new Set(chosen.value)
    for (const t of group.takes)
      if (on) next.add(t.id)
      else next.delete(t.id)
    setTakes(on ? `Take all of ${group.name} along` : `Leave all of ${group.name} out`, next)
  }
  /** The moment a surface alone stands in; at rest where none is told, or its take is gone. */
  const moment = computed(() => {
    const told = kept.value.moment
    return told && groups.value.some(g => g.takes.some(t => t.id === told.take)) ? told : undefined
  })
  const setMoment = (take: string | undefined, at: number): void =>
    keep(take ? 'The moment it stands in' : 'It stands at rest', {
      moment: take ? { take, at: Math.max(0, at) } : undefined,
    })
  return {
    moment,
    setMoment,
    profile,
    own,
    known,
    called,
    set,
    choose,
    setFormat,
    saveProfile,
    removeProfile,
    exportProfile,
    importProfile,
    groups,
    chosen,
    toggle,
    setGroup,
  }
}
