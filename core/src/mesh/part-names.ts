import type { MeshPart } from './mesh'

/** What is known of a part beside its name, to tell it from others of one name. */
export interface PartHints {
  /** The name of its material. */
  readonly material?: string
  /** The name of what it hangs under. */
  readonly above?: string
}

/**
 * Parts with names of their own: those of one name are told apart by their material, then by what they hang under, and
 * numbered only where neither helps, so that a name stays the same when pieces come or go. What the file calls a part is kept
 * in `aka`.
 */
export function partsApart(parts: readonly MeshPart[], hints: readonly PartHints[] = []): MeshPart[] {
  const names = parts.map(p => p.name)
  const tell = (by: (i: number) => string | undefined, join: (name: string, more: string) => string): void => {
    const groups = new Map<string, number[]>()
    names.forEach((n, i) => groups.set(n, [...(groups.get(n) ?? []), i]))
    for (const group of groups.values()) {
      if (group.length < 2) continue
      const told = group.map(by)
      if (new Set(told).size < 2) continue
      group.forEach((i, at) => {
        if (told[at]) names[i] = join(names[i], told[at])
      })
    }
  }
  tell(
    i => hints[i]?.material,
    (name, more) => `${name}, ${more}`,
  )
  tell(
    i => hints[i]?.above,
    (name, more) => `${name} (${more})`,
  )
  const taken = new Set(names)
  const used = new Set<string>()
  return parts.map((part, i) => {
    let name = names[i]
    for (let n = 2; used.has(name); n++) {
      const next = `${names[i]} ${n}`
      if (!taken.has(next)) name = next
    }
    used.add(name)
    if (name === part.name) return part
    return { ...part, name, aka: [...new Set([part.name, ...(part.aka ?? [])])] }
  })
}
