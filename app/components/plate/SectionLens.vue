<script setup lang="ts">
import type { SectionAnswer } from '~/workers/core-api'

/** The true cut of the body at a point: outline, the point, the middle of the cut and the way between. */
const props = withDefaults(
  defineProps<{
    section: SectionAnswer
    side: 'left' | 'right' | 'middle'
    size?: number
    point?: readonly number[]
  }>(),
  { size: 148 },
)

const view = computed(() => {
  const chosen = props.section.outlines[props.section.chosen]
  let reach = 0.03
  if (chosen)
    for (let i = 0; i < chosen.points.length; i += 2)
      reach = Math.max(reach, Math.hypot(chosen.points[i]!, chosen.points[i + 1]!))
  reach = Math.min(reach * 1.15, 0.4)
  const half = props.size / 2 - 2
  const k = half / reach
  const paths = props.section.outlines.map((o, i) => {
    let d = ''
    for (let n = 0; n < o.points.length; n += 2)
      d += `${n === 0 ? 'M' : 'L'}${(o.points[n]! * k).toFixed(1)} ${(o.points[n + 1]! * k).toFixed(1)}`
    return { d: o.closed ? `${d}Z` : d, main: i === props.section.chosen, closed: o.closed }
  })
  const c = props.section.centre
  const p = props.point
  const offset = c && p ? [0, 1, 2].map(i => c[i]! - p[i]!) : undefined
  const dot = (a: readonly number[], b: readonly number[]): number => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!
  const centre = offset ? { x: dot(offset, props.section.u) * k, y: dot(offset, props.section.v) * k } : undefined
  return { half, paths, centre, bar: 0.01 * k }
})
const clip = useId()
const color = computed(() => ({ left: 'var(--verdigris)', right: 'var(--ochre)', middle: 'var(--slate)' })[props.side])
</script>

<template>
  <svg
    :width="size"
    :height="size"
    :viewBox="`${-size / 2} ${-size / 2} ${size} ${size}`"
    role="img"
    aria-label="Cut across the limb"
  >
    <defs>
      <clipPath :id="clip"><circle :r="view.half" /></clipPath>
    </defs>
    <circle :r="view.half" fill="var(--paper-2)" stroke="var(--madder)" stroke-width="1.5" />
    <g :clip-path="`url(#${clip})`">
      <path
        v-for="(p, i) in view.paths"
        :key="i"
        :d="p.d"
        :fill="p.closed ? 'var(--rule)' : 'none'"
        :fill-opacity="p.main ? 0.9 : 0.35"
        stroke="var(--ink)"
        :stroke-width="p.main ? 1.3 : 0.7"
      />
      <path
        :d="`M${-view.half} 0H${view.half}M0 ${-view.half}V${view.half}`"
        stroke="var(--ink-2)"
        stroke-width="0.6"
        stroke-dasharray="2 3"
      />
      <template v-if="view.centre">
        <path :d="`M0 0L${view.centre.x} ${view.centre.y}`" stroke="var(--madder)" stroke-width="1.2" />
        <circle :cx="view.centre.x" :cy="view.centre.y" r="3.2" fill="none" stroke="var(--ink)" stroke-width="1.3" />
      </template>
      <SideMark :side="side" :size="5" :fill="color" stroke="var(--paper)" stroke-width="0.8" />
    </g>
    <path
      :d="`M${-view.bar / 2} ${view.half - 14}h${view.bar}m0 -3v6m${-view.bar} -6v6`"
      stroke="var(--ink-2)"
      stroke-width="1"
      fill="none"
    />
  </svg>
</template>
