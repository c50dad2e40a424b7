<script setup lang="ts">
/** The side mark as a small picture for lists. */
const props = defineProps<{ side: 'left' | 'right' | 'middle' }>()
const color = computed(() => ({ left: 'var(--verdigris)', right: 'var(--ochre)', middle: 'var(--slate)' })[props.side])
</script>

<template>
  <svg width="12" height="12" viewBox="-6 -6 12 12" aria-hidden="true" class="shrink-0">
    <SideMark :side="side" :size="4.4" :fill="color" />
  </svg>
</template>
