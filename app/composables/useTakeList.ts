import type { TakeRef } from '@chiraxis/core/recipe'

/** Takes as a list: moved among those of their performer, and removed. */
export function useTakeList() {
  const project = useProject()
  const derived = useDerived()
  const nextTo = (id: string, way: 1 | -1): TakeRef | undefined => {
    const all = project.recipe.takes
    const me = all.find(t => t.id === id)
    const own = all.filter(t => t.performer === me?.performer)
    return me && own[own.indexOf(me) + way]
  }
  return {
    /** @returns whether there is one before or after it that it can pass */
    canMove: (id: string, way: 1 | -1): boolean => nextTo(id, way) !== undefined,
    move(id: string, way: 1 | -1): void {
      const other = nextTo(id, way)
      const takes = [...project.recipe.takes]
      const [from, to] = [takes.findIndex(t => t.id === id), takes.findIndex(t => t.id === other?.id)]
      if (from < 0 || to < 0) return
      const [me] = takes.splice(from, 1)
      takes.splice(to, 0, me!)
      project.change(`Move ${me!.name} in the list`, { ...project.recipe, takes })
    },
    remove(id: string): void {
      const gone = project.recipe.takes.find(t => t.id === id)
      if (!gone) return
      const left = project.recipe.takes.filter(t => t.id !== id)
      project.change(`Remove ${gone.name}`, { ...project.recipe, takes: left })
      if (derived.wantedTake === id) void derived.showTake(left[0]?.id)
    },
  }
}
