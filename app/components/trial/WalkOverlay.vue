<script setup lang="ts">
import { rotate, type Quat, type Vec3 } from '@chiraxis/core/math'
import { useEventListener } from '@vueuse/core'
import type { Placed, Stage } from '~/stage/stage'

/** Where the figure is led: keys and a pressed pointer as ways over the ground, told by how the view sees it. */
const props = defineProps<{ stage: Stage; placed: Placed; version: number; width: number; height: number }>()
const walk = useWalk()
const svg = ref<SVGSVGElement>()
const frame = computed<Quat>(() => (walk.made.value?.frame as Quat | undefined) ?? [0, 0, 0, 1])
const back = computed<Quat>(() => [-frame.value[0], -frame.value[1], -frame.value[2], frame.value[3]])
const place = computed(() => walk.now.value?.place ?? [0, 0])
/** The figure stays in the middle of the view: what is drawn is told from there. */
const onPlate = (x: number, z: number): { x: number; y: number } =>
  props.stage.project(props.placed, rotate(back.value, [x, 0, z]) as Vec3)
/** The way over the ground that looks like a way across the picture. */
function groundWay(dx: number, dy: number): [number, number] | undefined {
  const [x, z] = place.value as [number, number]
  const o = onPlate(x, z)
  const a = onPlate(x + 0.2, z),
    b = onPlate(x, z + 0.2)
  const [ax, ay, bx, by] = [a.x - o.x, a.y - o.y, b.x - o.x, b.y - o.y]
  const det = ax * by - bx * ay
  if (Math.abs(det) < 1e-3) return undefined
  const way: [number, number] = [(dx * by - bx * dy) / det, (ax * dy - dx * ay) / det]
  const long = Math.hypot(way[0], way[1])
  return long > 1e-9 ? [way[0] / long, way[1] / long] : undefined
}
const held = reactive(new Set<string>())
const KEYS: Record<string, readonly [number, number]> = {
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
}
function lead(): void {
  let dx = 0,
    dy = 0
  for (const k of held) {
    dx += KEYS[k]![0]
    dy += KEYS[k]![1]
  }
  walk.go(dx || dy ? groundWay(dx, dy) : undefined)
}
const typing = (e: KeyboardEvent): boolean =>
  e.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName)
function down(e: KeyboardEvent): void {
  if (e.key === 'Shift') walk.hurry.value = true
  if (!KEYS[e.key] || typing(e) || e.ctrlKey || e.metaKey || e.altKey) return
  // here the arrows lead the figure, wherever else they lead
  e.preventDefault()
  e.stopPropagation()
  held.add(e.key)
  lead()
}
function up(e: KeyboardEvent): void {
  if (e.key === 'Shift') walk.hurry.value = false
  if (held.delete(e.key)) lead()
}
function letGo(): void {
  held.clear()
  walk.go(undefined)
}
useEventListener(window, 'keydown', down, { capture: true })
useEventListener(window, 'keyup', up, { capture: true })
useEventListener(window, 'blur', letGo)
onBeforeUnmount(() => walk.stop())

// --- by the pointer ---
let pressed = false
function towards(e: PointerEvent): void {
  const box = svg.value!.getBoundingClientRect()
  const [x, z] = place.value as [number, number]
  const o = onPlate(x, z)
  const [dx, dy] = [e.clientX - box.left - o.x, e.clientY - box.top - o.y]
  walk.go(Math.hypot(dx, dy) > 12 ? groundWay(dx, dy) : undefined)
}
function press(e: PointerEvent): void {
  if (e.button !== 0) return
  pressed = true
  ;(e.currentTarget as Element).setPointerCapture(e.pointerId)
  towards(e)
}
function release(): void {
  pressed = false
  walk.go(undefined)
}
/** Where feet came down last. */
const marks = shallowRef<readonly { x: number; z: number; left: boolean }[]>([])
watch(walk.now, w => {
  if (!w) marks.value = []
  else if (w.footfalls.length > 0)
    marks.value = [...marks.value, ...w.footfalls.map(f => ({ x: f.at[0], z: f.at[2], left: f.leg.startsWith('left') }))].slice(-14) // prettier-ignore
})
const shown = computed(() => {
  void props.version
  return marks.value.map((m, i) => ({ ...onPlate(m.x, m.z), left: m.left, faint: (i + 1) / marks.value.length }))
})
</script>

<template>
  <svg
    ref="svg"
    class="absolute inset-0 h-full w-full cursor-crosshair touch-none"
    :viewBox="`0 0 ${width || 1} ${height || 1}`"
    aria-label="Press where it is to go"
    data-testid="walk-plate"
    @pointerdown="press"
    @pointermove="pressed && towards($event)"
    @pointerup="release"
    @pointercancel="release"
  >
    <ellipse
      v-for="(m, i) in shown"
      :key="i"
      :cx="m.x"
      :cy="m.y"
      rx="6"
      ry="2.6"
      fill="none"
      :stroke="m.left ? 'var(--g-verdigris)' : 'var(--g-ochre)'"
      stroke-width="1.8"
      :opacity="0.25 + 0.75 * m.faint"
      data-testid="footprint"
    />
  </svg>
</template>
