<script setup lang="ts">
const view = useView()
const derived = useDerived()
const project = useProject()
const plan = computed(() => project.recipe.bones.plan)
const OPTIONS = (['auto', 0, 1, 2, 3, 4, 5] as const).map(v => ({
  value: String(v),
  label: v === 'auto' ? 'Auto' : String(v),
}))

function set(name: string, change: Partial<typeof plan.value>): void {
  project.change(name, { ...project.recipe, bones: { ...project.recipe.bones, plan: { ...plan.value, ...change } } })
}
function fingersOf(side: 'left' | 'right') {
  return computed({
    get: () => String(plan.value.fingers[side]),
    set: v => {
      const wish = v === 'auto' ? ('auto' as const) : Number(v)
      set(v === 'auto' ? 'Fingers by auto' : `Give ${side} hand ${v} fingers`, {
        fingers: view.mirror ? { left: wish, right: wish } : { ...plan.value.fingers, [side]: wish },
      })
    },
  })
}
const left = fingersOf('left')
const right = fingersOf('right')
const joints = computed({
  get: () => String(plan.value.fingerJoints),
  set: v => set(`${v} joints a finger`, { fingerJoints: Number(v) }),
})
const chosen = computed(
  () => (view.landmark?.startsWith(view.hand) && derived.landmarks?.some(l => l.id === view.landmark)) ?? false,
)
const hand = computed({
  get: () => view.hand,
  set: v => {
    // the same joint of the other hand stays in play
    if (view.landmark?.startsWith(view.hand)) view.landmark = v + view.landmark.slice(view.hand.length)
    view.hand = v
  },
})
const kept = computed(() => derived.kept === true)
</script>

<template>
  <BenchHead
    title="Hands"
    sentence="How many fingers, and where they bend. Done when every mark sits in the middle of its finger."
  />
  <WorkProgress step="landmarks" what="Finding landmarks" />
  <div v-if="kept" class="card quiet">The skeleton that came with this body is kept; its fingers are as they came.</div>
  <div v-else-if="derived.plan === 'fourleg'" class="card quiet">This body goes on four legs and has no hands.</div>
  <template v-else>
    <div class="card">
      <ChoiceRow
        v-model="hand"
        label="Hand in the close-up"
        :options="[
          { value: 'left', label: 'Left' },
          { value: 'right', label: 'Right' },
        ]"
      />
    </div>
    <div class="card">
      <h3>Fingers <span class="quiet font-normal">· thumb counted</span></h3>
      <ChoiceRow v-model="left" :label="`Left hand, auto: ${derived.hands?.seen.left ?? 0}`" :options="OPTIONS" />
      <ChoiceRow v-model="right" :label="`Right hand, auto: ${derived.hands?.seen.right ?? 0}`" :options="OPTIONS" />
      <ChoiceRow
        v-model="joints"
        label="Joints a finger"
        :options="[
          { value: '1', label: '1' },
          { value: '2', label: '2' },
          { value: '3', label: '3' },
        ]"
      />
      <SwitchRow v-model="view.mirror" label="Both hands alike" />
    </div>
    <LandmarkCard v-if="chosen" :opens-at="0.006" opens-into="palm" />
    <div v-else class="card quiet">Choose a joint of the hand on the plate or in the list.</div>
  </template>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!derived.skeleton" @click="view.go('skeleton')">
      Go on to the skeleton
    </button>
  </div>
</template>
