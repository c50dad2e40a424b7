<script setup lang="ts">
import type { Placed } from '~/stage/stage'
import { colorOfSide, type Dot, type Overlay } from './overlay'

/** Bones and marks drawn over one view. */
defineProps<{ overlay: Overlay; marking: boolean }>()
const emit = defineEmits<{ press: [event: PointerEvent, placed: Placed, dot: Dot] }>()
const view = useView()
const menu = useLandmarkMenu()
</script>

<template>
  <g>
    <g stroke-linecap="round">
      <path
        :d="
          overlay.performer
            .filter(l => !l.small)
            .map(l => `M${l.x1} ${l.y1}L${l.x2} ${l.y2}`)
            .join('')
        "
        fill="none"
        stroke="var(--on-ground)"
        :stroke-width="overlay.placed.main ? 5 : 3"
      />
      <line
        v-for="(l, i) in overlay.performer"
        :key="`p${i}`"
        :x1="l.x1"
        :y1="l.y1"
        :x2="l.x2"
        :y2="l.y2"
        stroke="var(--performer)"
        :stroke-width="l.small ? 1.4 : overlay.placed.main ? 3 : 1.5"
      />
      <template v-if="overlay.placed.main"
        ><SideMark
          v-for="(l, i) in overlay.performer.filter(p => !p.small)"
          :key="`pc${i}`"
          :side="l.side"
          :transform="`translate(${l.x2} ${l.y2})`"
          :size="3.4"
          fill="var(--performer)"
          stroke="var(--on-ground)"
          :stroke-width="1.2"
        /><text
          v-if="overlay.performerName"
          :x="overlay.performerName.x"
          :y="overlay.performerName.y - 12"
          text-anchor="middle"
          font-size="13"
          font-weight="500"
          fill="var(--on-ground)"
        >
          {{ overlay.performerName.text }}
        </text></template
      >
      <line
        v-for="(l, i) in overlay.bones"
        :key="`b${i}`"
        :x1="l.x1"
        :y1="l.y1"
        :x2="l.x2"
        :y2="l.y2"
        :stroke="
          l.chosen
            ? view.step === 'skin'
              ? '#f5f1e8'
              : 'var(--g-madder)'
            : view.step === 'skin'
              ? '#cfd8d6'
              : 'var(--on-ground)'
        "
        :stroke-width="l.chosen ? 3 : overlay.placed.main ? 1.8 : 1.1"
        stroke-opacity="0.85"
      />
    </g>
    <g
      v-for="d in overlay.dots"
      :key="d.id"
      class="pointer-events-auto"
      :class="marking || view.step === 'skeleton' || view.step === 'rest' ? 'cursor-move' : 'cursor-pointer'"
      :transform="`translate(${d.x} ${d.y})`"
      :data-mark="overlay.placed.main ? d.id : `${overlay.placed.view}:${d.id}`"
      @pointerdown="emit('press', $event, overlay.placed, d)"
      @contextmenu="marking && menu.open($event, d.id)"
    >
      <circle r="9" fill="transparent" />
      <circle
        v-if="d.chosen"
        :r="overlay.placed.main ? 9.5 : 6.5"
        fill="none"
        stroke="var(--g-madder)"
        stroke-width="1.6"
      />
      <circle
        v-else-if="d.also"
        :r="overlay.placed.main ? 7.5 : 5.5"
        fill="none"
        stroke="var(--g-madder)"
        stroke-width="1.2"
        stroke-dasharray="3 2"
      />
      <SideMark
        :side="d.side"
        :size="overlay.placed.main ? (marking ? 5.4 : 3.8 * view.jointSize) : 3"
        :fill="d.unsure ? '#f5f1e8' : colorOfSide(d.side)"
        :stroke="d.unsure ? colorOfSide(d.side) : '#f5f1e8'"
        :stroke-width="d.unsure ? 1.6 : 0.8"
      />
    </g>
  </g>
</template>
