<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
/** What can be done with the chain that is being drawn. */
const draw = useChainDraw()
const words = computed(() => {
  const n = draw.points.value.length
  return n === 0
    ? 'Click where the chain begins.'
    : n === 1
      ? 'Click where it goes on.'
      : `${n} points, ${counted(draw.stations.value.length, 'joint')}`
})
</script>

<template>
  <div
    v-if="draw.drawing.value"
    class="absolute left-1/2 top-4 flex max-w-[90%] -translate-x-1/2 items-center gap-2 whitespace-nowrap rounded border border-rule bg-paper py-1.5 pl-3 pr-2"
    role="status"
    data-testid="draw-bar"
  >
    <span class="mr-1">{{ words }}</span>
    <button
      class="press !min-h-6"
      :disabled="draw.points.value.length === 0"
      title="Backspace"
      @click="draw.takeBack()"
    >
      One back
    </button>
    <button
      class="press !min-h-6 border-ink font-semibold"
      :disabled="draw.points.value.length === 0"
      title="Enter"
      data-testid="keep-chain"
      @click="draw.finish()"
    >
      Keep it
    </button>
    <button class="press !min-h-6" title="Escape" @click="draw.cancel()">Give it up</button>
  </div>
</template>
