<script setup lang="ts">
import { SplitterResizeHandle } from 'reka-ui'

/** The edge between two parts of the window: dragged, or moved by arrow keys; two presses bring the usual widths back. */
defineProps<{ label: string }>()
defineEmits<{ reset: [] }>()
</script>

<template>
  <SplitterResizeHandle
    class="group relative z-10 w-px shrink-0 bg-rule outline-none"
    :hit-area-margins="{ coarse: 8, fine: 2 }"
    :aria-label="label"
    :title="label"
    @dblclick="$emit('reset')"
  >
    <span
      class="absolute inset-y-0 -left-[3px] w-[7px] opacity-0 transition-opacity group-hover:opacity-100 group-focus-visible:bg-ink group-focus-visible:opacity-100"
      ><span class="absolute inset-y-0 left-[2px] w-[3px] bg-ink-2"
    /></span>
  </SplitterResizeHandle>
</template>
