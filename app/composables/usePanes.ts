import { useStorage } from '@vueuse/core'

/** Widths that parts of the window have until somebody moves their edges, pixels. */
export const USUAL_PANES = { ledger: 184, bench: 320, sides: 136 } as const

/** Widths of the parts of the window in pixels, as somebody left them in this browser. */
export const usePanes = () =>
  useStorage<Record<keyof typeof USUAL_PANES, number>>('panes', { ...USUAL_PANES }, undefined, { mergeDefaults: true })
