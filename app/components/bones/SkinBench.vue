<script setup lang="ts">
import type { SkinMode } from '~/stores/view'

const view = useView()
const derived = useDerived()
const MODES: readonly { value: SkinMode; label: string }[] = [
  { value: 'automatic', label: 'Automatic' },
  { value: 'repair', label: 'Repair' },
  { value: 'correct', label: 'Correct' },
  { value: 'check', label: 'Check' },
]
const SENTENCES: Record<SkinMode, string> = {
  automatic:
    'Which joints move each part of the body. Choose a joint to see its hold; then repair what is wrong, or check the whole.',
  repair:
    'Paint on the body in any view. Every stroke is kept on the surface and made again when landmarks, plan or body change.',
  correct:
    'How the surface is to look while a joint is turned, where weights alone cannot do it. Begun from a pose, painted on the body.',
  check: 'The figure goes through its range of motion. Done when the worst places are no longer worth a repair.',
}
const mode = computed({
  get: () => view.skinMode,
  set: v => {
    view.skinMode = v
  },
})
</script>

<template>
  <BenchHead title="Skin" :sentence="SENTENCES[view.skinMode]" />
  <div class="px-4 pb-2"><ChoiceRow v-model="mode" label="What to do" :options="MODES" /></div>
  <WorkProgress step="rig" what="Building the skeleton" />
  <WorkProgress step="skin" what="Working out skin weights" />
  <AutoSkinBench v-if="view.skinMode === 'automatic'" />
  <LazyRepairBench v-else-if="view.skinMode === 'repair'" />
  <LazyCorrectiveBench v-else-if="view.skinMode === 'correct'" />
  <LazyStrainBench v-else />
  <div class="bench-foot">
    <button class="press press-main" :disabled="!derived.skin" @click="view.go('takes')">Go on to Motion</button>
  </div>
</template>
