<script setup lang="ts">
import { capital } from '@chiraxis/core/words'
import { EMPTY_NOTE, type PerformerNote } from '@chiraxis/core/retarget'
import type { ReadingChoice } from '@chiraxis/core/skeleton'
import { core, tell, unwrap, RefusedError } from '~/workers/client'
import type { PerformerAnswer } from '~/workers/core-api'

/** How the performer's skeleton is read, also where its take cannot be carried over; said otherwise by hand. */
const derived = useDerived()
const project = useProject()
const answer = shallowRef<PerformerAnswer>()
watch(
  [() => derived.wantedTake, () => project.recipe.performers],
  async ([take]) => {
    if (!take || !project.recipe.takes.some(t => t.id === take)) {
      answer.value = undefined
      return
    }
    try {
      const told = await unwrap(core().performer(tell(project.recipe), take))
      if (derived.wantedTake === take) answer.value = told
    } catch (error) {
      if (!(error instanceof RefusedError)) throw error
      answer.value = undefined
    }
  },
  { immediate: true },
)
const note = computed<PerformerNote>(() => (answer.value && project.recipe.performers[answer.value.key]) || EMPTY_NOTE)
const choice = computed<ReadingChoice>(() => note.value.reading ?? {})
function say(name: string, change: ReadingChoice): void {
  const a = answer.value
  if (!a) return
  const reading = Object.fromEntries(
    Object.entries({ ...choice.value, ...change }).filter(([, v]) => v !== undefined && v !== false),
  )
  const { reading: _, ...rest } = note.value
  const next = Object.keys(reading).length > 0 ? { ...rest, reading } : rest
  project.change(name, { ...project.recipe, performers: { ...project.recipe.performers, [a.key]: next } })
}
const legs = computed({
  get: () => choice.value.kind ?? 'read',
  set: v =>
    say(
      {
        read: 'Let the performer tell its legs',
        biped: 'The performer stands on two legs',
        fourleg: 'The performer stands on four legs',
      }[v],
      { kind: v === 'read' ? undefined : v },
    ),
})
const swapped = computed({
  get: () => choice.value.swapped ?? false,
  set: v => say(v ? "The performer's left is right" : "The performer's left is left", { swapped: v }),
})
</script>

<template>
  <div v-if="answer" class="card" data-testid="performer-reading">
    <h3>How the performer was read</h3>
    <div class="flex justify-between py-0.5">
      <span class="quiet"
        >{{ answer.reading.kind === 'fourleg' ? 'On four legs' : 'On two legs' }},
        {{ READ_BY[answer.reading.by] }}</span
      ><span class="num" :class="answer.doubts.length > 0 ? 'font-semibold text-madder' : ''"
        >{{ Math.round(100 * answer.reading.confidence) }} %</span
      >
    </div>
    <ul v-if="answer.doubts.length > 0" class="my-1 border-y border-rule">
      <li v-for="(d, i) in answer.doubts.slice(0, 6)" :key="i" class="border-b border-rule py-1 last:border-b-0">
        <span class="font-semibold">{{ doubtLabel(d.about) }}?</span>
        <span class="quiet block text-xs">{{ capital(d.why) }}.</span>
      </li>
    </ul>
    <ChoiceRow v-model="legs" label="It stands on" :options="LEG_OPTIONS" />
    <SwitchRow v-model="swapped" label="Left and right the other way round" />
    <button
      v-if="answer.doubts.length > 0"
      class="press mt-2"
      @click="say('The performer is read right', { settled: true })"
    >
      It is right so
    </button>
  </div>
</template>
