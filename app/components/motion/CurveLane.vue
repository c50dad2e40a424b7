<script setup lang="ts">
import { curveOf, readChannel, readCurve, type LayerKey } from '@chiraxis/core/layers'

/** The curve of the part in play: a line a direction, keys dragged up and down. */
defineProps<{ place: (share: number) => number; top: number }>()
const player = usePlayer()
const layers = useLayers()
const TALL = 76
const keys = computed(() => layers.own.value)
const kind = computed(() => readChannel(layers.channel.value)?.kind)
/** What values are shown in: degrees, centimetres or percent. */
const scale = computed(() =>
  kind.value === 'turn' ? 180 / Math.PI : kind.value === 'weight' ? 100 : 100 * (layers.drive.value?.long ?? 1),
)
const most = computed(() =>
  keys.value.reduce(
    (m, k) => k.value.reduce((x, v) => Math.max(x, Math.abs(v) * scale.value), m),
    kind.value === 'turn' ? 10 : kind.value === 'weight' ? 100 : 5,
  ),
)
const width = computed(() => keys.value[0]?.value.length ?? 0)
const heightOf = (v: number): number => TALL / 2 - ((TALL / 2 - 6) * v * scale.value) / (1.1 * most.value)
const lines = computed(() => {
  if (keys.value.length === 0 || player.length <= 0) return []
  const curve = curveOf(keys.value, s => player.toTake(s))
  const out = Array.from({ length: width.value }, () => '')
  const value = new Float64Array(3)
  const steps = 260
  for (let i = 0; i <= steps; i++) {
    readCurve(curve, (player.length * i) / steps, value)
    for (let k = 0; k < width.value; k++)
      out[k] += `${i === 0 ? 'M' : 'L'}${((1000 * i) / steps).toFixed(1)} ${heightOf(value[k]!).toFixed(1)}`
  }
  return out
})
const DASH = [undefined, '7 4', '2 3'] as const
const dots = computed(() =>
  keys.value.flatMap((key, n) =>
    key.value.map((v, k) => ({ key, n, k, share: player.toTake(key.at) / (player.length || 1), y: heightOf(v) })),
  ),
)
let held: { key: LayerKey; k: number; y: number; value: number; moved: boolean } | undefined
function down(event: PointerEvent, key: LayerKey, k: number): void {
  held = { key, k, y: event.clientY, value: key.value[k]!, moved: false }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  player.pause()
  player.seek(player.toTake(key.at))
}
function drag(event: PointerEvent): void {
  if (!held || (!held.moved && Math.abs(event.clientY - held.y) < 2)) return
  const by = ((held.y - event.clientY) * 1.1 * most.value) / ((TALL / 2 - 6) * scale.value)
  const to = kind.value === 'weight' ? Math.min(1, Math.max(0, held.value + by)) : held.value + by
  const { k, moved } = held
  held.moved = true
  const now = layers.own.value.find(x => x.at === held!.key.at)
  if (!now) return
  if (moved) goingOn(() => layers.setValueAt(now, k, to))
  else layers.setValueAt(now, k, to)
}
function up(): void {
  held = undefined
}
const unit = computed(() => (kind.value === 'turn' ? '°' : kind.value === 'weight' ? '%' : ' cm'))
</script>

<template>
  <div class="absolute inset-x-0" :style="{ top: `${top}px`, height: `${TALL}px` }" data-testid="curve-lane">
    <svg
      class="absolute h-full"
      :style="{ left: `${place(0)}%`, width: `${place(1) - place(0)}%` }"
      :viewBox="`0 0 1000 ${TALL}`"
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <path :d="`M0 ${TALL / 2}H1000`" stroke="var(--rule)" vector-effect="non-scaling-stroke" />
      <path
        v-for="(d, k) in lines"
        :key="k"
        :d="d"
        fill="none"
        stroke="var(--ink)"
        stroke-width="1.4"
        :stroke-dasharray="DASH[k]"
        vector-effect="non-scaling-stroke"
      />
    </svg>
    <button
      v-for="d in dots"
      :key="`${d.n} ${d.k}`"
      class="pointer-events-auto absolute h-[11px] w-[11px] -translate-x-1/2 -translate-y-1/2 cursor-ns-resize touch-none rounded-full border-2 border-ink bg-paper"
      :style="{ left: `${place(d.share)}%`, top: `${d.y}px` }"
      :aria-label="`Value ${['to its left', 'up', 'ahead'][d.k]} at ${player.toTake(d.key.at).toFixed(2)} s`"
      :title="`${(d.key.value[d.k]! * scale).toFixed(1)}${unit}`"
      data-testid="curve-key"
      @pointerdown.stop="down($event, d.key, d.k)"
      @pointermove="drag"
      @pointerup.stop="up"
      @pointercancel="up"
    />
    <span v-if="keys.length === 0" class="quiet absolute left-2 top-[8px] text-xs">
      No keys of {{ layers.partName.value.toLowerCase() }} in this layer.
    </span>
  </div>
</template>
