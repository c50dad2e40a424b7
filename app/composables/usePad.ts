import { createSharedComposable, useGamepad } from '@vueuse/core'

/** Game pads, known from when they are first pressed, wherever that is. Who needs them lets them be looked at. */
export const usePad = createSharedComposable(() => useGamepad())
