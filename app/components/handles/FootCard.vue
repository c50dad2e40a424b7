<script setup lang="ts">
import { PIVOTS, type Pivot } from '@chiraxis/core/handles'
import { roleLabel } from '@chiraxis/core/body'
import { X } from '@lucide/vue'

/** A foot rolled over a place of its sole that stays. */
const posing = useHandlePose()
const over = ref<string>('ball')
const WORDS: Record<Pivot, string> = {
  heel: 'heel',
  ball: 'ball',
  tip: 'tip of the toes',
  inner: 'inner edge',
  outer: 'outer edge',
}
const foot = computed(() => posing.foot.value)
watch([foot, over], () => posing.beginRoll())
const own = computed(() => posing.ownPivots.value.find(p => p.id === over.value))
// a place that is not on this foot is nothing to roll over
watch([foot, posing.ownPivots], () => {
  if (foot.value && !foot.value.pivots[over.value]) over.value = 'ball'
})
function add(): void {
  if (!foot.value) return
  const id = crypto.randomUUID()
  const name = `place ${posing.ownPivots.value.length + 1}`
  posing.setPivot({ id, name, foot: foot.value.limb.ref, along: 0.5, across: 0 })
  over.value = id
}
</script>

<template>
  <div v-if="foot" class="card" data-testid="roll-foot">
    <h3>{{ roleLabel(foot.limb.ref) }}, rolled</h3>
    <label class="flex items-center justify-between py-0.5">
      <span>Over its</span>
      <select v-model="over" class="field !w-36" aria-label="What it rolls over">
        <option v-for="p in PIVOTS" :key="p" :value="p">{{ WORDS[p] }}</option>
        <option v-for="p in posing.ownPivots.value" :key="p.id" :value="p.id">{{ p.name }}</option>
      </select>
    </label>
    <SliderRow
      label="Roll"
      :value="posing.rolled.value"
      :min="-30"
      :max="75"
      :step="1"
      :digits="0"
      unit="°"
      @change="(v, joins) => posing.roll(over, v, joins)"
    />
    <template v-if="own">
      <TextField
        class="field my-1"
        aria-label="Name of the place on the sole"
        :value="own.name"
        @change="posing.setPivot({ ...own!, name: $event.trim() || own!.name })"
      />
      <NumberField
        label="From heel to tip"
        :value="100 * own.along"
        unit="%"
        :step="5"
        :digits="0"
        @change="posing.setPivot({ ...own!, along: Math.min(1, Math.max(0, $event / 100)) })"
      />
      <NumberField
        label="Outwards"
        :value="100 * own.across"
        unit="%"
        :step="5"
        :digits="0"
        @change="posing.setPivot({ ...own!, across: Math.min(1, Math.max(-1, $event / 100)) })"
      />
      <button class="press mt-1" @click="posing.removePivot(own.id)"><X :size="13" />Remove this place</button>
    </template>
    <button v-else class="press mt-1" data-testid="add-pivot" @click="add">New place on the sole</button>
  </div>
</template>
