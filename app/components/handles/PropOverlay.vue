<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { outlineAround } from '@chiraxis/core/mass'
import { inverseOf, pointIn, rotate, vec3At, within, type Quat, type Rigid, type Vec3 } from '@chiraxis/core/math'
import { placeOn, type KnownProp, type PropPlace } from '@chiraxis/core/props'
import type { Placed, Stage } from '~/stage/stage'

/** Props on the plate: the outline of each, by which it is pulled, and the places it is held by. */
const props = defineProps<{ stage: Stage; placed: Placed; version: number; width: number; height: number }>()
const carried = useProps()
const posing = useHandlePose()
const view = useView()

const project = (p: Vec3): { x: number; y: number; depth: number } => props.stage.project(props.placed, p)
const rigidOf = (id: string): Rigid | undefined => {
  const place = posing.propPlaces.value.get(id)
  return place && { at: [...place.at], turn: [...place.turn] }
}
/** So many corners of a prop tell its outline. */
const LOOKED_AT = 900
/** Its outline lies so many pixels outside it. */
const AROUND = 5
function cornersOf({ thing }: KnownProp, at: Rigid): Vec3[] {
  const n = thing.mesh.positions.length / 3
  const step = Math.max(1, Math.floor(n / LOOKED_AT))
  return Array.from({ length: Math.ceil(n / step) }, (_, i) => pointIn(at, vec3At(thing.mesh.positions, i * step)))
}
const drawn = computed(() => {
  void props.version
  return carried.known.value.flatMap(known => {
    const at = rigidOf(known.prop.id)
    if (!at) return []
    const flat = cornersOf(known, at).map(p => project(p))
    const ring = outlineAround(
      flat.flatMap(({ x, y }) => AWAY.map(([a, b]) => [x + AROUND * a, y + AROUND * b] as const)),
    )
    const d = ring.length > 2 ? `M${ring.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}Z` : ''
    const top = ring.reduce((best, p) => (p[1] < best[1] ? p : best), [0, Infinity] as readonly [number, number])
    return [{ known, d, top, chosen: known.prop.id === carried.prop.value?.id, at }]
  })
})
/** Eight ways around a point. */
const AWAY = Array.from({ length: 8 }, (_, i) => [Math.cos((i * Math.PI) / 4), Math.sin((i * Math.PI) / 4)] as const)

/** Places of the chosen prop: a stroke along what is held, with a tick to where the fingers point. */
const marks = computed(() => {
  void props.version
  const own = drawn.value.find(d => d.chosen)
  if (!own) return []
  return own.known.thing.places.map((p: PropPlace) => {
    const middle: Vec3 = pointIn(own.at, p.at)
    const long = Math.max(0.035, 1.6 * (p.thick ?? 0))
    const turn = own.at.turn
    const to = (v: Vec3, l: number): { x: number; y: number } => {
      const d = rotate(turn, rotate([...p.turn] as Quat, v))
      return project([middle[0] + l * d[0], middle[1] + l * d[1], middle[2] + l * d[2]])
    }
    const [a, b, f, m] = [to([1, 0, 0], long), to([1, 0, 0], -long), to([0, 1, 0], long), project(middle)]
    const line = (p0: { x: number; y: number }, p1: { x: number; y: number }): string =>
      `M${p0.x.toFixed(1)} ${p0.y.toFixed(1)}L${p1.x.toFixed(1)} ${p1.y.toFixed(1)}`
    const isAbout = carried.way.value === 'turn' && (carried.pivot.value ?? own.known.thing.places[0]?.id) === p.id
    return { id: p.id, name: p.name, d: p.pivot ? line(a, b) : line(a, b) + line(m, f), x: m.x, y: m.y, isAbout }
  })
})

// --- pulling and marking ---
const svg = ref<SVGSVGElement>()
const pull = usePlatePull(() => ({ ...props, svg: svg.value }), {
  drag: carried.dragTo,
  end: moved => (moved ? carried.end() : carried.cancel()),
  cancel: carried.cancel,
})
function down(event: PointerEvent, d: (typeof drawn.value)[number]): void {
  event.stopPropagation()
  carried.chosen.value = d.known.prop.id
  const near = nearest(d.known, d.at, ...pull.at(event))
  if (carried.marking.value) return mark(d.known, d.at, near)
  if (posing.pose.value && carried.begin(posing.pose.value, d.at, near)) pull.begin(event, near)
}
/** The corner of a prop nearest to the pointer, of those alike the one that is nearer to the viewer. */
function nearest(known: KnownProp, at: Rigid, x: number, y: number): Vec3 {
  let best: Vec3 = at.at
  let least = Infinity
  for (const p of cornersOf(known, at)) {
    const q = project(p)
    const off = Math.hypot(q.x - x, q.y - y) + 4 * q.depth
    if (off < least) {
      least = off
      best = p
    }
  }
  return best
}
/** A place of one's own, in the middle of what is there along the prop's nearest grip. */
function mark(known: KnownProp, at: Rigid, near: Vec3): void {
  carried.marking.value = false
  const own = within(inverseOf(at), { at: near, turn: [0, 0, 0, 1] }).at
  const like = known.thing.places.find(p => p.round)
  const n = known.thing.places.length + 1
  const id = crypto.randomUUID()
  if (!like) return carried.setPlace('New place', placeOn(own, [0, 1, 0], id, `Place ${n}`))
  // along a shaft the place goes into its middle
  const way = rotate([...like.turn] as Quat, [1, 0, 0])
  const t = own.reduce((sum, v, k) => sum + (v - like.at[k]!) * way[k]!, 0)
  const middle = like.at.map((v, k) => v + t * way[k]!) as Vec3
  carried.setPlace('New place', { ...like, id, name: `Place ${n}`, at: middle })
}
useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  if (event.key === 'Escape') carried.marking.value = false
})
</script>

<template>
  <svg
    ref="svg"
    class="pointer-events-none absolute inset-0 h-full w-full"
    :viewBox="`0 0 ${width || 1} ${height || 1}`"
    aria-hidden="true"
  >
    <g
      v-for="d in drawn"
      :key="d.known.prop.id"
      class="pointer-events-auto touch-none"
      :class="carried.marking.value ? 'cursor-crosshair' : 'cursor-move'"
      :data-prop-handle="d.known.prop.name"
      @pointerdown="down($event, d)"
    >
      <path
        :d="d.d"
        fill="transparent"
        :stroke="d.chosen ? 'var(--g-madder)' : 'var(--on-ground)'"
        :stroke-width="d.chosen ? 1.8 : 1.1"
        stroke-linejoin="round"
        stroke-dasharray="11 3"
      />
      <text
        :x="d.top[0]"
        :y="Math.max(14, d.top[1] - 7)"
        text-anchor="middle"
        font-size="13"
        font-weight="600"
        class="haloed"
        :fill="d.chosen ? 'var(--g-madder-words)' : 'var(--on-ground)'"
      >
        {{ d.known.prop.name }}
      </text>
    </g>
    <g v-for="m in marks" :key="m.id" class="pointer-events-none" :data-prop-place="m.name">
      <path :d="m.d" fill="none" stroke="#f5f1e8" stroke-width="5" stroke-linecap="round" />
      <path
        :d="m.d"
        fill="none"
        :stroke="m.isAbout ? 'var(--g-madder)' : '#22292c'"
        stroke-width="2.2"
        stroke-linecap="round"
      />
      <text
        v-if="view.step === 'props'"
        :x="m.x + 12"
        :y="m.y + 4"
        font-size="12"
        class="haloed"
        fill="var(--on-ground)"
      >
        {{ m.name }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
/* words over the figure keep apart from it */
.haloed {
  paint-order: stroke;
  stroke: var(--ground-a);
  stroke-width: 3px;
  stroke-linejoin: round;
}
</style>
