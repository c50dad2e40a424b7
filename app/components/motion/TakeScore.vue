<script setup lang="ts">
import { Pause, Play, Repeat, StepBack, StepForward } from '@lucide/vue'

const player = usePlayer()
const derived = useDerived()
const lane = ref<HTMLDivElement>()
const LABEL = 104
const take = computed(() => player.take)
const at = computed(() => (player.length > 0 ? player.time / player.length : 0))

/** Runs of frames in which a foot rests, as shares of the take. */
function runs(flags: Uint8Array | undefined): { from: number; to: number }[] {
  if (!flags || flags.length < 2) return []
  const out: { from: number; to: number }[] = []
  const n = flags.length - 1
  for (let f = 0; f <= n; f++) {
    if (!flags[f]) continue
    let end = f
    while (end < n && flags[end + 1]) end++
    out.push({ from: f / n, to: end / n })
    f = end
  }
  return out
}
const contacts = computed(() => {
  const c = derived.performed?.answer.contacts
  return [{ side: 'left' as const, label: 'Left foot', runs: runs(c?.left) }, { side: 'right' as const, label: 'Right foot', runs: runs(c?.right) }]
})
const ticks = computed(() => {
  const seconds = player.length
  if (seconds <= 0) return []
  const step = seconds > 20 ? 5 : seconds > 8 ? 2 : seconds > 3 ? 1 : 0.5
  return Array.from({ length: Math.floor(seconds / step) + 1 }, (_, i) => ({ at: (i * step) / seconds, text: `${i * step}`, frame: Math.round(i * step * player.fps) }))
})
function scrub(event: PointerEvent): void {
  const box = lane.value!.getBoundingClientRect()
  player.seek(((event.clientX - box.left) / box.width) * player.length)
}
function down(event: PointerEvent): void {
  player.pause()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  scrub(event)
}
function drag(event: PointerEvent): void {
  if (event.buttons & 1) scrub(event)
}
const rates = [0.25, 0.5, 1, 2]
</script>

<template>
  <section class="flex h-[148px] shrink-0 flex-col border-t border-rule bg-paper" aria-label="Score" data-testid="score">
    <div class="flex h-10 items-center gap-2 border-b border-rule px-3">
      <button class="press !px-2" title="Back a frame (←)" aria-label="Back a frame" :disabled="!take" @click="player.stepFrames(-1)"><StepBack :size="15" /></button>
      <button class="press border-ink font-semibold" title="Space" :disabled="!take" data-testid="play" @click="player.toggle()"><Pause v-if="player.playing" :size="15" /><Play v-else :size="15" />{{ player.playing ? 'Pause' : 'Play' }}</button>
      <button class="press !px-2" title="On a frame (→)" aria-label="On a frame" :disabled="!take" @click="player.stepFrames(1)"><StepForward :size="15" /></button>
      <button class="press" :class="player.loop ? 'press-on' : ''" :aria-pressed="player.loop" data-testid="loop" @click="player.loop = !player.loop"><Repeat :size="14" />Loop</button>
      <label class="ml-2 flex items-center gap-1.5"><span class="quiet">Rate</span><select v-model.number="player.rate" class="field num !w-[68px]" data-testid="rate"><option v-for="r in rates" :key="r" :value="r">{{ r }}×</option></select></label>
      <span class="num ml-auto" data-testid="clock">{{ player.time.toFixed(2) }} s <span class="quiet">of {{ player.length.toFixed(2) }}</span></span>
      <span class="num quiet w-[128px] text-right">frame <span data-testid="frame">{{ player.frame }}</span> · {{ player.fps }}/s</span>
    </div>
    <div class="relative flex min-h-0 flex-1">
      <div class="flex shrink-0 flex-col border-r border-rule py-[18px] text-xs" :style="{ width: `${LABEL}px` }">
        <span class="flex h-[26px] items-center px-3">Take</span>
        <span v-for="c in contacts" :key="c.side" class="flex h-[22px] items-center gap-1.5 px-3"><SideIcon :side="c.side" />{{ c.label }}</span>
      </div>
      <div class="relative min-w-0 flex-1 px-3">
        <div ref="lane" class="relative h-full cursor-col-resize touch-none" role="slider" aria-label="Playhead" :aria-valuenow="player.time" :aria-valuemax="player.length" tabindex="0" data-testid="lane" @pointerdown="down" @pointermove="drag">
          <span v-for="t in ticks" :key="t.at" class="num quiet absolute top-0 text-[12px] leading-[18px]" :style="{ left: `${t.at * 100}%`, transform: t.at > 0.97 ? 'translateX(-100%)' : t.at < 0.01 ? '' : 'translateX(-50%)' }">{{ t.text }} s</span>
          <div v-if="take" class="absolute inset-x-0 top-[20px] flex h-[22px] items-center rounded-sm border border-slate bg-paper-2 px-2 text-xs font-medium">{{ take.name }}</div>
          <p v-else class="quiet absolute top-[22px] text-xs">No take is chosen.</p>
          <template v-for="(c, i) in contacts" :key="c.side">
            <div v-for="(r, n) in c.runs" :key="n" class="absolute h-[12px] rounded-sm" :style="{ left: `${r.from * 100}%`, width: `${Math.max(0.4, (r.to - r.from) * 100)}%`, top: `${49 + i * 22}px`, background: c.side === 'left' ? 'var(--verdigris)' : 'var(--ochre)' }" title="foot rests" />
          </template>
          <div v-if="take" class="pointer-events-none absolute inset-y-0 w-px bg-madder" :style="{ left: `${at * 100}%` }"><span class="absolute -left-[5px] top-[1px] h-0 w-0 border-x-[5px] border-t-[8px] border-x-transparent border-t-madder" /></div>
        </div>
      </div>
    </div>
  </section>
</template>
