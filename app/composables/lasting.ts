import type { Ref } from 'vue'

/** Whether something has been so for a while: what passes in a moment is not worth telling. */
export function useLasting(source: () => boolean, milliseconds: number): Readonly<Ref<boolean>> {
  const lasts = ref(false)
  watch(
    source,
    (now, _before, done) => {
      lasts.value = false
      if (!now) return
      const timer = setTimeout(() => {
        lasts.value = true
      }, milliseconds)
      done(() => clearTimeout(timer))
    },
    { immediate: true },
  )
  return lasts
}
