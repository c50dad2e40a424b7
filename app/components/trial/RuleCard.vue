<script setup lang="ts">
import { CURVES, keyWord, stateWord, VALUES, type Condition, type Rule } from '@chiraxis/core/trial'

/** One rule: when it is taken, how one goes over into the other. All by choices. */
const props = defineProps<{ at: number }>()
const states = useStates()
const trial = useTrial()
const rule = computed(() => states.table.value!.rules[props.at]!)
const KINDS = [
  { value: 'value', label: 'a value' },
  { value: 'ground', label: 'the ground' },
  { value: 'key', label: 'a key' },
  { value: 'left', label: 'time left' },
  { value: 'cue', label: 'a moment passed' },
]
const kindOf = (c: Condition): string => Object.keys(c).find(k => KINDS.some(x => x.value === k))!
const BLANK: Record<string, Condition> = {
  value: { value: 'speed', is: 'over', than: 1 },
  ground: { ground: true },
  key: { key: 'b', is: 'pressed' },
  left: { left: 0.2 },
  cue: { cue: 'footstep' },
}
const values = computed(() => [
  ...Object.entries(VALUES).map(([value, v]) => ({ value, label: v.label.toLowerCase() })),
  ...(states.doc.value?.values ?? []).map(v => ({ value: v.name, label: v.name })),
])
const unitOf = (name: string): string => VALUES[name as keyof typeof VALUES]?.unit ?? ''
const cues = computed(() => [
  ...new Set(['footstep', ...trial.clips.value.flatMap(c => (c.cues ?? []).map(q => q.name))]),
])
const keys = [...'abcdefghijklmnopqrstuvwxyz', 'Space'].map(k => ({ value: k, label: keyWord(k) }))

const set = (part: Partial<Rule>, what: string): void => states.setRule(props.at, part, what)
const put = (i: number, c: Condition): void =>
  set({ when: rule.value.when.map((w, k) => (k === i ? c : w)) }, 'Condition')
const remove = (i: number): void => set({ when: rule.value.when.filter((_, k) => k !== i) }, 'A condition less')
const add = (): void => set({ when: [...rule.value.when, BLANK.value!], after: rule.value.after >= 1 ? 0 : rule.value.after }, 'A condition more') // prettier-ignore
const leaves = computed(() => (rule.value.after >= 1 ? 'end' : rule.value.after > 0 ? 'share' : 'any'))
const CURVE_WORDS = { even: 'even', soft: 'soft', early: 'early' } as const
</script>

<template>
  <div class="card" data-testid="rule-card">
    <h3>{{ stateWord(rule.from) }} <span class="quiet font-normal">to</span> {{ rule.to }}</h3>
    <p v-if="rule.when.length === 0" class="quiet mb-1">
      {{ rule.after >= 1 ? 'Taken when what plays is over.' : 'Taken at once: nothing is asked.' }}
    </p>
    <div v-for="(c, i) in rule.when" :key="i" class="mb-2 border-l-2 border-rule pl-2" data-testid="condition">
      <div class="flex items-center gap-1">
        <span class="quiet w-7 text-xs">{{ i === 0 ? 'when' : 'and' }}</span>
        <select
          class="field flex-1"
          aria-label="What is asked"
          :value="kindOf(c)"
          @change="put(i, BLANK[($event.target as HTMLSelectElement).value]!)"
        >
          <option v-for="k in KINDS" :key="k.value" :value="k.value">{{ k.label }}</option>
        </select>
        <button class="press !min-h-6 !px-2" aria-label="Remove this condition" @click="remove(i)">×</button>
      </div>
      <div v-if="'value' in c" class="mt-1 flex items-center gap-1">
        <select
          class="field !w-[100px]"
          aria-label="Value"
          :value="c.value"
          @change="put(i, { ...c, value: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="v in values" :key="v.value" :value="v.value">{{ v.label }}</option>
        </select>
        <select
          class="field !w-[78px]"
          aria-label="Over or under"
          :value="c.is"
          @change="put(i, { ...c, is: ($event.target as HTMLSelectElement).value as 'over' | 'under' })"
        >
          <option value="over">over</option>
          <option value="under">under</option>
        </select>
        <input
          class="field num !w-16 text-right"
          type="number"
          step="0.1"
          aria-label="Than"
          :value="c.than"
          @change="put(i, { ...c, than: Number(($event.target as HTMLInputElement).value) || 0 })"
        /><span class="quiet text-xs">{{ unitOf(c.value) }}</span>
      </div>
      <select
        v-else-if="'ground' in c"
        class="field mt-1"
        aria-label="Where"
        :value="String(c.ground)"
        @change="put(i, { ground: ($event.target as HTMLSelectElement).value === 'true' })"
      >
        <option value="true">on the ground</option>
        <option value="false">in the air</option>
      </select>
      <div v-else-if="'key' in c" class="mt-1 flex gap-1">
        <select
          class="field"
          aria-label="Key"
          :value="c.key"
          @change="put(i, { ...c, key: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="k in keys" :key="k.value" :value="k.value">{{ k.label }}</option>
        </select>
        <select
          class="field"
          aria-label="How"
          :value="c.is"
          @change="put(i, { ...c, is: ($event.target as HTMLSelectElement).value as 'pressed' | 'held' | 'free' })"
        >
          <option value="pressed">pressed</option>
          <option value="held">held</option>
          <option value="free">let go</option>
        </select>
      </div>
      <NumberField
        v-else-if="'left' in c"
        label="Seconds left"
        :value="c.left"
        unit="s"
        :step="0.05"
        :digits="2"
        @change="put(i, { left: Math.max(0, $event) })"
      />
      <select
        v-else
        class="field mt-1"
        aria-label="Moment"
        :value="c.cue"
        @change="put(i, { cue: ($event.target as HTMLSelectElement).value })"
      >
        <option v-for="q in cues" :key="q" :value="q">{{ q }}</option>
      </select>
    </div>
    <button class="press mb-1" data-testid="add-condition" @click="add">Ask for something more</button>
    <h4>Going over</h4>
    <NumberField
      label="Blend"
      :value="rule.blend"
      unit="s"
      :step="0.05"
      :digits="2"
      @change="set({ blend: Math.min(5, Math.max(0, $event)) }, 'Blend')"
    />
    <ChoiceRow
      label="Comes on"
      :model-value="rule.curve"
      :options="CURVES.map(c => ({ value: c, label: CURVE_WORDS[c] }))"
      @update:model-value="set({ curve: $event }, 'Curve')"
    />
    <ChoiceRow
      label="May leave"
      :model-value="leaves"
      :options="[
        { value: 'any', label: 'any time' },
        { value: 'share', label: 'after a share' },
        { value: 'end', label: 'at its end' },
      ]"
      @update:model-value="set({ after: $event === 'any' ? 0 : $event === 'end' ? 1 : 0.5 }, 'Leaving')"
    />
    <NumberField
      v-if="leaves === 'share'"
      label="Share played"
      :value="100 * rule.after"
      unit="%"
      :step="5"
      :digits="0"
      @change="set({ after: Math.min(0.99, Math.max(0.01, $event / 100)) }, 'Leaving')"
    />
    <ChoiceRow
      label="Begins"
      :model-value="rule.enters"
      :options="[
        { value: 'in step', label: 'in step' },
        { value: 'start', label: 'from the start' },
      ]"
      @update:model-value="set({ enters: $event }, 'Beginning')"
    />
    <div class="mt-2 flex flex-wrap gap-2">
      <button class="press" :disabled="at === 0" @click="states.shift(at, -1)">Earlier</button>
      <button class="press" :disabled="at === states.table.value!.rules.length - 1" @click="states.shift(at, 1)">
        Later
      </button>
      <button class="press" data-testid="remove-rule" @click="states.dropRule(at)">Remove</button>
    </div>
  </div>
</template>
