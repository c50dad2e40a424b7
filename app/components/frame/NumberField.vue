<script setup lang="ts">
/** A number with its unit: typed, nudged by arrow keys, dragged sideways on its name. */
const props = withDefaults(
  defineProps<{ label: string; value: number; unit: string; step?: number; digits?: number; disabled?: boolean }>(),
  { step: 0.1, digits: 1 },
)
const emit = defineEmits<{ change: [value: number] }>()
const text = ref('')
/** A hair below nought is nought. */
const shown = computed(() => props.value.toFixed(props.digits).replace(/^-(0\.?0*)$/, '$1'))
watch(
  shown,
  v => {
    text.value = v
  },
  { immediate: true },
)

function accept(): void {
  const v = Number(text.value.replace(',', '.'))
  if (Number.isFinite(v) && text.value.trim() !== '' && v.toFixed(props.digits) !== shown.value) emit('change', v)
  else text.value = shown.value
}
let nudged = -Infinity
function nudge(event: KeyboardEvent, way: number): void {
  event.preventDefault()
  const change = (): void => emit('change', props.value + way * props.step * (event.shiftKey ? 10 : 1))
  // nudges soon after each other are one step to take back
  if (event.timeStamp - nudged < NUDGE_PAUSE) goingOn(change)
  else change()
  nudged = event.timeStamp
}
let from: { x: number; value: number } | undefined
function down(event: PointerEvent): void {
  if (props.disabled) return
  from = { x: event.clientX, value: props.value }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function move(event: PointerEvent): void {
  if (from) text.value = (from.value + Math.round((event.clientX - from.x) / 3) * props.step).toFixed(props.digits)
}
function up(): void {
  if (from) accept()
  from = undefined
}
</script>

<template>
  <label class="flex items-center justify-between py-0.5">
    <span class="cursor-ew-resize select-none" @pointerdown="down" @pointermove="move" @pointerup="up">{{
      label
    }}</span>
    <span
      class="flex w-[112px] items-center rounded border border-rule bg-paper-2 pr-2 focus-within:outline-2 focus-within:outline-madder"
    >
      <input
        v-model="text"
        :disabled="disabled"
        class="num w-full bg-transparent px-2 py-[3px] text-right outline-none"
        inputmode="decimal"
        :data-settled="text === shown || undefined"
        @change="accept"
        @keydown.up="nudge($event, 1)"
        @keydown.down="nudge($event, -1)"
      />
      <span class="num quiet text-xs">{{ unit }}</span>
    </span>
  </label>
</template>
