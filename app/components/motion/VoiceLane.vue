<script setup lang="ts">
/** The sound's wave in the score, and the shapes of the mouth under it: pressed to choose, borders dragged. */
const { place, top } = defineProps<{ place: (share: number) => number; top: number }>()
const player = usePlayer()
const voice = useVoice()
const lane = ref<HTMLDivElement>()
/** Where a moment of the sound lies in the lane, percent. */
const at = (seconds: number): number =>
  place(player.toTake(seconds + (voice.voice.value?.at ?? 0)) / (player.length || 1))
const wave = computed(() => {
  const w = voice.answer.value?.wave
  if (!w) return ''
  const n = w.length / 2
  let most = 1e-4
  for (const v of w) most = Math.max(most, Math.abs(v))
  const every = Math.max(1, Math.floor(n / 1200))
  let up = ''
  let down = ''
  for (let i = 0; i < n; i += every) {
    let [low, high] = [0, 0]
    for (let k = i; k < Math.min(n, i + every); k++) {
      low = Math.min(low, w[2 * k]!)
      high = Math.max(high, w[2 * k + 1]!)
    }
    const x = ((1000 * i) / n).toFixed(1)
    up += `L${x} ${(20 - (18 * high) / most).toFixed(1)}`
    down = `L${x} ${(20 - (18 * low) / most).toFixed(1)}${down}`
  }
  return `M0 20${up}L1000 20${down}Z`
})
const runs = computed(() =>
  voice.said.value
    .map((s, i) => ({ ...s, i, left: at(s.from), wide: at(s.to) - at(s.from) }))
    .filter(r => r.left < 101 && r.left + r.wide > -1),
)
const WORDS: Record<string, string> = { closed: '', breath: '·', rest: '' }
let held: { i: number; joins: boolean } | undefined
function down(event: PointerEvent, i: number): void {
  held = { i, joins: false }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function move(event: PointerEvent): void {
  if (!held || !lane.value) return
  const box = lane.value.getBoundingClientRect()
  const share = (((event.clientX - box.left) / box.width) * 100 - place(0)) / (place(1) - place(0))
  voice.moveBorder(held.i, player.toRecording(share * player.length) - (voice.voice.value?.at ?? 0), held.joins)
  held.joins = true
}
function choose(i: number): void {
  voice.chosen.value = voice.chosen.value === i ? undefined : i
  player.pause()
  player.seek(player.toTake(voice.said.value[i]!.from + (voice.voice.value?.at ?? 0)))
}
</script>

<template>
  <div ref="lane" class="absolute inset-x-0 h-[70px]" :style="{ top: `${top}px` }" data-testid="voice-lane">
    <svg
      class="absolute top-0 h-[42px]"
      :style="{ left: `${at(0)}%`, width: `${at(voice.seconds.value) - at(0)}%` }"
      viewBox="0 0 1000 40"
      preserveAspectRatio="none"
      role="img"
      aria-label="The sound's wave"
    >
      <path :d="wave" fill="var(--ink-2)" />
    </svg>
    <button
      v-for="r in runs"
      :key="r.i"
      class="pointer-events-auto absolute top-[45px] h-[22px] overflow-hidden rounded-sm border text-center text-xs leading-[20px]"
      :class="[
        voice.chosen.value === r.i ? 'border-madder border-2 font-semibold' : 'border-rule',
        r.shape === 'rest' ? 'bg-transparent' : r.shape === 'closed' ? 'bg-ink-2 text-paper' : 'bg-paper-2',
      ]"
      :style="{ left: `${r.left}%`, width: `max(2px, calc(${r.wide}% - 1px))` }"
      :aria-label="`${r.shape}, ${r.from.toFixed(2)} to ${r.to.toFixed(2)} s`"
      :title="`${r.shape}, ${r.from.toFixed(2)} to ${r.to.toFixed(2)} s`"
      :data-said="r.shape"
      @pointerdown.stop
      @click.stop="choose(r.i)"
    >
      {{ WORDS[r.shape] ?? r.shape }}
    </button>
    <template v-for="r in runs" :key="`b${r.i}`">
      <span
        v-if="r.i > 0"
        class="pointer-events-auto absolute top-[45px] h-[22px] w-[7px] -translate-x-1/2 cursor-ew-resize touch-none"
        :style="{ left: `${r.left}%` }"
        :data-border="r.i"
        @pointerdown.stop="down($event, r.i)"
        @pointermove="move"
        @pointerup="held = undefined"
        @pointercancel="held = undefined"
      />
    </template>
  </div>
</template>
