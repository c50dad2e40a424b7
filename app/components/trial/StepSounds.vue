<script setup lang="ts">
import { SURFACES, type Surface } from '@chiraxis/core/trial'
import { core, unwrap } from '~/workers/client'

/** What footsteps sound like on each surface: made here, or a sound of one's own. */
const trial = useTrial()
const open = ref(false)
const own = computed(() => trial.told.value?.sounds ?? {})
const input = ref<HTMLInputElement>()
let wanted: Surface = 'planks'
function ask(surface: Surface): void {
  wanted = surface
  input.value?.click()
}
async function picked(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const [file] = field.files ?? []
  field.value = ''
  if (!file) return
  const bytes = new Uint8Array(await file.arrayBuffer())
  // a sound that cannot be played is refused before anything is changed
  try {
    await new OfflineAudioContext(1, 1, 44_100).decodeAudioData(bytes.slice().buffer)
  } catch {
    trial.refused.value = `${file.name} is no sound that can be played here. Your project is unchanged.`
    return
  }
  trial.refused.value = ''
  const kept = await unwrap(core().keep(file.name, bytes))
  trial.change(`Steps on ${wanted} sound like ${file.name}`, { sounds: { ...own.value, [wanted]: kept } })
}
function drop(surface: Surface): void {
  const rest = Object.fromEntries(Object.entries(own.value).filter(([s]) => s !== surface))
  trial.change(`Steps on ${surface} sound as made here`, { sounds: Object.keys(rest).length > 0 ? rest : undefined })
}
</script>

<template>
  <button
    class="quiet py-0.5 text-xs underline decoration-dotted underline-offset-2"
    :aria-expanded="open"
    @click="open = !open"
  >
    Sounds of your own
  </button>
  <div v-if="open" class="mb-1 ml-1 border-l-2 border-rule pl-3" data-testid="step-sounds">
    <p v-for="s in SURFACES" :key="s" class="flex items-center gap-2 py-[2px]">
      <span class="w-16">{{ s }}</span><span class="quiet min-w-0 flex-1 truncate text-xs">{{
        own[s]?.name ?? 'made here'
      }}</span>
      <button v-if="own[s]" class="press !min-h-6" @click="drop(s)">Made here</button>
      <button class="press !min-h-6" :data-sound="s" @click="ask(s)">WAV …</button>
    </p>
    <input ref="input" type="file" accept="audio/*,.wav" class="hidden" data-testid="sound-file" @change="picked" />
  </div>
</template>
