<script setup lang="ts">
import type { State } from '@chiraxis/core/trial'

/** One state: what it plays, a take, a blend by speed or by speed and turn, or a table of its own. */
const props = defineProps<{ name: string }>()
const states = useStates()
const trial = useTrial()
const state = computed(() => states.table.value!.states.find(s => s.name === props.name)!)
const plays = computed(() => state.value.plays)
const kind = computed(() => ('table' in plays.value ? 'table' : 'take' in plays.value ? 'take' : plays.value.by))
const clips = trial.clips
const steps = computed(() => clips.value.filter(c => c.kind === 'steps').sort((a, b) => a.speed - b.speed))
const place = (name: string): { take: string; speed: number; turn: number } => {
  const c = clips.value.find(x => x.name === name)
  return { take: name, speed: hundredth(c?.speed ?? 0), turn: hundredth(c?.turn ?? 0) }
}
const hundredth = (v: number): number => Math.round(100 * v) / 100
const set = (next: State['plays'], what = 'What is played'): void => states.setState(props.name, { plays: next }, what)
function become(to: string): void {
  const take = clips.value[0]?.name ?? 'none'
  if (to === 'take') set({ take })
  else if (to === 'table')
    set({ table: { first: 'first', states: [{ name: 'first', plays: { take } }], rules: [] } }, 'A table')
  else set({ by: to as 'speed', takes: (steps.value.length > 0 ? steps.value : clips.value.slice(0, 1)).map(c => place(c.name)) }) // prettier-ignore
}
function mark(take: string, on: boolean): void {
  if (!('by' in plays.value)) return
  const list = plays.value.takes
  const takes = on ? [...list, place(take)] : list.filter(t => t.take !== take)
  if (takes.length > 0) set({ ...plays.value, takes: [...takes].sort((a, b) => a.speed - b.speed) }, 'Takes')
}
function move(take: string, part: { speed?: number; turn?: number }): void {
  if ('by' in plays.value) set({ ...plays.value, takes: plays.value.takes.map(t => (t.take === take ? { ...t, ...part } : t)) }, 'Place of a take') // prettier-ignore
}
</script>

<template>
  <div class="card" data-testid="state-card">
    <h3>State</h3>
    <TextField class="field" aria-label="Name of the state" :value="name" @change="states.rename(name, $event)" />
    <SelectRow
      class="mt-1"
      label="Plays"
      :model-value="kind"
      :options="[
        { value: 'take', label: 'one take' },
        { value: 'speed', label: 'by speed' },
        { value: 'speed and turn', label: 'by speed and turn' },
        { value: 'table', label: 'a table of its own' },
      ]"
      @update:model-value="become"
    />
    <SelectRow
      v-if="'take' in plays"
      label="Take"
      :model-value="plays.take"
      :options="clips.map(c => ({ value: c.name, label: c.name }))"
      @update:model-value="set({ take: $event })"
    />
    <template v-else-if="'by' in plays">
      <p class="quiet mt-1 text-xs">Each stands at the speed it was measured at; told otherwise, there.</p>
      <div v-for="c in steps" :key="c.name" class="flex items-center gap-2 py-[1px]">
        <input
          type="checkbox"
          class="accent-[var(--madder)]"
          :aria-label="c.name"
          :checked="plays.takes.some(t => t.take === c.name)"
          @change="mark(c.name, ($event.target as HTMLInputElement).checked)"
        /><span class="flex-1 truncate">{{ c.name }}</span>
        <template v-if="plays.takes.some(t => t.take === c.name)">
          <input
            class="field num !w-[72px] text-right"
            type="number"
            step="0.1"
            :aria-label="`Speed of ${c.name}`"
            :value="plays.takes.find(t => t.take === c.name)!.speed"
            @change="move(c.name, { speed: Number(($event.target as HTMLInputElement).value) || 0 })"
          /><span class="quiet text-xs">m/s</span>
        </template>
      </div>
    </template>
    <button v-else class="press mt-1" @click="states.enter([...states.path.value, name])">Open its table</button>
    <div class="mt-2 flex flex-wrap gap-2">
      <button class="press" :disabled="states.table.value!.first === name" @click="states.first(name)">
        Begin with it
      </button>
      <button class="press" @click="states.drop(name)">Remove</button>
    </div>
  </div>
</template>
