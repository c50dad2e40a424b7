<script setup lang="ts">
import type { PropKey } from '@chiraxis/core/props'

/** Who carries the prop in play, stretch by stretch; the beginning of a stretch is dragged to another moment. */
const lane = defineProps<{ place: (share: number) => number; top: number }>()
const player = usePlayer()
const props = useProps()
const moved = ref<{ key: PropKey; to: number }>()
const shareOf = (key: PropKey): number =>
  player.toTake(moved.value?.key === key ? moved.value.to : key.at) / (player.length || 1)
const runs = computed(() => {
  const prop = props.prop.value
  if (!prop || player.length <= 0) return []
  const keys = props.own.value
  const words = (c: { by: string; second?: { by: string } }): string =>
    c.second ? `${props.nameOf(c.by)} and ${props.nameOf(c.second.by).toLowerCase()}` : props.nameOf(c.by)
  const begins = keys.map(shareOf)
  return [
    { key: undefined, from: 0, to: Math.max(0, begins[0] ?? 1), words: words(props.carriedFirst.value ?? prop.carry) },
    ...keys.map((key, i) => ({ key, from: Math.max(0, begins[i]!), to: begins[i + 1] ?? 1, words: words(key) })),
  ].filter(r => r.to - r.from > 1e-6 && r.from < 1)
})
const root = ref<HTMLDivElement>()
let held: { key: PropKey; x: number } | undefined
function down(event: PointerEvent, key: PropKey): void {
  held = { key, x: event.clientX }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  player.pause()
  player.seek(player.toTake(key.at))
}
function drag(event: PointerEvent): void {
  if (!held || (!moved.value && Math.abs(event.clientX - held.x) < 3)) return
  const box = root.value!.getBoundingClientRect()
  const wide = lane.place(1) - lane.place(0)
  const share = (((event.clientX - box.left) / box.width) * 100 - lane.place(0)) / wide
  const frame = Math.round(Math.min(1, Math.max(0, share)) * player.length * player.fps) / player.fps
  moved.value = { key: held.key, to: Math.max(0, player.toRecording(frame)) }
}
function up(): void {
  const to = moved.value
  held = undefined
  moved.value = undefined
  if (!to) return
  props.changeKey(to.key, { at: to.to })
  player.seek(player.toTake(to.to))
}
</script>

<template>
  <div ref="root" class="absolute inset-x-0 h-[22px]" :style="{ top: `${top}px` }" data-testid="prop-lane">
    <div
      v-for="r in runs"
      :key="r.key?.at ?? 'rest'"
      class="absolute top-[3px] h-[16px] overflow-hidden border border-ink-2 px-1.5 text-xs leading-[14px]"
      :class="r.key === props.keyNow.value ? 'bg-ink text-paper' : 'bg-paper-2'"
      :style="{ left: `${place(r.from)}%`, width: `${place(r.to) - place(r.from)}%` }"
      :title="r.words"
    >
      <span class="block truncate">{{ r.words }}</span>
    </div>
    <button
      v-for="k in props.own.value"
      :key="k.at"
      class="pointer-events-auto absolute top-0 h-[22px] w-[7px] -translate-x-1/2 cursor-ew-resize touch-none border-x-2 border-ink bg-paper"
      :style="{ left: `${place(shareOf(k))}%` }"
      :aria-label="`Carried otherwise from ${player.toTake(k.at).toFixed(2)} s`"
      data-testid="prop-key"
      @pointerdown.stop="down($event, k)"
      @pointermove="drag"
      @pointerup.stop="up"
      @pointercancel="up"
    />
  </div>
</template>
