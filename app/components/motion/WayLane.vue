<script setup lang="ts">
import { travelCurves } from '@chiraxis/core/cues'

/** Speed over the ground and turn of the body over the take, as lines. */
defineProps<{ place: (share: number) => number; top: number }>()
const derived = useDerived()
const cues = useCues()
const player = usePlayer()
const lines = computed(() => {
  const a = derived.performed?.answer
  const n = a?.travelled.path.across.length ?? 0
  if (!a || n < 2) return undefined
  const { path } = a.travelled
  const speed = travelCurves(path, a.take.fps, ['speed']).flatMap(c => [...c.values])
  const turn = Array.from(path.turn, t => ((t - path.turn[0]!) * 180) / Math.PI)
  const fast = speed.reduce((m, v) => Math.max(m, v), 0.5)
  const far = turn.reduce((m, v) => Math.max(m, Math.abs(v)), 30)
  const every = Math.max(1, Math.floor(n / 700))
  const d = (values: readonly number[], y: (v: number) => number): string =>
    values
      .map((v, f) =>
        f % every === 0 || f === n - 1
          ? `${f === 0 ? 'M' : 'L'}${((1000 * f) / (n - 1)).toFixed(1)} ${y(v).toFixed(1)}`
          : '',
      )
      .join('')
  // the curve that is worked on, from its least to its most
  const own = a.take.scalars?.find(s => s.name === cues.curve.value?.name)?.values
  const low = own?.reduce((m, v) => Math.min(m, v)) ?? 0
  const high = own?.reduce((m, v) => Math.max(m, v)) ?? 1
  return {
    own: own ? d([...own], v => 92 - (84 * (v - low)) / (high - low || 1)) : '',
    speed: d(speed, v => 96 - (90 * v) / fast),
    turn: d(turn, v => 50 - (44 * v) / far),
    values: { speed, turn },
  }
})
const now = computed(() => {
  const l = lines.value
  if (!l) return undefined
  const f = Math.min(l.values.speed.length - 1, Math.max(0, player.frame))
  return { speed: l.values.speed[f]!, turn: l.values.turn[f]! }
})
defineExpose({ now })
</script>

<template>
  <svg
    v-if="lines"
    :style="{ left: `${place(0)}%`, width: `${place(1) - place(0)}%`, top: `${top}px` }"
    class="absolute h-[58px]"
    viewBox="0 0 1000 100"
    preserveAspectRatio="none"
    role="img"
    aria-label="Speed and turn over time"
    data-testid="way-lane"
  >
    <path d="M0 96H1000" stroke="var(--rule)" vector-effect="non-scaling-stroke" />
    <path :d="lines.speed" fill="none" stroke="var(--ink)" stroke-width="1.6" vector-effect="non-scaling-stroke" />
    <path
      v-if="lines.own"
      :d="lines.own"
      fill="none"
      stroke="var(--slate)"
      stroke-width="1.6"
      stroke-dasharray="2 3"
      vector-effect="non-scaling-stroke"
      data-testid="own-curve"
    />
    <path
      :d="lines.turn"
      fill="none"
      stroke="var(--ink)"
      stroke-width="1.4"
      stroke-dasharray="6 4"
      vector-effect="non-scaling-stroke"
    />
  </svg>
</template>
