/** Opens a project the browser keeps, with the first of its takes. */
export function useOpenProject(): (id: string) => Promise<boolean> {
  const project = useProject()
  const derived = useDerived()
  const files = useFiles()
  return async id => {
    derived.wantedTake = undefined
    if (!(await project.openKept(id))) return false
    void derived.showTake(derived.firstTake?.id)
    void files.fetchAhead()
    return true
  }
}
