<script setup lang="ts">
import type { Placed, Stage } from '~/stage/stage'

/** Height in centimetres and in heads along the edge of the large view, with ticks at what is in play. */
const props = defineProps<{
  stage: Stage
  placed: Placed
  version: number
  height: number
  head: number
  ticks: readonly { id: string; y: number; chosen: boolean }[]
}>()

const marks = computed(() => {
  void props.version
  const at = (y: number): number => props.stage.project(props.placed, [0, y, 0]).y
  const perCm = Math.abs(at(0) - at(1)) / 100
  const step = perCm > 12 ? 1 : perCm > 5 ? 2 : perCm > 1.6 ? 5 : 10
  const list: { y: number; text?: string; long: boolean }[] = []
  for (let cm = 0; cm <= props.height * 100 + step; cm += step) {
    const y = at(cm / 100)
    if (y < props.placed.rect.y + 6 || y > props.placed.rect.y + props.placed.rect.height - 4) continue
    const named = cm % (step >= 5 ? 50 : 10 * step) === 0
    list.push({ y, long: named || cm % (5 * step) === 0, text: named ? String(cm) : undefined })
  }
  const heads: { y: number; n: number }[] = []
  if (props.head > 0.02) {
    for (let n = 0; n * props.head <= props.height + 1e-6; n++) {
      const y = at(props.height - n * props.head)
      if (y > props.placed.rect.y + 6 && y < props.placed.rect.y + props.placed.rect.height - 4) heads.push({ y, n })
    }
  }
  return { list, heads, ticks: props.ticks.map(t => ({ ...t, y: at(t.y) })) }
})
</script>

<template>
  <g>
    <g v-for="m in marks.list" :key="m.y">
      <path
        :d="`M${placed.rect.x + 4} ${m.y}h${m.long ? 16 : 8}`"
        stroke="var(--on-ground-2)"
        stroke-width="1"
        opacity="0.7"
      />
      <text
        v-if="m.text"
        :x="placed.rect.x + 24"
        :y="m.y + 4"
        class="num"
        font-size="12"
        font-weight="600"
        fill="var(--on-ground)"
        >{{ m.text }}</text
      >
    </g>
    <g v-for="h in marks.heads" :key="`h${h.n}`">
      <path :d="`M${placed.rect.x + 54} ${h.y}h6`" stroke="var(--on-ground-2)" stroke-width="1" opacity="0.7" />
      <text v-if="h.n > 0" :x="placed.rect.x + 63" :y="h.y + 4" class="num" font-size="12" fill="var(--on-ground-2)">{{
        h.n
      }}</text>
    </g>
    <path
      v-for="t in marks.ticks"
      :key="t.id"
      :d="`M${placed.rect.x} ${t.y}h${t.chosen ? 22 : 12}`"
      :stroke="t.chosen ? 'var(--g-madder)' : 'var(--on-ground)'"
      :stroke-width="t.chosen ? 2 : 1.4"
    />
    <text :x="placed.rect.x + 8" :y="placed.rect.y + placed.rect.height - 8" font-size="12" fill="var(--on-ground-2)">{{
      marks.heads.length > 0 ? 'cm · heads' : 'cm'
    }}</text>
  </g>
</template>
