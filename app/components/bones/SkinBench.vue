<script setup lang="ts">
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
import { ChevronRight } from '@lucide/vue'
import { roleLabel } from '@chiraxis/core/skeleton'
import { jointWeights } from '@chiraxis/core/skin'
import { rampCss } from '~/stage/ramp'

const view = useView()
const derived = useDerived()
const project = useProject()
const name = computed(() => {
  const s = derived.skeleton
  return s ? roleLabel(s.roles[view.joint] ?? s.names[view.joint] ?? '') : ''
})
const counts = computed(() => {
  if (!derived.skin) return undefined
  const w = jointWeights(derived.skin, view.joint)
  let some = 0, mostly = 0
  for (const v of w) {
    if (v > 0) some++
    if (v > 0.5) mostly++
  }
  return { some, mostly, all: w.length }
})
const influences = computed({
  get: () => String(project.recipe.skin.influences) as '1' | '2' | '4' | '8',
  set: v => project.change(`Limit influences to ${v}`, { ...project.recipe, skin: { ...project.recipe.skin, influences: Number(v) } }),
})
const setFirmness = (v: number): void => project.change('Set the firmness', { ...project.recipe, skin: { ...project.recipe.skin, firmness: Math.min(10, Math.max(0.1, v)) } }, true)
const n = (v: number): string => v.toLocaleString('en').replaceAll(',', ' ')
</script>

<template>
  <BenchHead title="Skin" sentence="Which joints move each part of the body. Choose a joint to see its hold; done when nothing is held by a limb it does not touch." />
  <WorkProgress step="skeleton" what="Building the skeleton" />
  <WorkProgress step="skin" what="Working out skin weights" />
  <div class="card">
    <h3>{{ name }}</h3>
    <div class="mb-1 h-3 rounded" :style="{ background: rampCss }" role="img" aria-label="Weight from none to whole" />
    <div class="num quiet mb-2 flex justify-between text-xs"><span>0</span><span>weight</span><span>1</span></div>
    <template v-if="counts">
      <div class="flex justify-between py-0.5"><span class="quiet">Vertices it moves</span><span class="num">{{ n(counts.some) }}</span></div>
      <div class="flex justify-between py-0.5"><span class="quiet">Mostly by it</span><span class="num">{{ n(counts.mostly) }}</span></div>
      <div class="flex justify-between py-0.5"><span class="quiet">Of all</span><span class="num">{{ n(counts.all) }}</span></div>
    </template>
    <p v-else class="quiet">The skin is not worked out yet.</p>
  </div>
  <div class="card">
    <ChoiceRow v-model="influences" label="Joints per vertex, at most" :options="[{ value: '1', label: '1' }, { value: '2', label: '2' }, { value: '4', label: '4' }, { value: '8', label: '8' }]" />
  </div>
  <Disclosure v-slot="{ open }" as="div" class="card">
    <DisclosureButton class="flex w-full items-center gap-1 font-semibold"><ChevronRight :size="14" :class="open ? 'rotate-90' : ''" />Fine settings</DisclosureButton>
    <DisclosurePanel class="pt-2">
      <NumberField label="Firmness" :value="project.recipe.skin.firmness" unit="×" :step="0.1" @change="setFirmness" />
      <p class="quiet mt-1 text-xs">Larger makes the blend at joints shorter.</p>
    </DisclosurePanel>
  </Disclosure>
  <div class="mt-auto p-4"><button class="press press-main" :disabled="!derived.skin" @click="view.go('takes')">Go on to Motion</button></div>
</template>
