<script setup lang="ts">
import { FINGERS, fingerJoints } from '@chiraxis/core/body'

const view = useView()
const derived = useDerived()
const drag = useLandmarkDrag()
const groups = computed(() => {
  const all = drag.draft.value ?? derived.landmarks ?? []
  return FINGERS.flatMap(finger => {
    const list = [...fingerJoints(finger), 'Tip'].flatMap(part => {
      const l = all.find(x => x.id === view.hand + finger + part)
      return l ? [{ id: l.id, label: part, confidence: l.confidence }] : []
    })
    return list.length > 0 ? [{ finger, list }] : []
  })
})
</script>

<template>
  <p v-if="groups.length === 0" class="quiet px-3.5">
    No finger joints on this hand. Its fingers are chosen in the bench.
  </p>
  <div v-for="g in groups" :key="g.finger">
    <h2 class="px-3.5 pb-0.5 pt-2 font-semibold">{{ g.finger }}</h2>
    <LedgerRow
      v-for="l in g.list"
      :key="l.id"
      class="gap-2 py-[2px] pl-3 pr-3.5"
      :data-ledger="l.id"
      :chosen="view.landmark === l.id"
      @click="view.landmark = l.id"
    >
      <SideIcon :side="view.hand" /><span class="flex-1">{{ l.label }}</span>
      <span class="num text-xs" :class="l.confidence < 0.6 ? 'font-semibold text-madder' : 'quiet'">{{
        l.confidence >= 1 ? 'hand' : l.confidence.toFixed(2)
      }}</span>
    </LedgerRow>
  </div>
</template>
