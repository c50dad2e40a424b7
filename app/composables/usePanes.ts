import { useStorage } from '@vueuse/core'

/** Widths of the parts of the window in pixels, as somebody left them in this browser. */
export const usePanes = () =>
  useStorage('panes', { ledger: 184, bench: 320, sides: 136 }, undefined, { mergeDefaults: true })
