<script setup lang="ts">
import { sideOf } from '@chiraxis/core/body'
import { faceLabel, type FaceLandmarkId } from '@chiraxis/core/face'
import type { Vec3 } from '@chiraxis/core/math'
import { colorOfSide } from '~/components/plate/overlay'
import type { Placed, Stage } from '~/stage/stage'

/** Places of the face on the plate, to be chosen and dragged over the surface. */
const props = defineProps<{ stage: Stage; placed: Placed; version: number; width: number; height: number }>()
const derived = useDerived()
const face = useFace()
const layer = ref<SVGSVGElement>()
const dots = computed(() => {
  void props.version
  return face.places.value.map(p => ({
    ...p,
    side: sideOf(p.id),
    chosen: face.chosen.value === p.id,
    ...props.stage.project(props.placed, p.position),
  }))
})
const name = computed(() => dots.value.find(d => d.chosen))
let held: FaceLandmarkId | undefined
function down(event: PointerEvent, id: FaceLandmarkId): void {
  if (event.button !== 0) return
  event.stopPropagation()
  face.chosen.value = id
  held = id
  if (derived.shape) props.stage.picker.setShape(derived.shape.mesh.positions)
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function move(event: PointerEvent): void {
  if (!held || !layer.value) return
  const box = layer.value.getBoundingClientRect()
  const hit = props.stage.pick(props.placed, event.clientX - box.left, event.clientY - box.top)
  if (hit) face.drag(held, [...hit.place] as Vec3)
}
function up(): void {
  if (!held) return
  held = undefined
  face.drop()
}
</script>

<template>
  <svg ref="layer" class="pointer-events-none absolute inset-0 h-full w-full" data-testid="face-marks">
    <g
      v-for="d in dots"
      :key="d.id"
      class="pointer-events-auto cursor-move"
      :transform="`translate(${d.x} ${d.y})`"
      :data-face-mark="d.id"
      @pointerdown="down($event, d.id)"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="up"
    >
      <circle r="12" fill="transparent" />
      <circle v-if="d.chosen" r="9" fill="none" stroke="var(--g-madder)" stroke-width="1.6" />
      <SideMark
        :side="d.side"
        :size="4.6"
        :fill="d.confidence < 0.6 ? '#f5f1e8' : colorOfSide(d.side)"
        :stroke="d.confidence < 0.6 ? colorOfSide(d.side) : '#f5f1e8'"
        :stroke-width="d.confidence < 0.6 ? 1.6 : 0.9"
      />
      <title>{{ faceLabel(d.id) }}</title>
    </g>
    <text
      v-if="name"
      :x="name.x + (name.side === 'right' ? -14 : 14)"
      :y="name.y + 4"
      :text-anchor="name.side === 'right' ? 'end' : 'start'"
      font-size="13"
      font-weight="600"
      fill="var(--on-ground)"
      stroke="var(--figure-ground, transparent)"
    >
      {{ faceLabel(name.id) }}
    </text>
  </svg>
</template>
