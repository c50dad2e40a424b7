<script setup lang="ts">
import { rotate, type Quat, type Vec3 } from '@chiraxis/core/math'
import { useEventListener } from '@vueuse/core'
import type { Placed, Stage } from '~/stage/stage'

/** Where the figure is led: keys and a pressed pointer as ways over the ground, told by how the view sees it. */
const props = defineProps<{ stage: Stage; placed: Placed; version: number; width: number; height: number }>()
const walk = useWalk()
const trial = useTrial()
const svg = ref<SVGSVGElement>()
const frame = computed<Quat>(() => (trial.made.value?.frame as Quat | undefined) ?? [0, 0, 0, 1])
const back = computed<Quat>(() => [-frame.value[0], -frame.value[1], -frame.value[2], frame.value[3]])
const place = computed(() => walk.now.value?.place ?? [0, 0])
/** The figure stays in the middle of the view: what is drawn is told from there. */
const onPlate = (x: number, z: number, y = walk.now.value?.height ?? 0): { x: number; y: number } =>
  props.stage.project(props.placed, rotate(back.value, [x, y, z]) as Vec3)
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
/** Ways across the picture by where keys lie, whatever is written on them. */
const KEYS: Record<string, readonly [number, number]> = {
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  KeyW: [0, -1],
  KeyS: [0, 1],
  KeyA: [-1, 0],
  KeyD: [1, 0],
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
/** A key as rules and actions call it. */
const nameOf = (e: KeyboardEvent): string => (e.code === 'Space' ? 'Space' : e.key.toLowerCase())
const typing = (e: KeyboardEvent): boolean =>
  e.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName)
function down(e: KeyboardEvent): void {
  if (e.key === 'Shift') walk.hurry.value = true
  const leads = KEYS[e.code] !== undefined
  if ((!leads && !walk.means(nameOf(e))) || typing(e) || e.ctrlKey || e.metaKey || e.altKey) return
  // a press that was reached by keyboard is pressed by space itself
  if (e.code === 'Space' && (e.target as Element | null)?.closest('button, [role="switch"], [role="radio"]')) return
  // here these keys lead the figure, wherever else they lead
  e.preventDefault()
  e.stopPropagation()
  if (leads) {
    held.add(e.code)
    lead()
  } else if (!e.repeat) walk.key(nameOf(e), true)
}
function up(e: KeyboardEvent): void {
  if (e.key === 'Shift') walk.hurry.value = false
  if (held.delete(e.code)) lead()
  else walk.key(nameOf(e), false)
}
function letGo(): void {
  held.clear()
  walk.letGo()
}

// --- by a game pad, where there is one ---
const { gamepads, pause, resume } = usePad()
onMounted(() => {
  if (gamepads.value.length > 0) resume()
})
onBeforeUnmount(pause)
/** What a stick must be moved by to count. */
const REST = 0.2
let led = false
const padHeld = new Set<string>()
// the list is changed in place
watch(
  gamepads,
  pads => {
    const pad = pads.find(p => p.axes.length >= 2)
    if (!pad) return
    const [x, y] = [pad.axes[0]!, pad.axes[1]!]
    const far = Math.hypot(x, y)
    if (far > REST) {
      led = true
      walk.hurry.value = far > 0.85
      walk.go(groundWay(x, y))
    } else if (led) {
      led = false
      walk.hurry.value = false
      walk.go(undefined)
    }
    const states = trial.states.value
    const names = [states?.jump?.key, ...(states?.actions.map(a => a.key) ?? [])]
    pad.buttons.slice(0, 10).forEach((b, i) => {
      const name = names[i]
      if (name === undefined || b.pressed === padHeld.has(name)) return
      if (b.pressed) padHeld.add(name)
      else padHeld.delete(name)
      walk.key(name, b.pressed)
    })
  },
  { deep: true },
)
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
const marks = shallowRef<readonly { x: number; y: number; z: number; left: boolean }[]>([])
watch(walk.now, w => {
  if (!w) marks.value = []
  else if (w.footfalls.length > 0)
    marks.value = [...marks.value, ...w.footfalls.map(f => ({ x: f.at[0], y: f.at[1], z: f.at[2], left: f.leg.startsWith('left') }))].slice(-14) // prettier-ignore
})
const shown = computed(() => {
  void props.version
  return marks.value.map((m, i) => ({ ...onPlate(m.x, m.z, m.y), left: m.left, faint: (i + 1) / marks.value.length }))
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
