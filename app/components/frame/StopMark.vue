<script setup lang="ts">
import type { PhaseMark } from '~/composables/usePhaseMarks'

/** How things stand at a stop of the route, told by form: open ring, ring with a bar, full, broken ring. */
defineProps<{ mark: PhaseMark; current: boolean }>()
</script>

<template>
  <svg width="15" height="15" viewBox="-7.5 -7.5 15 15" class="shrink-0" aria-hidden="true">
    <g
      :stroke="current ? 'var(--madder)' : 'var(--ink)'"
      :fill="mark === 'solid' ? (current ? 'var(--madder)' : 'var(--ink)') : 'var(--paper)'"
      stroke-width="1.6"
    >
      <circle r="5.6" :stroke-dasharray="mark === 'working' ? '3 2.86' : undefined" />
      <path v-if="mark === 'doubt'" d="M0 -2.9V0.6M0 2.2V3.2" stroke-width="1.8" />
    </g>
  </svg>
</template>
