/** Says when a new version of the program has come in the background; it is taken up when somebody asks for it. */
export default defineNuxtPlugin(() => {
  const pwa = usePWA()
  if (!pwa) return
  watch(
    () => pwa.needRefresh,
    there => {
      if (!there) return
      useProject().notice = {
        text: 'A new version of the program is there.',
        action: { label: 'Load it', run: () => void pwa.updateServiceWorker(true) },
      }
    },
    { immediate: true },
  )
})
