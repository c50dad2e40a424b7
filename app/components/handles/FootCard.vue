<script setup lang="ts">
import { PIVOTS, type Pivot } from '@chiraxis/core/handles'
import { roleLabel } from '@chiraxis/core/body'

/** A foot rolled over a place of its sole that stays. */
const posing = useHandlePose()
const over = ref<Pivot>('ball')
const WORDS: Record<Pivot, string> = {
  heel: 'heel',
  ball: 'ball',
  tip: 'tip of the toes',
  inner: 'inner edge',
  outer: 'outer edge',
}
const foot = computed(() => posing.foot.value)
watch([foot, over], () => posing.beginRoll())
</script>

<template>
  <div v-if="foot" class="card" data-testid="roll-foot">
    <h3>{{ roleLabel(foot.limb.ref) }}, rolled</h3>
    <label class="flex items-center justify-between py-0.5">
      <span>Over its</span>
      <select v-model="over" class="field !w-36" aria-label="What it rolls over">
        <option v-for="p in PIVOTS" :key="p" :value="p">{{ WORDS[p] }}</option>
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
  </div>
</template>
