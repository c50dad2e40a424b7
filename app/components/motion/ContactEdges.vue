<script setup lang="ts">
import type { Lane } from '~/composables/useContactLanes'

/** Both ends of the chosen contact, dragged to another time; they catch on the playhead and on other contacts. */
const { place, lanes } = defineProps<{ place: (share: number) => number; lanes: readonly Lane[] }>()
const player = usePlayer()
const stretch = useStretch()
const { reshapeContact } = useTakeEdit()
const row = computed(() => {
  const c = stretch.contact
  if (!c) return undefined
  for (const [i, lane] of lanes.entries())
    for (const run of lane.runs)
      if (run.contact.part === c.part && run.contact.onto === c.onto && Math.abs(run.contact.from - c.from) < 1e-3)
        return { i, run }
  return undefined
})
const box = ref<HTMLDivElement>()
const draft = shallowRef<[number, number]>()
let end: 0 | 1 | undefined
/** Pixels within which an end catches. */
const CATCH = 6
const shares = computed<readonly [number, number]>(
  () => draft.value ?? [row.value?.run.from ?? 0, row.value?.run.to ?? 0],
)
function grab(event: PointerEvent, which: 0 | 1): void {
  if (!row.value) return
  end = which
  draft.value = [row.value.run.from, row.value.run.to]
  player.pause()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent): void {
  if (end === undefined || !draft.value || !row.value) return
  const { left, width } = box.value!.getBoundingClientRect()
  const share = (((event.clientX - left) / width) * 100 - place(0)) / (place(1) - place(0))
  const others = lanes.flatMap(l => l.runs.filter(r => r !== row.value!.run).flatMap(r => [r.from, r.to]))
  const near = event.altKey
    ? undefined
    : [player.time / (player.length || 1), ...others]
        .map(s => ({ s, off: (Math.abs(place(s) - place(share)) / 100) * width }))
        .filter(c => c.off < CATCH)
        .sort((a, b) => a.off - b.off)[0]
  const last = Math.max(1, Math.round(player.length * player.fps))
  const frame = Math.round(Math.min(1, Math.max(0, near?.s ?? share)) * last)
  const next: [number, number] = [...draft.value]
  const other = Math.round(next[1 - end]! * last)
  next[end] = (end === 0 ? Math.min(frame, other - 1) : Math.max(frame, other + 1)) / last
  draft.value = next
}
function drop(): void {
  const c = stretch.contact
  if (c && draft.value && end !== undefined) {
    const [from, to] = draft.value.map(s => player.toRecording(s * player.length))
    reshapeContact(c, Math.max(0, from!), Math.max(0, to!))
  }
  end = undefined
  draft.value = undefined
}
</script>

<template>
  <div ref="box" class="pointer-events-none absolute inset-0">
    <template v-if="row">
      <div
        v-if="draft"
        class="absolute rounded-sm border-2 border-madder"
        :style="{
          left: `${place(shares[0])}%`,
          width: `${Math.max(0.3, place(shares[1]) - place(shares[0]))}%`,
          top: `${48 + row.i * 22}px`,
          height: '14px',
        }"
      />
      <button
        v-for="k in [0, 1] as const"
        :key="k"
        class="pointer-events-auto absolute h-[18px] w-[7px] -translate-x-1/2 cursor-ew-resize touch-none rounded-sm border border-paper bg-madder"
        :style="{ left: `${place(shares[k])}%`, top: `${46 + row.i * 22}px` }"
        title="Catches on the playhead and on other contacts; hold Alt to place freely"
        :aria-label="k === 0 ? 'Where the contact begins' : 'Where the contact ends'"
        :data-testid="k === 0 ? 'contact-begin' : 'contact-end'"
        @pointerdown.stop="grab($event, k)"
        @pointermove="drag"
        @pointerup.stop="drop"
        @pointercancel="drop"
      />
    </template>
  </div>
</template>
