<script setup lang="ts">
import { keyWord, type Action } from '@chiraxis/core/trial'

/** What the figure does on keys: jump and takes, once or while held, with the whole body or from the waist up. */
const trial = useTrial()
const walk = useWalk()
const states = computed(() => trial.states.value)
const doing = computed(() => new Set(walk.now.value?.doing))
const once = computed(() => trial.clips.value.filter(c => c.kind !== 'steps'))
const open = ref<number>()

function set(i: number, part: Partial<Action> | undefined): void {
  const s = states.value!
  const actions = part
    ? s.actions.map((a, k) => (k === i ? { ...a, ...part } : a))
    : s.actions.filter((_, k) => k !== i)
  trial.change(part ? `Change what ${keyWord(s.actions[i]!.key)} does` : `Nothing on ${keyWord(s.actions[i]!.key)}`, {
    states: { ...s, actions },
  })
}
const FREE = 'qerfcvxztgyuiophjklbn'
function add(): void {
  const s = states.value!
  const key = [...FREE].find(k => !s.actions.some(a => a.key === k))
  const take = once.value.find(c => !s.actions.some(a => a.take === c.name)) ?? once.value[0]
  if (!key || !take) return
  trial.change(`Put ${take.name} on ${keyWord(key)}`, {
    states: { ...s, actions: [...s.actions, { key, take: take.name, how: 'once', part: 'whole', blend: 0.2 }] },
  })
  open.value = s.actions.length
}
</script>

<template>
  <div v-if="states" class="card" data-testid="walk-keys">
    <h3>On keys</h3>
    <p v-if="states.jump" class="flex items-center gap-2 py-[2px]">
      <button
        class="keycap"
        data-key="Space"
        :class="doing.has('jump') || (states.jump.take && doing.has(states.jump.take)) ? 'keycap-on' : ''"
        @click="walk.tap('Space')"
      >
        Space</button
      ><span class="truncate">{{ states.jump.take ?? 'jump, from the crouch' }}</span>
    </p>
    <div v-for="(a, i) in states.actions" :key="a.key">
      <p class="flex items-center gap-2 py-[2px]">
        <button class="keycap" :data-key="a.key" :class="doing.has(a.take) ? 'keycap-on' : ''" @click="walk.tap(a.key)">
          {{ keyWord(a.key) }}</button><span class="flex-1 truncate">{{ a.take }}</span
        ><button
          class="quiet text-xs underline decoration-dotted underline-offset-2"
          :aria-expanded="open === i"
          @click="open = open === i ? undefined : i"
        >
          {{ a.part === 'upper' ? 'waist up' : 'whole' }}, {{ a.how }}
        </button>
      </p>
      <div v-if="open === i" class="mb-2 ml-3 border-l-2 border-rule pl-3" data-testid="action-card">
        <SelectRow
          label="Take"
          :model-value="a.take"
          :options="once.map(c => ({ value: c.name, label: c.name }))"
          @update:model-value="set(i, { take: $event })"
        />
        <ChoiceRow
          label="Lasts"
          :model-value="a.how"
          :options="[
            { value: 'once', label: 'once' },
            { value: 'held', label: 'while held' },
          ]"
          @update:model-value="set(i, { how: $event })"
        />
        <ChoiceRow
          label="Done with"
          :model-value="a.part"
          :options="[
            { value: 'whole', label: 'whole body' },
            { value: 'upper', label: 'waist up' },
          ]"
          @update:model-value="set(i, { part: $event })"
        />
        <button class="press mt-1" @click="set(i, undefined)">Take it off its key</button>
      </div>
    </div>
    <button v-if="once.length > 0 && states.actions.length < FREE.length" class="press mt-2" @click="add">
      Put a take on a key
    </button>
  </div>
</template>
