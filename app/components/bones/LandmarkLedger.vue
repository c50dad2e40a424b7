<script setup lang="ts">
import { capital } from '@chiraxis/core/words'
import { landmarksOf } from '@chiraxis/core/landmarks'

const view = useView()
const derived = useDerived()
const menu = useLandmarkMenu()
const props = defineProps<{ query: string }>()
const groups = computed(() => {
  const found = derived.landmarks
  const out: {
    name: string
    list: { id: string; label: string; side: 'left' | 'right' | 'middle'; confidence: number | undefined }[]
  }[] = []
  for (const kind of landmarksOf(derived.plan)) {
    if (kind.group.endsWith(' hand')) continue
    if (props.query && !kind.label.toLowerCase().includes(props.query.toLowerCase())) continue
    let group = out.find(g => g.name === kind.group)
    if (!group) out.push((group = { name: kind.group, list: [] }))
    const word = kind.label.replace(/^(Left|Right) /, '')
    group.list.push({
      id: kind.id,
      label: capital(word),
      side: kind.side,
      confidence: found?.find(l => l.id === kind.id)?.confidence,
    })
  }
  return out
})
</script>

<template>
  <p v-if="derived.kept" class="quiet px-3.5 py-1">
    The body brought its own skeleton; there are no landmarks to place.
  </p>
  <div v-for="g in derived.kept ? [] : groups" :key="g.name">
    <h2 class="px-3.5 pb-0.5 pt-2 font-semibold">{{ g.name }}</h2>
    <LedgerRow
      v-for="l in g.list"
      :key="l.id"
      class="gap-2 py-[2px] pl-3 pr-3.5"
      :data-ledger="l.id"
      :chosen="view.landmark === l.id"
      @click="view.landmark = l.id"
      @contextmenu="menu.open($event, l.id)"
    >
      <SideIcon :side="l.side" /><span class="flex-1">{{ l.label }}</span>
      <span
        class="num text-xs"
        :class="l.confidence !== undefined && l.confidence < 0.6 ? 'font-semibold text-madder' : 'quiet'"
        >{{ l.confidence === undefined ? '…' : l.confidence >= 1 ? 'hand' : l.confidence.toFixed(2) }}</span
      >
    </LedgerRow>
  </div>
</template>
