<script setup lang="ts">
import type { ShownCue } from '~/composables/useCues'

/** Moments of the take in the score: pressed to choose, dragged to another time. */
const { place } = defineProps<{ place: (share: number) => number; top: number }>()
const player = usePlayer()
const cues = useCues()
const lane = ref<HTMLDivElement>()
let held: { cue: ShownCue; x: number } | undefined
const moving = ref<{ key: string; time: number }>()
function down(event: PointerEvent, cue: ShownCue): void {
  held = { cue, x: event.clientX }
  cues.chosenKey.value = cue.key
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  player.pause()
  player.seek(cue.event.time)
}
function drag(event: PointerEvent): void {
  if (!held || (!moving.value && Math.abs(event.clientX - held.x) < 3)) return
  const box = lane.value!.getBoundingClientRect()
  const share = (((event.clientX - box.left) / box.width) * 100 - place(0)) / (place(1) - place(0))
  const time = Math.round(Math.min(1, Math.max(0, share)) * player.length * player.fps) / player.fps
  moving.value = { key: held.cue.key, time }
}
function up(): void {
  if (held && moving.value) {
    cues.move(held.cue, moving.value.time)
    player.seek(moving.value.time)
  }
  held = undefined
  moving.value = undefined
}
const at = (c: ShownCue): number =>
  (moving.value?.key === c.key ? moving.value.time : c.event.time) / (player.length || 1)
/** Which side a moment belongs to, for its mark. */
const sideOfCue = (c: ShownCue): 'left' | 'right' | 'middle' => {
  const told = c.event.data?.foot ?? c.event.data?.hand ?? c.event.data?.ahead
  return typeof told !== 'string'
    ? 'middle'
    : told.startsWith('left')
      ? 'left'
      : told.startsWith('right')
        ? 'right'
        : 'middle'
}
const COLOR = { left: 'var(--verdigris)', right: 'var(--ochre)', middle: 'var(--slate)' } as const
const wordsOf = (c: ShownCue): string =>
  [
    c.event.name,
    ...Object.entries(c.event.data ?? {}).map(([k, v]) => `${k} ${v}`),
    `${c.event.time.toFixed(2)} s`,
  ].join(', ')
</script>

<template>
  <div ref="lane" class="absolute inset-x-0 h-[22px]" :style="{ top: `${top}px` }" data-testid="cue-lane">
    <div class="absolute inset-x-0 top-[11px] h-px bg-rule" />
    <button
      v-for="c in cues.list.value"
      :key="c.key"
      class="pointer-events-auto absolute top-[2px] h-[18px] w-[10px] -translate-x-1/2 cursor-ew-resize touch-none"
      :style="{ left: `${place(at(c))}%` }"
      :aria-label="wordsOf(c)"
      :title="wordsOf(c)"
      :data-cue="c.event.name"
      :data-told="c.told ? '' : undefined"
      @pointerdown.stop="down($event, c)"
      @pointermove="drag"
      @pointerup.stop="up"
      @pointercancel="up"
    >
      <svg viewBox="0 0 10 18" class="h-full w-full" aria-hidden="true">
        <!-- a flag: filled where it was told by hand -->
        <path
          d="M2 17V2H9L6.6 5.5L9 9H2"
          :fill="c.told ? COLOR[sideOfCue(c)] : 'var(--paper)'"
          :stroke="cues.chosenKey.value === c.key ? 'var(--madder)' : COLOR[sideOfCue(c)]"
          :stroke-width="cues.chosenKey.value === c.key ? 2.4 : 1.5"
        />
      </svg>
    </button>
  </div>
</template>
