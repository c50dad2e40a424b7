<script setup lang="ts">
/** The figure led over the ground: its takes on a ruler of speed, what is played now, and how its feet keep to the ground. */
const view = useView()
const trial = useTrial()
const walk = useWalk()
const steps = useFootsteps()
const { walks, now, ready } = walk
const speed = computed(() => now.value?.speed ?? 0)
/** The slide of the last second, on average. */
const slides = ref<{ at: number; slide: number }[]>([])
watch(now, w => {
  const t = performance.now()
  slides.value = w ? [...slides.value.filter(s => t - s.at < 1000), { at: t, slide: w.slide }] : []
})
const slide = computed(() =>
  slides.value.length === 0 ? 0 : slides.value.reduce((s, v) => s + v.slide, 0) / slides.value.length,
)
const onWhat = computed(() => {
  const w = now.value
  if (!w?.grounded) return 'nothing, in the air'
  const up = Math.abs(w.height) > 0.005 ? `, ${w.height.toFixed(2)} m up` : ''
  return `${trial.floor.value.surfaceAt(...w.place, w.height)}${up}`
})
const counted = computed(() =>
  Object.entries(steps.counts.value)
    .map(([surface, n]) => `${surface} ${n}`)
    .join(' · '),
)
const hurry = walk.hurry
const heard = steps.heard
onMounted(() => walk.onFootfalls(steps.sound))
function home(): void {
  walk.home()
  steps.forget()
}
</script>

<template>
  <TrialHead title="Walkabout" sentence="Led by the arrow keys, Shift to hurry, or by pressing where it is to go." />
  <template v-if="ready">
    <div class="card" data-testid="speed-ruler">
      <h3>
        Speed <span class="num quiet font-normal" data-testid="walk-speed">· {{ speed.toFixed(2) }} m/s</span>
        <span class="float-right font-normal" data-testid="walk-state-name">{{ now?.state.join(' · ') }}</span>
      </h3>
      <SpeedRuler :takes="walks" :speed="speed" :shares="now?.shares ?? []" />
    </div>
    <WalkKeys />
    <div class="card" data-testid="walk-state">
      <h3>On the ground</h3>
      <p class="flex justify-between py-0.5">
        <span class="quiet">On</span><span data-testid="walk-surface">{{ onWhat }}</span>
      </p>
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
      <p v-if="counted" class="flex justify-between gap-3 py-0.5">
        <span class="quiet">Steps</span><span class="text-right" data-testid="walk-steps">{{ counted }}</span>
      </p>
      <SwitchRow v-model="heard" label="Footsteps sound" />
      <StepSounds />
      <SwitchRow v-model="hurry" label="Hurry" />
      <button class="press mt-1" data-testid="walk-home" @click="home">Back to the beginning</button>
    </div>
    <WalkRun />
  </template>
  <div v-else-if="trial.made.value" class="card" data-testid="walk-lacks">
    <p v-if="!trial.goes.value">
      None of the marked takes goes straight somewhere in steps. Mark one that walks or runs in the list.
    </p>
    <p v-else>Mark a take in which the figure stands, so that it has something to do between.</p>
  </div>
  <p v-else-if="trial.wanted.value.length === 0" class="card quiet" data-testid="walk-none">
    No take of this figure tells by its name that it stands, walks or runs. Mark takes in the list, or bring some in
    under Motion.
  </p>
  <div class="bench-foot">
    <button class="press press-main" @click="view.go('states')">Go on to states</button>
  </div>
</template>
