<script setup lang="ts">
/** A value on a track, with its number to type: the figure follows while it is dragged. */
const props = withDefaults(
  defineProps<{
    label: string
    value: number
    min: number
    max: number
    step: number
    unit: string
    digits?: number
    disabled?: boolean
    hint?: string
  }>(),
  { digits: 2, hint: undefined },
)
const emit = defineEmits<{ change: [value: number, joins: boolean] }>()
let dragging = false
function slide(event: Event): void {
  const v = Number((event.target as HTMLInputElement).value)
  if (v === props.value) return
  emit('change', v, dragging)
  dragging = true
}
const clamp = (v: number): number => Math.min(props.max, Math.max(props.min, v))
</script>

<template>
  <div class="py-0.5" :title="hint">
    <NumberField
      :label="label"
      :value="value"
      :unit="unit"
      :step="step"
      :digits="digits"
      :disabled="disabled"
      @change="emit('change', clamp($event), false)"
    />
    <input
      type="range"
      class="slider"
      :aria-label="label"
      :min="min"
      :max="max"
      :step="step"
      :value="value"
      :disabled="disabled"
      @input="slide"
      @change="dragging = false"
      @pointerup="dragging = false"
    />
  </div>
</template>

<style scoped>
.slider {
  width: 100%;
  height: 14px;
  accent-color: var(--ink);
  cursor: ew-resize;
}
</style>
