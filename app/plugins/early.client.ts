import { core } from '~/workers/client'

/** Starts the work's own thread while the window is still being put together. */
export default defineNuxtPlugin({
  enforce: 'pre',
  setup() {
    void core().alive()
  },
})
