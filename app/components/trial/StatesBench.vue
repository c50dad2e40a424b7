<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import { VALUES } from '@chiraxis/core/trial'

/** How the figure behaves: a rule or a state that is chosen, values while it is led, mistakes, and the table as a file. */
const view = useView()
const trial = useTrial()
const walk = useWalk()
const states = useStates()
const { doc, faults, rule, state } = states
const now = walk.now
const live = computed(() =>
  Object.entries(VALUES).map(([name, { label, unit }]) => ({
    label,
    unit,
    value: now.value?.values[name] ?? 0,
  })),
)
const own = computed(() => doc.value?.values ?? [])
function addValue(): void {
  let name = 'mood'
  for (let i = 2; own.value.some(v => v.name === name); i++) name = `mood ${i}`
  states.setValues('Add a value', [...own.value, { name, value: 0 }])
}
function rename(i: number, name: string): void {
  const clean = name.trim()
  if (!clean || own.value.some((v, k) => k !== i && v.name === clean)) return
  states.setValues(`Call a value ${clean}`, own.value.map((v, k) => (k === i ? { ...v, name: clean } : v))) // prettier-ignore
}
function setLive(name: string, value: number): void {
  walk.values.value = { ...walk.values.value, [name]: value }
  walk.go(undefined)
}
const file = ref<HTMLInputElement>()
function picked(event: Event): void {
  const input = event.target as HTMLInputElement
  const [f] = input.files ?? []
  if (f) void states.load(f)
  input.value = ''
}
function showFault(f: (typeof faults.value)[number]): void {
  if (f.rule !== undefined) states.choose(f.rule)
  else if (f.state) states.pick(f.state)
}
</script>

<template>
  <TrialHead title="States" sentence="What follows what, and when. Lead the figure and its row lights up." />
  <div v-if="faults.length > 0" class="card" data-testid="state-faults">
    <h3>{{ counted(faults.length, 'mistake') }}</h3>
    <button
      v-for="(f, i) in faults"
      :key="i"
      class="mb-1 block w-full border-l-2 border-madder bg-paper-2 px-2 py-1 text-left"
      :data-fault="f.kind"
      @click="showFault(f)"
    >
      {{ f.text }}
    </button>
  </div>
  <RuleCard v-if="rule !== undefined && states.table.value?.rules[rule]" :key="`rule ${rule}`" :at="rule" />
  <StateCard v-else-if="state" :key="`state ${state}`" :name="state" />
  <p v-else-if="doc" class="card quiet">
    Choose a state by its row, or a rule by its cell. An empty cell becomes a rule when it is pressed.
  </p>
  <div v-if="doc" class="card" data-testid="state-values">
    <h3>Values now</h3>
    <p v-for="v in live" :key="v.label" class="flex justify-between py-[1px]">
      <span class="quiet">{{ v.label }}</span><span class="num">{{ v.value.toFixed(2) }} {{ v.unit }}</span>
    </p>
    <p class="flex justify-between py-[1px]">
      <span class="quiet">Stands on</span><span>{{ now?.grounded === false ? 'nothing' : 'the ground' }}</span>
    </p>
    <div v-for="(v, i) in own" :key="i" class="mt-1 flex items-center gap-2">
      <TextField
        class="field flex-1"
        :aria-label="`Name of the value ${v.name}`"
        :value="v.name"
        @change="rename(i, $event)"
      /><input
        class="w-24 accent-[var(--madder)]"
        type="range"
        min="0"
        max="10"
        step="0.5"
        :aria-label="v.name"
        :value="walk.values.value[v.name] ?? v.value"
        @input="setLive(v.name, Number(($event.target as HTMLInputElement).value))"
      /><span class="num w-8 text-right text-xs">{{ walk.values.value[v.name] ?? v.value }}</span>
    </div>
    <button class="press mt-2" @click="addValue">Add a value of your own</button>
  </div>
  <div v-if="doc" class="card">
    <h3>The table as a file</h3>
    <p class="quiet mb-2 text-xs">
      An open JSON a game can read.
      {{ states.own.value ? '' : 'It is as the takes make it; the first change makes it your own.' }}
    </p>
    <div class="flex flex-wrap gap-2">
      <button class="press" data-testid="save-states" @click="states.save()">Save</button>
      <button class="press" @click="file?.click()">Open …</button>
      <button v-if="states.own.value" class="press" data-testid="states-anew" @click="states.asOfItself()">
        As the takes make it
      </button>
    </div>
    <input ref="file" type="file" accept=".json" class="hidden" data-testid="states-file" @change="picked" />
  </div>
  <p v-if="!doc && !trial.clips.value.length && trial.wanted.value.length === 0" class="card quiet">
    Without takes there are no states. Mark takes in the list.
  </p>
  <div class="bench-foot">
    <button class="press press-main" @click="view.go('crowd')">Go on to the crowd</button>
  </div>
</template>
