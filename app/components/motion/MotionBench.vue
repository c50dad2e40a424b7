<script setup lang="ts">
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
import { ChevronRight } from '@lucide/vue'
import { roleLabel } from '@chiraxis/core/skeleton'

const view = useView()
const derived = useDerived()
const project = useProject()
const answer = computed(() => derived.performed?.answer)
const take = computed(() => {
  const own = /^own:(\d+)$/.exec(derived.wantedTake ?? '')
  const came = own ? derived.rig?.takes[Number(own[1])] : undefined
  return came ? { name: came.name, performer: 'came with the body', own: true } : project.recipe.takes.find(t => t.id === derived.wantedTake)
})
const isOwn = computed(() => derived.wantedTake?.startsWith('own:') ?? false)
const height = computed(() => derived.shape?.straightened.height ?? 1)
const measures = computed(() => {
  const m = answer.value?.measures
  if (!m) return []
  return [
    { label: 'Feet slide at rest', value: `${(m.footSkateMetresPerSecond * 100).toFixed(1)} cm/s`, bad: m.footSkateMetresPerSecond > 0.01 },
    { label: 'Feet under the floor', value: `${Math.max(0, -m.clearance * height.value * 1000).toFixed(1)} mm`, bad: m.clearance * height.value < -0.002 },
    { label: 'Hands off their place', value: `${(m.handError * height.value * 1000).toFixed(1)} mm`, bad: m.handError > 0.02 },
    { label: 'Feet off their place', value: `${(m.footError * height.value * 1000).toFixed(1)} mm`, bad: m.footError > 0.02 },
  ]
})
const ground = computed({ get: () => project.recipe.transfer.ground, set: v => project.change(v ? 'Hold resting feet' : 'Let feet slide', { ...project.recipe, transfer: { ...project.recipe.transfer, ground: v } }) })
const rest = computed({ get: () => project.recipe.transfer.rest, set: v => project.change(v === 'auto' ? 'Match rest poses' : 'Take rest poses as they are', { ...project.recipe, transfer: { ...project.recipe.transfer, rest: v } }) })
const turned = computed(() => Object.entries(answer.value?.restMatch ?? {}).filter(([, d]) => d > 0.5).sort((a, b) => b[1] - a[1]).slice(0, 6))
</script>

<template>
  <BenchHead title="Takes" sentence="A motion recorded on somebody else, carried onto this figure. Done when hands and feet go where the performer's do." />
  <WorkProgress step="shape" what="Straightening the body" />
  <WorkProgress step="landmarks" what="Finding landmarks" />
  <WorkProgress step="take" what="Carrying the take over" />
  <WorkProgress step="skin" what="Working out skin weights" />
  <div v-if="!take" class="card quiet">Choose a take in the list.</div>
  <template v-else>
    <div class="card">
      <h3>{{ take.name }} <span class="quiet font-normal">· {{ take.performer }}</span></h3>
      <ChoiceRow v-if="!isOwn" v-model="view.performerShown" label="Performer" :options="[{ value: 'beside', label: 'Beside' }, { value: 'over', label: 'Over' }, { value: 'hidden', label: 'Hidden' }]" />
      <SwitchRow v-model="view.bonesInMotion" label="Show the figure's skeleton" />
    </div>
    <div v-if="measures.length > 0" class="card">
      <h3>Measured</h3>
      <div v-for="m in measures" :key="m.label" class="flex justify-between py-0.5"><span class="quiet">{{ m.label }}</span><span class="num" :class="m.bad ? 'font-semibold text-madder' : ''">{{ m.value }}</span></div>
    </div>
    <div v-if="!isOwn" class="card">
      <h3>Correct</h3>
      <SwitchRow v-model="ground" label="Hold resting feet in place" />
      <ChoiceRow v-model="rest" label="Rest poses" :options="[{ value: 'auto', label: 'Matched' }, { value: 'none', label: 'As they are' }]" />
    </div>
    <Disclosure v-if="answer && !isOwn" v-slot="{ open }" as="div" class="card">
      <DisclosureButton class="flex w-full items-center gap-1 font-semibold"><ChevronRight :size="14" :class="open ? 'rotate-90' : ''" />Role map <span class="quiet ml-auto font-normal">by {{ answer.by }}</span></DisclosureButton>
      <DisclosurePanel class="pt-2">
        <div v-for="(theirs, own) in answer.roleMap" :key="own" class="flex justify-between gap-2 py-[1px]"><span class="quiet truncate">{{ roleLabel(String(own)) }}</span><span class="truncate">{{ theirs }}</span></div>
        <h4 v-if="turned.length > 0" class="mb-1 mt-3 font-semibold">Rest poses differed by</h4>
        <div v-for="[role, d] in turned" :key="role" class="flex justify-between py-[1px]"><span class="quiet">{{ roleLabel(role) }}</span><span class="num">{{ d.toFixed(1) }}°</span></div>
      </DisclosurePanel>
    </Disclosure>
  </template>
  <div class="mt-auto p-4"><button class="press press-main" :disabled="!derived.skin" @click="view.go('deliver')">Go on to Delivery</button></div>
</template>
