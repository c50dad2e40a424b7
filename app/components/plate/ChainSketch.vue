<script setup lang="ts">
import type { Vec3 } from '@chiraxis/core/math'
import type { Placed, Stage } from '~/stage/stage'

/** A chain while it is drawn: its line, the joints it would get, and what the mirror adds. */
const props = defineProps<{ stage: Stage; placed: readonly Placed[]; version: number }>()
const draw = useChainDraw()
const view = useView()
const lines = computed(() => {
  void props.version
  const path = (p: Placed, places: readonly Vec3[]): string =>
    places
      .map((v, i) => {
        const q = props.stage.project(p, v)
        return `${i === 0 ? 'M' : 'L'}${q.x.toFixed(1)} ${q.y.toFixed(1)}`
      })
      .join('')
  const across = draw.points.value.map(([x, y, z]): Vec3 => [-x, y, z])
  return props.placed.map(p => ({
    view: p.view,
    line: path(p, draw.points.value),
    mirrored: view.mirror && draw.points.value.some(v => v[0] !== 0) ? path(p, across) : '',
    joints: draw.stations.value.map(v => props.stage.project(p, v)),
    ends: draw.points.value.map(v => props.stage.project(p, v)),
    main: p.main,
  }))
})
</script>

<template>
  <g v-for="l in lines" :key="l.view" fill="none" stroke="var(--g-madder)">
    <path :d="l.line" :stroke-width="l.main ? 2.2 : 1.3" />
    <path v-if="l.mirrored" :d="l.mirrored" stroke-width="1.2" stroke-dasharray="4 3" />
    <path v-for="(e, i) in l.ends" :key="`e${i}`" :d="`M${e.x - 4} ${e.y}h8M${e.x} ${e.y - 4}v8`" stroke-width="1.2" />
    <rect
      v-for="(j, i) in l.joints"
      :key="`j${i}`"
      :x="j.x - 3"
      :y="j.y - 3"
      width="6"
      height="6"
      fill="#f5f1e8"
      stroke-width="1.4"
    />
  </g>
</template>
