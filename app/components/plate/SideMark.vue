<script setup lang="ts">
/** The shape that tells a side: triangle left, square right, diamond midline. Drawn about 0, 0. */
const props = withDefaults(defineProps<{ side: 'left' | 'right' | 'middle'; size?: number }>(), { size: 5 })
const points = computed(() => {
  const s = props.size
  if (props.side === 'left') return `0,${-s * 1.15} ${s},${s * 0.8} ${-s},${s * 0.8}`
  if (props.side === 'right')
    return `${-s * 0.85},${-s * 0.85} ${s * 0.85},${-s * 0.85} ${s * 0.85},${s * 0.85} ${-s * 0.85},${s * 0.85}`
  return `0,${-s * 1.15} ${s * 1.15},0 0,${s * 1.15} ${-s * 1.15},0`
})
</script>

<template>
  <polygon :points="points" />
</template>
