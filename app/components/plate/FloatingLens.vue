<script setup lang="ts">
/** The section lens beside the pointer, on the side of the body, so that it never lies on call-outs in the margins. */
const props = defineProps<{
  x: number
  y: number
  width: number
  height: number
  side: 'left' | 'right' | 'middle'
  point?: readonly number[]
}>()
const { section } = useSection()
const place = computed(() => {
  const inwards = props.x > props.width / 2 ? props.x - 156 : props.x + 36
  const left = Math.max(212, Math.min(inwards, props.width - 280))
  return { left: `${left}px`, top: `${Math.max(8, Math.min(props.y - 150, props.height - 130))}px` }
})
</script>

<template>
  <div v-if="section" class="pointer-events-none absolute rounded-full bg-paper shadow-lg" :style="place">
    <SectionLens :section="section" :side="side" :point="point" :size="120" />
  </div>
</template>
