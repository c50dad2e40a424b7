<script setup lang="ts">
import { sameMoment } from '@chiraxis/core/layers'

/** Keys of the layer in play, moment by moment: pressed to go there, dragged to another time. */
const { place } = defineProps<{ place: (share: number) => number; top: number }>()
const player = usePlayer()
const layers = useLayers()
const moments = computed(() => {
  const l = layers.layer.value
  if (!l || player.length <= 0) return []
  const all = [...new Set(l.keys.map(k => k.at))]
    .sort((a, b) => a - b)
    .filter((t, i, list) => i === 0 || !sameMoment(t, list[i - 1]!))
  return all.map(at => ({
    at,
    share: player.toTake(at) / player.length,
    own: layers.own.value.some(k => sameMoment(k.at, at)),
    here: sameMoment(at, layers.at.value),
    ease: l.keys.find(k => sameMoment(k.at, at))?.ease,
  }))
})
let held: { at: number; x: number; moved: boolean } | undefined
const root = ref<HTMLDivElement>()
const shift = ref<{ at: number; to: number; caught: boolean }>()
const { lanes } = useContactLanes()
/** Pixels within which a key catches on a contact. */
const CATCH = 6
function down(event: PointerEvent, at: number): void {
  held = { at, x: event.clientX, moved: false }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  player.pause()
  player.seek(player.toTake(at))
}
function drag(event: PointerEvent): void {
  if (!held || (Math.abs(event.clientX - held.x) < 3 && !held.moved)) return
  held.moved = true
  const box = root.value!.getBoundingClientRect()
  // how much of the take a pixel shows
  const wide = place(1) - place(0)
  const share = ((event.clientX - box.left) / box.width) * 100
  const t = ((share - place(0)) / wide) * player.length
  // where a foot comes down or lifts, a key catches; Alt places it freely
  const near = event.altKey
    ? undefined
    : lanes.value
        .flatMap(l => l.runs.flatMap(r => [r.from, r.to]))
        .map(s => ({ s, off: (Math.abs(place(s) - share) / 100) * box.width }))
        .filter(c => c.off < CATCH)
        .sort((a, b) => a.off - b.off)[0]
  const free = near ? near.s * player.length : t
  const frame = Math.round(Math.min(player.length, Math.max(0, free)) * player.fps) / player.fps
  shift.value = { at: held.at, to: player.toRecording(frame), caught: near !== undefined }
}
function up(): void {
  const to = shift.value
  held = undefined
  shift.value = undefined
  if (!to) return
  layers.moveKeys(to.at, Math.max(0, to.to))
  player.seek(player.toTake(to.to))
}
const shown = (m: { at: number; share: number }): number =>
  shift.value && sameMoment(shift.value.at, m.at) ? player.toTake(shift.value.to) / player.length : m.share
</script>

<template>
  <div ref="root" class="absolute inset-x-0 h-[22px]" :style="{ top: `${top}px` }" data-testid="key-lane">
    <div class="absolute inset-x-0 top-[10px] h-px bg-rule" />
    <span
      v-if="shift?.caught"
      class="absolute bottom-0 top-[-60px] w-px bg-madder"
      :style="{ left: `${place(player.toTake(shift.to) / (player.length || 1))}%` }"
      data-testid="key-caught"
    />
    <button
      v-for="m in moments"
      :key="m.at"
      class="pointer-events-auto absolute top-[2px] h-[17px] w-[8px] -translate-x-1/2 cursor-ew-resize touch-none border-2"
      :class="[
        m.ease === 'stepped' ? 'rounded-none' : m.ease === 'linear' ? 'rounded-[2px]' : 'rounded-full',
        m.here ? 'border-madder' : 'border-ink',
        m.own ? (m.here ? 'bg-madder' : 'bg-ink') : 'bg-paper',
      ]"
      :style="{ left: `${place(shown(m))}%` }"
      :aria-label="`Key at ${player.toTake(m.at).toFixed(2)} s`"
      :title="`${player.toTake(m.at).toFixed(2)} s`"
      data-testid="key"
      @pointerdown.stop="down($event, m.at)"
      @pointermove="drag"
      @pointerup.stop="up"
      @pointercancel="up"
    />
  </div>
</template>
