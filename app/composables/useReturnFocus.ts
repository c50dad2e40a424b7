/**
 * Gives the focus back to where it was when something opened over the work, once that is closed.
 * @param open whether it is open
 */
export function useReturnFocus(open: () => boolean): void {
  let before: HTMLElement | undefined
  watch(
    open,
    async now => {
      if (now) before = document.activeElement as HTMLElement
      else {
        const back = before
        before = undefined
        await nextTick()
        // after whatever closes has let go
        setTimeout(() => {
          const lost = document.activeElement === document.body || document.activeElement === null
          if (lost && back?.isConnected) back.focus({ preventScroll: true })
        })
      }
    },
    { flush: 'sync' },
  )
}
