<script setup lang="ts">
import { capital } from '@chiraxis/core/words'
import type { Recipe } from '@chiraxis/core/recipe'

/** How a skeleton that came with its body was read, what is in doubt about it, and what a person says is right. */
const derived = useDerived()
const project = useProject()
const reading = computed(() => derived.rig?.reading)
type Choice = NonNullable<Recipe['bones']['reading']>
const choice = computed<Choice>(() => project.recipe.bones.reading ?? {})
function say(name: string, change: Partial<Choice>): void {
  const next = Object.fromEntries(
    Object.entries({ ...choice.value, ...change }).filter(([, v]) => v !== undefined && v !== false),
  )
  const { reading: _, ...bones } = project.recipe.bones
  project.change(name, {
    ...project.recipe,
    bones: Object.keys(next).length > 0 ? { ...bones, reading: next } : bones,
  })
}
const LEGS = { read: 'the skeleton stands as it was read', biped: 'two legs', fourleg: 'four legs' } as const
const legs = computed<keyof typeof LEGS>({
  get: () => choice.value.kind ?? 'read',
  set: v =>
    say(v === 'read' ? 'Read the legs by the skeleton' : `The skeleton stands on ${LEGS[v]}`, {
      kind: v === 'read' ? undefined : v,
    }),
})
const swapped = computed({
  get: () => choice.value.swapped ?? false,
  set: v => say(v ? 'Left is right in this skeleton' : 'Left is left in this skeleton', { swapped: v }),
})
</script>

<template>
  <div v-if="reading" class="card" data-testid="reading">
    <h3>How it was read</h3>
    <div class="flex justify-between py-0.5">
      <span class="quiet"
        >{{ reading.kind === 'fourleg' ? 'On four legs' : 'On two legs' }}, {{ READ_BY[reading.by] }}</span
      ><span class="num" :class="reading.doubts.length > 0 ? 'font-semibold text-madder' : ''"
        >{{ Math.round(100 * reading.confidence) }} %</span
      >
    </div>
    <ul v-if="reading.doubts.length > 0" class="my-1 border-y border-rule" data-testid="doubts">
      <li v-for="(d, i) in reading.doubts" :key="i" class="border-b border-rule py-1 last:border-b-0">
        <component
          :is="d.joint === undefined ? 'div' : 'button'"
          class="block w-full text-left"
          :class="d.joint === undefined ? '' : 'hover:bg-paper-2'"
          @click="d.joint !== undefined && (derived.joint = d.joint)"
        >
          <span class="font-semibold">{{ doubtLabel(d.about) }}?</span>
          <span class="quiet block text-xs">{{ capital(d.why) }}.</span>
        </component>
      </li>
    </ul>
    <p v-else-if="choice.settled" class="quiet py-0.5 text-xs">You said that this is right.</p>
    <p v-else class="quiet py-0.5 text-xs">Names, build and shape agree.</p>
    <ChoiceRow v-model="legs" label="It stands on" :options="LEG_OPTIONS" />
    <SwitchRow v-model="swapped" label="Left and right the other way round" />
    <div v-if="reading.doubts.length > 0 || choice.settled" class="mt-2 flex gap-2">
      <button
        v-if="!choice.settled"
        class="press"
        data-testid="settle-reading"
        @click="say('The skeleton is read right', { settled: true })"
      >
        It is right so
      </button>
      <button v-else class="press" @click="say('Look at the skeleton again', { settled: false })">Look again</button>
    </div>
  </div>
</template>
