<script setup lang="ts">
import { SplitterGroup, SplitterPanel } from 'reka-ui'
import type { Placed } from '~/stage/stage'
import { sidesWidth, VIEW_NAMES } from './views'

/** Names of the side views and the edge they are widened by; where there is no room for them, presses in their place. */
const props = defineProps<{ placed: readonly Placed[]; width: number }>()
const view = useView()
const panes = usePanes()
const wide = computed(() => sidesWidth(props.width, panes.value.sides))
/** Laid out anew when the usual width is wished back. */
const layout = ref(0)
function resized(sizes: number[]): void {
  const now = Math.round(sizes[1] ?? 0)
  if (now > 0 && now < props.width / 2) panes.value.sides = now
}
function reset(): void {
  panes.value.sides = USUAL_PANES.sides
  layout.value++
}
</script>

<template>
  <button
    v-for="p in placed.slice(1)"
    :key="p.view"
    class="absolute px-2 py-1 text-left text-[13px] font-semibold"
    :style="{ left: `${p.rect.x}px`, top: `${p.rect.y}px`, color: 'var(--on-ground)' }"
    :title="`Make the ${VIEW_NAMES[p.view].toLowerCase()} view the large one`"
    @click="view.makeMain(p.view)"
  >
    {{ VIEW_NAMES[p.view] }}
  </button>
  <SplitterGroup
    v-if="wide > 0"
    :key="`${layout} ${width}`"
    direction="horizontal"
    class="pointer-events-none !absolute inset-0"
    @layout="resized"
  >
    <SplitterPanel id="large" :order="1" :min-size="50" />
    <PaneHandle class="pointer-events-auto !bg-transparent" label="Width of the side views" @reset="reset" />
    <SplitterPanel id="sides" :order="2" size-unit="px" :default-size="wide" :min-size="96" />
  </SplitterGroup>
  <div v-else class="absolute right-2 top-2 flex gap-1">
    <button
      v-for="(name, v) in VIEW_NAMES"
      :key="v"
      class="press"
      :class="view.mainView === v ? 'press-on' : ''"
      @click="view.makeMain(v)"
    >
      {{ name }}
    </button>
  </div>
</template>
