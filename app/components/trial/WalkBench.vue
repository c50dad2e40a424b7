<script setup lang="ts">
/** The figure led over the ground: its takes on a ruler of speed, what is played now, and how its feet keep to the ground. */
const view = useView()
const walk = useWalk()
const { walks, now, ready, made } = walk
const speed = computed(() => now.value?.speed ?? 0)
/** Metres a second at the end of the ruler. */
const most = computed(() => Math.max(1, Math.ceil(1.2 * (walks.value.at(-1)?.gait.speed ?? 2))))
const at = (v: number): string => `${(100 * Math.min(1, v / most.value)).toFixed(2)}%`
const ticks = computed(() => Array.from({ length: most.value + 1 }, (_, i) => i))
const shares = computed(() => now.value?.shares ?? [])
/** The worst slide of the last second. */
const slides = ref<{ at: number; slide: number }[]>([])
watch(now, w => {
  const t = performance.now()
  slides.value = w ? [...slides.value.filter(s => t - s.at < 1000), { at: t, slide: w.slide }] : []
})
const slide = computed(() =>
  slides.value.length === 0 ? 0 : slides.value.reduce((s, v) => s + v.slide, 0) / slides.value.length,
)
const hurry = walk.hurry
</script>

<template>
  <BenchHead title="Walkabout" sentence="Led by the arrow keys, Shift to hurry, or by pressing where it is to go." />
  <WorkProgress step="trial" what="Making gaits of the takes" />
  <div v-if="ready" class="card" data-testid="speed-ruler">
    <h3>
      Speed <span class="num quiet font-normal" data-testid="walk-speed">· {{ speed.toFixed(2) }} m/s</span>
    </h3>
    <div class="relative mx-1 mt-1 h-16">
      <div class="absolute inset-x-0 top-8 border-t border-ink" />
      <div
        v-for="t in ticks"
        :key="t"
        class="num quiet absolute top-8 -translate-x-1/2 pt-1 text-[10px]"
        :style="{ left: at(t) }"
      >
        <span class="absolute -top-1 left-1/2 h-2 border-l border-ink" />{{ t }}
      </div>
      <div
        v-for="(g, i) in walks"
        :key="g.id"
        class="absolute top-8 h-2.5 w-[3px] -translate-x-1/2 -translate-y-2 bg-verdigris"
        :style="{ left: at(g.gait.speed) }"
        :title="`${g.gait.name}, ${g.gait.speed.toFixed(2)} m/s`"
      >
        <span
          class="absolute whitespace-nowrap text-[11px]"
          :class="[i % 2 ? '-top-7' : '-top-4', at(g.gait.speed) > '70%' ? 'right-0' : 'left-0']"
          >{{ g.gait.name }}</span
        >
      </div>
      <div
        class="absolute top-[22px] h-5 w-0.5 -translate-x-1/2 bg-madder"
        :style="{ left: at(speed) }"
        data-testid="speed-mark"
      />
    </div>
    <div v-for="s in shares" :key="s.name" class="flex items-center gap-2 py-[1px]" :data-share="s.name">
      <span class="w-28 truncate">{{ s.name }}</span><span class="h-2 flex-1 bg-paper-2"
        ><span class="block h-2 bg-ink" :style="{ width: `${100 * s.share}%` }" /></span
      ><span class="num w-9 text-right text-xs">{{ Math.round(100 * s.share) }} %</span>
    </div>
  </div>
  <div v-if="ready" class="card" data-testid="walk-state">
    <h3>On the ground</h3>
    <p class="flex justify-between py-0.5">
      <span class="quiet">Resting feet slide</span
      ><span class="num" :class="slide > 0.03 ? 'font-semibold text-madder' : ''"
        >{{ (100 * slide).toFixed(1) }} cm/s</span
      >
    </p>
    <p class="flex justify-between py-0.5">
      <span class="quiet">From where it began</span
      ><span class="num">{{ now ? Math.hypot(now.place[0], now.place[1]).toFixed(2) : '0.00' }} m</span>
    </p>
    <SwitchRow v-model="hurry" label="Hurry" />
    <button class="press mt-1" data-testid="walk-home" @click="walk.home()">Back to the beginning</button>
  </div>
  <div v-else-if="made" class="card" data-testid="walk-lacks">
    <p v-if="walks.length === 0">
      None of the marked takes goes straight somewhere in steps. Mark one that walks or runs in the list.
    </p>
    <p v-else>Mark a take in which the figure stands, so that it has something to do between.</p>
    <p v-if="made.left.length > 0" class="quiet mt-1 text-xs">Neither stands nor goes: {{ made.left.join(', ') }}.</p>
  </div>
  <p v-else-if="walk.wanted.value.length === 0" class="card quiet" data-testid="walk-none">
    No take of this figure tells by its name that it stands, walks or runs. Mark takes in the list, or bring some in
    under Motion.
  </p>
  <div class="bench-foot">
    <button class="press press-main" @click="view.go('deliver')">Go on to Delivery</button>
  </div>
</template>
