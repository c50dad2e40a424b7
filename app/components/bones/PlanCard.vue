<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import type { DividedPart } from '@chiraxis/core/skeleton'

/** The plan a skeleton is built by: what it stands on, and how many joints each part gets. */
const derived = useDerived()
const project = useProject()
const plan = computed(() => project.recipe.bones.plan)
const setPlan = (name: string, change: Partial<typeof plan.value>): void =>
  project.change(name, { ...project.recipe, bones: { ...project.recipe.bones, plan: { ...plan.value, ...change } } })
const kind = computed({
  get: () => plan.value.kind,
  set: v =>
    setPlan(
      {
        auto: 'Let the body tell its plan',
        biped: 'Two legs and two arms',
        fourleg: 'Four legs',
        drawn: 'Draw the skeleton',
      }[v],
      {
        kind: v,
      },
    ),
})
const WORDS = { biped: 'two legs', fourleg: 'four legs', drawn: 'drawn' }
const PARTS: readonly (readonly [DividedPart, string])[] = [
  ['arms', 'Arms'],
  ['legs', 'Legs'],
  ['trunk', 'Trunk'],
  ['neck', 'Neck'],
]
const countOf = (part: DividedPart): number =>
  plan.value.parts?.[part] ?? (part === 'arms' || part === 'legs' ? plan.value.flex : 0)
const setCount = (part: DividedPart, label: string, n: number): void => {
  const count = Math.max(0, Math.min(6, Math.round(n)))
  setPlan(`${counted(count, 'joint')} more on each bone of the ${label.toLowerCase()}`, {
    parts: { ...plan.value.parts, [part]: count },
  })
}
</script>

<template>
  <div class="card">
    <h3>
      Plan <span class="quiet font-normal">· {{ WORDS[derived.plan] }}</span>
    </h3>
    <ChoiceRow
      v-model="kind"
      label="The body stands on"
      :options="[
        { value: 'auto', label: 'Auto' },
        { value: 'biped', label: 'Two legs' },
        { value: 'fourleg', label: 'Four' },
        { value: 'drawn', label: 'Drawn' },
      ]"
    />
    <p v-if="derived.plan === 'drawn'" class="quiet py-1 text-xs">
      A root alone to begin with. Draw a chain for the back, then choose one of its joints and draw the next chain from
      there.
    </p>
    <template v-else>
      <p class="quiet mt-1 text-xs">Twist and bend joints on each bone of</p>
      <NumberField
        v-for="[part, label] in PARTS"
        :key="part"
        :label="label"
        :value="countOf(part)"
        unit=""
        :digits="0"
        :step="1"
        @change="setCount(part, label, $event)"
      />
    </template>
    <NumberField
      v-if="derived.plan === 'fourleg'"
      label="Tail joints"
      :value="plan.tailJoints"
      unit=""
      :digits="0"
      :step="1"
      @change="setPlan('Set the tail joints', { tailJoints: Math.max(0, Math.min(24, Math.round($event))) })"
    />
  </div>
</template>
