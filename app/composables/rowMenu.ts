/** What can be done with what was pressed, in a list beside the pointer. */
export interface MenuEntry {
  readonly label: string
  readonly run: () => void
  readonly disabled?: boolean
}

/** The list that is open, where it was asked for. */
export const rowMenu = shallowRef<{ readonly x: number; readonly y: number; readonly entries: readonly MenuEntry[] }>()

/** Opens a list of what can be done, in the place of the browser's own. */
export function openMenu(event: MouseEvent, entries: readonly MenuEntry[]): void {
  event.preventDefault()
  const box = (event.currentTarget as Element | null)?.getBoundingClientRect()
  // asked for by its key it has no place of its own
  const byKey = event.clientX === 0 && event.clientY === 0
  rowMenu.value = {
    x: byKey && box ? box.left + 24 : event.clientX,
    y: byKey && box ? box.bottom : event.clientY,
    entries,
  }
}
