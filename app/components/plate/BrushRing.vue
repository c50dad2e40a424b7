<script setup lang="ts">
/** The brush on the body: its reach, and where it begins to fade. */
defineProps<{ x: number; y: number; radius: number; falloff: number; width: number; height: number }>()
</script>

<template>
  <svg
    class="pointer-events-none absolute inset-0 h-full w-full"
    :viewBox="`0 0 ${width || 1} ${height || 1}`"
    aria-hidden="true"
    data-testid="brush-ring"
  >
    <circle :cx="x" :cy="y" :r="radius" fill="none" stroke="#f5f1e8" stroke-width="3" stroke-opacity="0.55" />
    <circle :cx="x" :cy="y" :r="radius" fill="none" stroke="var(--on-ground)" stroke-width="1.3" />
    <circle
      v-if="falloff > 0 && falloff < 1"
      :cx="x"
      :cy="y"
      :r="radius * (1 - falloff)"
      fill="none"
      stroke="var(--on-ground)"
      stroke-width="0.8"
      stroke-dasharray="2 3"
    />
    <circle :cx="x" :cy="y" r="1.4" fill="var(--on-ground)" />
  </svg>
</template>
