import { landmarkKind } from '@chiraxis/core/landmarks'
import type { MenuEntry } from './rowMenu'

/** What can be done with a landmark, from its row or from its mark on the plate. */
export function useLandmarkMenu() {
  const project = useProject()
  const view = useView()
  /** Lets a landmark be found by the body again. */
  function release(id: string): void {
    const recipe = project.recipe
    const edits = Object.fromEntries(Object.entries(recipe.landmarks.edits).filter(([other]) => other !== id))
    project.change(`Let ${landmarkKind(id)?.label.toLowerCase()} be found again`, {
      ...recipe,
      landmarks: { ...recipe.landmarks, edits },
    })
  }
  const entries = (id: string): MenuEntry[] => [
    {
      label: 'Choose',
      run: () => {
        view.landmark = id
      },
    },
    {
      label: 'Find it again',
      run: () => release(id),
      disabled: project.recipe.landmarks.edits[id] === undefined,
    },
    { label: view.mirror ? 'Edit this side alone' : 'Edit both sides', run: () => (view.mirror = !view.mirror) },
  ]
  return { release, open: (event: MouseEvent, id: string): void => openMenu(event, entries(id)) }
}
