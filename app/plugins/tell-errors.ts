import { RefusedError } from '~/workers/client'

/** What goes wrong anywhere in the window is told above the work, never swallowed. */
export default defineNuxtPlugin(nuxt => {
  const tell = (error: unknown): void => {
    // a stop was asked for
    if (error instanceof RefusedError && error.stopped) return
    const refused = error instanceof RefusedError
    const words = error instanceof Error ? error.message : String(error)
    useProject().notice = { text: refused ? words : `Something went wrong in the window: ${words}` }
    if (!refused) console.error(error)
  }
  nuxt.hook('app:mounted', () => {
    nuxt.vueApp.config.errorHandler = tell
  })
  window.addEventListener('unhandledrejection', event => {
    if (event.reason instanceof RefusedError) event.preventDefault()
    tell(event.reason)
  })
})
