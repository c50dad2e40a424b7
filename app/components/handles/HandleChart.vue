<script setup lang="ts">
/** The figure's own outline cut into parts: a press on one chooses its handle. */
const derived = useDerived()
const handles = useHandles()
const TALL = 236
const chart = computed(() => handles.body.value?.chart)
const wide = computed(() => Math.min(286, TALL * (chart.value?.aspect ?? 1)))
const high = computed(() => Math.min(TALL, wide.value / (chart.value?.aspect ?? 1)))
const parts = computed(() =>
  (chart.value?.parts ?? []).map(({ joint, outline }) => {
    let d = ''
    for (let i = 0; i < outline.length; i += 2)
      d += `${i === 0 ? 'M' : 'L'}${(outline[i]! * wide.value).toFixed(1)} ${(outline[i + 1]! * high.value).toFixed(1)}`
    const h = handles.handleOfJoint(joint)
    return {
      joint,
      d: `${d}Z`,
      id: h?.id ?? '',
      label: h ? handles.labelOf(h) : (derived.skeleton?.names[joint] ?? ''),
      chosen: handles.picked.value.some(p => p.joint === joint && p.kind !== 'figure'),
    }
  }),
)
</script>

<template>
  <div class="card" data-testid="chart">
    <h3>Chart</h3>
    <svg
      v-if="chart"
      :width="wide + 4"
      :height="high + 4"
      :viewBox="`-2 -2 ${wide + 4} ${high + 4}`"
      class="mx-auto block"
      role="group"
      aria-label="Parts of the figure"
    >
      <path
        v-for="p in parts"
        :key="p.joint"
        :d="p.d"
        class="cursor-pointer"
        :fill="p.chosen ? 'var(--madder)' : 'var(--paper-2)'"
        :fill-opacity="p.chosen ? 0.55 : 1"
        :stroke="p.chosen ? 'var(--madder)' : 'var(--ink-2)'"
        stroke-width="1"
        :data-part="p.id"
        @click="handles.choose(p.id ? [p.id] : [], $event.shiftKey || $event.ctrlKey || $event.metaKey)"
      >
        <title>{{ p.label }}</title>
      </path>
    </svg>
  </div>
</template>
