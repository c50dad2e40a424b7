<script setup lang="ts">
import { maxOf, vec3At, type Vec3 } from '@chiraxis/core/math'
import type { Placed, Stage } from '~/stage/stage'

/** The fault that is stepped to: a ring around its place, and the edges it is about. */
const props = defineProps<{ stage: Stage; placed: Placed; version: number }>()
const derived = useDerived()
const { fault } = useFaults()
const shown = computed(() => {
  void props.version
  const f = fault.value
  const mesh = derived.shape?.mesh
  if (!f || !mesh) return undefined
  const at = (p: Vec3): { x: number; y: number } => props.stage.project(props.placed, p)
  const centre = at(f.centre)
  const corners = f.outline.map(run => run.map(v => at(vec3At(mesh.positions, v))))
  const far = maxOf(
    corners.flat().map(p => Math.hypot(p.x - centre.x, p.y - centre.y)),
    0,
  )
  return {
    ...centre,
    // what is too small to be seen has its ring, and what is large its own edges
    ring: far < 60 ? Math.max(12, far + 6) : 0,
    outline: corners.map(run => `M${run.map(p => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join('L')}Z`).join(''),
  }
})
</script>

<template>
  <g v-if="shown" fill="none" stroke="var(--g-madder)" data-testid="fault-mark">
    <path :d="shown.outline" stroke-width="1.6" stroke-linejoin="round" />
    <g v-if="shown.ring > 0" :transform="`translate(${shown.x} ${shown.y})`" stroke-width="1.8">
      <circle :r="shown.ring" />
      <path :d="`M0 ${-shown.ring}v-10`" />
    </g>
  </g>
</template>
