<script setup lang="ts">
import { fromTo, multiply, normalize, sub, toEulerYXZ, type Vec3 } from '@chiraxis/core/math'
import { worldPose } from '@chiraxis/core/skeleton'
import { sideOf, isFinger } from '@chiraxis/core/body'
import { restTurnsOf } from '@chiraxis/core/retarget'
import { colorOfSide } from '~/components/plate/overlay'
import type { Placed, Stage } from '~/stage/stage'

/** What Motion draws over the large view: lines of the role map, the limb being matched, the take before it was kept. */
const props = defineProps<{
  stage: Stage
  placed: Placed
  version: number
  width: number
  height: number
  jointPlaces: readonly Vec3[]
  performer?: { readonly places: readonly Vec3[]; readonly parents: readonly number[] }
}>()
const view = useView()
const derived = useDerived()
const player = usePlayer()
const { note, setNote } = useTakeEdit()
const answer = computed(() => (derived.ownShown ? undefined : derived.performed?.answer))
const at = (p: Vec3): { x: number; y: number } => props.stage.project(props.placed, p)

/** Joint of the figure and of the performer for each role both have. */
const pairs = computed(() => {
  void props.version
  const a = answer.value
  if (view.step !== 'map' || !a || !props.performer) return []
  return Object.entries(a.figureJoints).flatMap(([role, j]) => {
    const own = props.jointPlaces[j]
    if (!own) return []
    const k = a.performerJoints[role]
    const theirs = k === undefined ? undefined : props.performer!.places[k]
    return [
      {
        role,
        own: at(own),
        theirs: theirs && at(theirs),
        chosen: role === view.role,
        minor: isFinger(role),
      },
    ]
  })
})
/** Performer joints to press. */
const theirs = computed(() => {
  void props.version
  const a = answer.value
  if (view.step !== 'map' || !a || !props.performer) return []
  const roles = new Map(Object.entries(a.performerJoints).map(([r, j]) => [j, r]))
  return a.performer.names.map((name, j) => ({ j, name, role: roles.get(j), ...at(props.performer!.places[j]!) }))
})
function give(name: string, role: string | undefined): void {
  if (role && role !== view.role && !derived.performed) return
  setNote(`Let ${name} play ${view.role}`, { map: { ...note.value.map, [view.role]: name } })
}

/** The performer's limb that is being matched, with a handle at its end. */
const limb = computed(() => {
  void props.version
  const a = answer.value
  if (view.step !== 'match' || !a || !props.performer) return undefined
  const j = a.performerJoints[view.role]
  if (j === undefined) return undefined
  const ends = props.performer.parents.flatMap((p, c) => (p === j ? [c] : []))
  const end = ends[0]
  const from = props.performer.places[j],
    to = end === undefined ? undefined : props.performer.places[end]
  return from && to ? { from, to, a: at(from), b: at(to) } : undefined
})
let held: { from: Vec3; to: Vec3 } | undefined
function grab(event: PointerEvent): void {
  if (!limb.value) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held = { from: [...limb.value.from], to: [...limb.value.to] }
}
let moved = false
function turn(event: PointerEvent): void {
  if (!held) return
  const box = (event.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect()
  const point = props.stage.unproject(props.placed, event.clientX - box.left, event.clientY - box.top, held.to) as Vec3
  const now = normalize(sub(point, held.from))
  const swing = fromTo(normalize(sub(held.to, held.from)), now)
  const own = restTurnsOf(note.value)[view.role] ?? [0, 0, 0, 1]
  const [x, y, z] = toEulerYXZ(multiply(swing, own)).map(v => Math.round((v * 1800) / Math.PI) / 10) as Vec3
  setNote(`Match ${view.role} by hand`, { restTurns: { ...note.value.restTurns, [view.role]: [x, y, z] } }, moved)
  moved = true
  const long = Math.hypot(...sub(held.to, held.from))
  held = {
    from: held.from,
    to: [held.from[0] + now[0] * long, held.from[1] + now[1] * long, held.from[2] + now[2] * long],
  }
}
function drop(): void {
  held = undefined
  moved = false
}

/** Bones of the take as it was carried over exactly. */
const ghost = computed(() => {
  void props.version
  const s = derived.skeleton,
    take = answer.value?.carried
  if (!view.ghost || view.resting || !s || !take || take.rotations.length !== 4 * s.names.length * take.frames)
    return ''
  const f = Math.min(take.frames - 1, Math.round(player.time * take.fps))
  const w = worldPose(s, take.translations, take.rotations, f * s.names.length)
  const place = s.names.map((_, j) => at([w.positions[3 * j]!, w.positions[3 * j + 1]!, w.positions[3 * j + 2]!]))
  return [...s.parents]
    .flatMap((p, j) =>
      p < 0
        ? []
        : [`M${place[p]!.x.toFixed(1)} ${place[p]!.y.toFixed(1)}L${place[j]!.x.toFixed(1)} ${place[j]!.y.toFixed(1)}`],
    )
    .join('')
})
</script>

<template>
  <svg
    class="pointer-events-none absolute inset-0 h-full w-full"
    :viewBox="`0 0 ${width || 1} ${height || 1}`"
    aria-hidden="true"
  >
    <path v-if="ghost" :d="ghost" fill="none" stroke="var(--g-slate)" stroke-width="2" stroke-dasharray="5 4" />
    <g v-for="p in pairs" :key="p.role">
      <line
        v-if="p.theirs && (!p.minor || p.chosen)"
        :x1="p.own.x"
        :y1="p.own.y"
        :x2="p.theirs.x"
        :y2="p.theirs.y"
        :stroke="p.chosen ? 'var(--g-madder)' : colorOfSide(sideOf(p.role))"
        :stroke-width="p.chosen ? 2.4 : 0.9"
        :stroke-opacity="p.chosen ? 1 : 0.55"
      />
      <g
        v-if="!p.minor || p.chosen"
        class="pointer-events-auto cursor-pointer"
        :transform="`translate(${p.own.x} ${p.own.y})`"
        :data-figure-joint="p.role"
        @pointerdown.stop="view.role = p.role"
      >
        <circle r="9" fill="transparent" />
        <circle v-if="p.chosen" r="9" fill="none" stroke="var(--g-madder)" stroke-width="1.6" />
        <SideMark
          :side="sideOf(p.role)"
          :size="p.theirs ? 3.8 : 4.6"
          :fill="p.theirs ? colorOfSide(sideOf(p.role)) : '#f5f1e8'"
          :stroke="p.theirs ? '#f5f1e8' : 'var(--g-madder)'"
          :stroke-width="p.theirs ? 0.8 : 1.6"
        />
      </g>
    </g>
    <g
      v-for="t in theirs"
      :key="t.j"
      class="pointer-events-auto cursor-pointer"
      :transform="`translate(${t.x} ${t.y})`"
      :data-performer-joint="t.name"
      @pointerdown.stop="give(t.name, t.role)"
    >
      <title>{{ t.name }}</title>
      <circle r="8" fill="transparent" />
      <circle
        :r="t.role === view.role ? 6 : 3.4"
        :fill="t.role ? '#f5f1e8' : 'none'"
        stroke="var(--g-madder)"
        :stroke-width="t.role === view.role ? 2.4 : 1.3"
        :stroke-dasharray="t.role ? undefined : '2 1.5'"
      />
    </g>
    <g v-if="limb">
      <line
        :x1="limb.a.x"
        :y1="limb.a.y"
        :x2="limb.b.x"
        :y2="limb.b.y"
        stroke="#f5f1e8"
        stroke-width="6"
        stroke-linecap="round"
      />
      <line
        :x1="limb.a.x"
        :y1="limb.a.y"
        :x2="limb.b.x"
        :y2="limb.b.y"
        stroke="var(--g-madder)"
        stroke-width="3.4"
        stroke-linecap="round"
      />
      <circle
        class="pointer-events-auto cursor-move"
        :cx="limb.b.x"
        :cy="limb.b.y"
        r="8"
        fill="#f5f1e8"
        stroke="var(--g-madder)"
        stroke-width="2.4"
        data-testid="match-handle"
        @pointerdown="grab"
        @pointermove="turn"
        @pointerup="drop"
        @pointercancel="drop"
      />
    </g>
  </svg>
</template>
