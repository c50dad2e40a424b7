<script setup lang="ts">
import { isFinger } from '@chiraxis/core/body'
import type { Handle } from '@chiraxis/core/handles'
import { quatAt, rotate, vec3At, type Vec3 } from '@chiraxis/core/math'
import type { WorldPose } from '@chiraxis/core/skeleton'
import { colorOfSide } from '~/components/plate/overlay'
import type { Placed, Stage } from '~/stage/stage'

/** Handles around the figure: the body's own cuts and soles, what is held, and where its mass lies. */
const props = defineProps<{ stage: Stage; placed: Placed; version: number; width: number; height: number }>()
const view = useView()
const derived = useDerived()
const handles = useHandles()
const posing = useHandlePose()
const { balance } = posing

interface Drawn {
  readonly h: Handle
  /** The half that is nearer, and the one behind the limb. */
  readonly near: string
  readonly far: string
  readonly whole: string
  readonly x: number
  readonly y: number
  readonly depth: number
  /** From its middle to the joint it reaches for: ends and bends are led. */
  readonly leader?: string
  readonly chosen: boolean
  readonly color: string
}
const isEnd = (h: Handle): boolean => h.kind === 'end' || h.kind === 'bend'
const project = (p: Vec3): { x: number; y: number; depth: number } => props.stage.project(props.placed, p)
const drawn = computed<Drawn[]>(() => {
  void props.version
  const w = posing.world.value
  if (!w || view.step === 'mass' || view.step === 'props') return []
  return (
    handles.shown.value
      .map((h): Drawn => {
        const dots = placesOf(h, w).map(project)
        const n = dots.length
        const middle = { x: 0, y: 0, depth: 0 }
        for (const d of dots) {
          middle.x += d.x / n
          middle.y += d.y / n
          middle.depth += d.depth / n
        }
        const chosen = handles.chosen.value.includes(h.id)
        const from = isEnd(h) ? project(vec3At(w.positions, h.joint)) : undefined
        return {
          h,
          near: halves(dots, middle.depth, true),
          far: halves(dots, middle.depth, false),
          whole: n > 1 ? `M${dots.map(d => `${d.x.toFixed(1)} ${d.y.toFixed(1)}`).join('L')}Z` : '',
          ...middle,
          leader: from && `M${from.x.toFixed(1)} ${from.y.toFixed(1)}L${middle.x.toFixed(1)} ${middle.y.toFixed(1)}`,
          chosen,
          color: chosen ? 'var(--g-madder)' : colorOfSide(h.side),
        }
      })
      // ends lie over the joints they bring along
      .sort(
        (a, b) => Number(a.chosen) - Number(b.chosen) || Number(isEnd(a.h)) - Number(isEnd(b.h)) || b.depth - a.depth,
      )
  )
})
/** Where the points of a handle's shape are. What the figure stands on lies on the ground and goes along with it. */
function placesOf(h: Handle, w: WorldPose): Vec3[] {
  const { points, joint } = handles.shapeOf(h)
  const bind = handles.bind.value
  const lies = h.kind === 'figure' && bind !== undefined
  const from = lies ? bind : w
  const at = vec3At(from.positions, joint)
  const turn = quatAt(from.rotations, joint)
  const now = vec3At(w.positions, joint)
  const gone = lies ? [now[0] - at[0], 0, now[2] - at[2]] : [0, 0, 0]
  return Array.from({ length: points.length / 3 }, (_, i) => {
    const p = rotate(turn, vec3At(points, i))
    return [0, 1, 2].map(k => at[k]! + p[k]! + gone[k]!) as Vec3
  })
}
/** The parts of a line that lie before its middle, or behind it. */
function halves(dots: readonly { x: number; y: number; depth: number }[], middle: number, nearer: boolean): string {
  let d = ''
  let open = false
  for (let i = 0; i <= dots.length; i++) {
    const p = dots[i % dots.length]!
    const here = p.depth <= middle === nearer
    const before = dots[(i + dots.length - 1) % dots.length]!
    if (here && !open) d += `M${before.x.toFixed(1)} ${before.y.toFixed(1)}`
    if (here || open) d += `L${p.x.toFixed(1)} ${p.y.toFixed(1)}`
    open = here
  }
  return d
}

/** What is held, in words at the part. */
const held = computed(() => {
  void props.version
  const w = posing.world.value
  const s = derived.skeleton
  if (!w || !s) return []
  return posing.holds.value.flatMap(({ joint, place, turn }) => {
    const j = s.names.findIndex((_, k) => posing.holdOf(k)?.joint === joint)
    if (j < 0) return []
    const missed = posing.unmet.value.loose.find(l => l.joint === j)
    const words = place && turn ? 'place and turn held' : place ? 'place held' : 'turn held'
    const off = missed ? `, ${(100 * missed.place).toFixed(1)} cm off` : ''
    return [{ j, words: words + off, missed: missed !== undefined, ...project(vec3At(w.positions, j)) }]
  })
})

/** The mass with its fall line, over the outline of what carries the figure. */
const fall = computed(() => {
  void props.version
  const c = balance.centre.value,
    s = balance.support.value
  if (!c || !s || ((view.step === 'set' || view.step === 'props') && !posing.balanced.value)) return undefined
  const [x, y, z] = c.place
  const top = project([x, y, z])
  const foot = project([x, s.lowest, z])
  const room = balance.room.value ?? 0
  const ring = s.outline.map(([a, b]) => project([a, s.lowest, b]))
  const own = view.step === 'mass' ? balance.chosenCentre.value : undefined
  return {
    top,
    foot,
    within: room >= 0,
    words: `${Math.abs(100 * room).toFixed(1)} cm ${room >= 0 ? 'inside' : 'outside'}`,
    ring: ring.length > 1 ? `M${ring.map(p => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join('L')}Z` : '',
    own: own && project(own.place),
    below: ring.reduce((most, p) => Math.max(most, p.y), foot.y),
  }
})
/** Volumes around the bones. */
const volumes = computed(() => {
  void props.version
  const w = posing.world.value
  if (view.step !== 'mass' || !handles.body.value || !w) return []
  return handles.body.value.capsules.flatMap(c => {
    const chosen = handles.picked.value.some(h => h.joint === c.joint)
    if (!chosen && isFinger(derived.skeleton?.roles[c.joint] ?? '')) return []
    const at = vec3At(w.positions, c.joint)
    const q = quatAt(w.rotations, c.joint)
    const put = (p: readonly [number, number, number]): Vec3 => {
      const d = rotate(q, [...p])
      return [at[0] + d[0], at[1] + d[1], at[2] + d[2]]
    }
    const ends = [put(c.from), put(c.to)].map((p, i) => {
      const m = project(p)
      // how large a length is on the plate at that place
      const r = i === 0 ? c.fromRadius : c.toRadius
      const beside = [0, 1, 2].map(k => project(p.map((v, a) => (a === k ? v + r : v)) as Vec3))
      return { ...m, r: beside.reduce((most, b) => Math.max(most, Math.hypot(b.x - m.x, b.y - m.y)), 0) }
    })
    return [{ joint: c.joint, d: around(ends[0]!, ends[1]!), chosen }]
  })
})
/** The line around two circles. */
function around(a: { x: number; y: number; r: number }, b: { x: number; y: number; r: number }): string {
  const long = Math.hypot(b.x - a.x, b.y - a.y)
  const larger = a.r > b.r ? a : b
  if (long <= Math.abs(a.r - b.r) + 0.5)
    return `M${larger.x - larger.r} ${larger.y}a${larger.r} ${larger.r} 0 1 0 ${2 * larger.r} 0a${larger.r} ${larger.r} 0 1 0 ${-2 * larger.r} 0`
  const along = Math.atan2(b.y - a.y, b.x - a.x)
  const open = Math.acos((a.r - b.r) / long)
  const on = (c: typeof a, turn: number): string =>
    `${(c.x + c.r * Math.cos(along + turn)).toFixed(1)} ${(c.y + c.r * Math.sin(along + turn)).toFixed(1)}`
  const far = open > Math.PI / 2 ? 1 : 0
  return `M${on(a, open)}A${a.r.toFixed(1)} ${a.r.toFixed(1)} 0 ${1 - far} 1 ${on(a, -open)}L${on(b, -open)}A${b.r.toFixed(1)} ${b.r.toFixed(1)} 0 ${far} 1 ${on(b, open)}Z`
}

// --- pulling ---
const svg = ref<SVGSVGElement>()
let pulled: Handle | undefined
const pull = usePlatePull(() => ({ ...props, svg: svg.value }), {
  drag: posing.dragTo,
  end: moved => (moved ? posing.end(pulled!) : posing.cancel()),
  cancel: posing.cancel,
})
function down(event: PointerEvent, h: Handle): void {
  event.stopPropagation()
  const more = event.shiftKey || event.ctrlKey || event.metaKey
  handles.choose([h.id], more)
  if (more || view.step === 'mass' || !posing.world.value) return
  const grab = grabbed(h, ...pull.at(event))
  pulled = h
  if (posing.begin(h, grab)) pull.begin(event, grab)
}
/** The place of a handle's shape that is nearest to the pointer. */
function grabbed(h: Handle, x: number, y: number): Vec3 {
  const w = posing.world.value!
  let best = vec3At(w.positions, h.joint)
  let nearest = Infinity
  for (const p of placesOf(h, w)) {
    const q = project(p)
    const off = Math.hypot(q.x - x, q.y - y)
    if (off < nearest) {
      nearest = off
      best = p
    }
  }
  return best
}
</script>

<template>
  <svg
    ref="svg"
    class="pointer-events-none absolute inset-0 h-full w-full"
    :viewBox="`0 0 ${width || 1} ${height || 1}`"
    aria-hidden="true"
  >
    <path
      v-for="v in volumes"
      :key="`volume ${v.joint}`"
      :d="v.d"
      fill="#f5f1e8"
      :fill-opacity="v.chosen ? 0.35 : 0.1"
      :stroke="v.chosen ? 'var(--g-madder)' : 'var(--on-ground)'"
      :stroke-width="v.chosen ? 1.8 : 0.9"
      :stroke-opacity="v.chosen ? 1 : 0.6"
      class="pointer-events-auto cursor-pointer"
      :data-volume="v.joint"
      @pointerdown.stop="handles.choose([handles.handleOfJoint(v.joint)?.id ?? ''], $event.shiftKey)"
    />
    <g v-if="fall" fill="none">
      <path :d="fall.ring" fill="#f5f1e8" fill-opacity="0.18" stroke="var(--on-ground)" stroke-width="1.2" />
      <path
        :d="`M${fall.top.x} ${fall.top.y}L${fall.foot.x} ${fall.foot.y}`"
        :stroke="fall.within ? 'var(--on-ground)' : 'var(--g-madder-words)'"
        stroke-width="1.6"
        stroke-dasharray="7 3 1.5 3"
      />
      <g :transform="`translate(${fall.top.x} ${fall.top.y})`">
        <path d="M-6 0H6M0 -6V6" stroke="#f5f1e8" stroke-width="4.4" />
        <path d="M-6 0H6M0 -6V6" :stroke="fall.within ? '#22292c' : 'var(--g-madder)'" stroke-width="2" />
      </g>
      <circle
        v-if="fall.own"
        :cx="fall.own.x"
        :cy="fall.own.y"
        r="4.5"
        fill="#f5f1e8"
        stroke="var(--g-madder)"
        stroke-width="2"
      />
      <text
        :x="fall.foot.x"
        :y="fall.below + 24"
        text-anchor="middle"
        font-size="13"
        font-weight="600"
        :fill="fall.within ? 'var(--on-ground)' : 'var(--g-madder-words)'"
        data-testid="balance-told"
      >
        {{ fall.words }}
      </text>
    </g>
    <g
      v-for="d in drawn"
      :key="d.h.id"
      class="pointer-events-auto cursor-move touch-none"
      :data-handle="d.h.id"
      @pointerdown="down($event, d.h)"
    >
      <title>{{ handles.labelOf(d.h) }}</title>
      <template v-if="d.whole">
        <path :d="d.whole" fill="none" stroke="transparent" stroke-width="11" />
        <path :d="d.far" fill="none" :stroke="d.color" stroke-width="1" stroke-opacity="0.45" />
        <path :d="d.near" fill="none" stroke="#f5f1e8" stroke-opacity="0.7" :stroke-width="d.chosen ? 4.4 : 3.2" />
        <path
          :d="d.near"
          fill="none"
          :stroke="d.color"
          :stroke-width="d.chosen ? 2.6 : 1.7"
          :stroke-dasharray="d.h.kind === 'figure' ? '9 4' : d.h.kind === 'end' ? '14 5' : undefined"
        />
        <path v-if="d.h.kind === 'end'" :d="d.leader" :stroke="d.color" stroke-width="1" stroke-dasharray="2 3" />
      </template>
      <template v-else>
        <path :d="d.leader" :stroke="d.color" stroke-width="1" stroke-dasharray="2 3" />
        <g :transform="`translate(${d.x} ${d.y})`">
          <circle r="10" fill="transparent" />
          <SideMark :side="d.h.side" :size="d.chosen ? 6.5 : 5" :fill="d.color" stroke="#f5f1e8" :stroke-width="1.2" />
        </g>
      </template>
    </g>
    <g v-for="m in held" :key="`held ${m.j}`" :transform="`translate(${m.x} ${m.y})`">
      <path d="M-5 0H5M0 -5V5" stroke="#f5f1e8" stroke-width="4" transform="rotate(45)" />
      <path
        d="M-5 0H5M0 -5V5"
        :stroke="m.missed ? 'var(--g-madder)' : '#22292c'"
        stroke-width="2"
        transform="rotate(45)"
      />
      <text
        x="10"
        y="-7"
        font-size="12"
        font-weight="600"
        :fill="m.missed ? 'var(--g-madder-words)' : 'var(--on-ground)'"
        :data-held="m.j"
      >
        {{ m.words }}
      </text>
    </g>
  </svg>
</template>
