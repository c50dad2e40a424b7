<script setup lang="ts">
import { conjugate, rotate, vec3At, type Quat, type Vec3 } from '@chiraxis/core/math'
import { stairHeight } from '@chiraxis/core/root-motion'
import { worldPose } from '@chiraxis/core/skeleton'
import type { Placed, Stage } from '~/stage/stage'

/** The way of the body on the ground: a line with a tick each quarter second, where it is now, and points it is led through. */
const props = defineProps<{ stage: Stage; placed: Placed; version: number; width: number; height: number }>()
const derived = useDerived()
const player = usePlayer()
const travel = useTravel()
const answer = computed(() => derived.performed?.answer)
/** Where the hips stand over the ground at rest, in the body's own frame. */
const standing = computed(() => {
  const a = answer.value,
    s = derived.skeleton
  if (!a || !s || a.figureJoints.hips === undefined) return undefined
  const frame = a.figureFrame as Quat
  const p = rotate(frame, vec3At(worldPose(s).positions, a.figureJoints.hips))
  return { x: p[0], z: p[2], back: conjugate(frame), frame }
})
function inSpace(x: number, z: number): Vec3 {
  const [a, b] = [standing.value!.x + x, standing.value!.z + z]
  return rotate(standing.value!.back, [a, travel.followedAt(a, b), b])
}
const at = (x: number, z: number): { x: number; y: number } => props.stage.project(props.placed, inSpace(x, z))
const path = computed(() => answer.value?.travelled.path)
const drawn = computed(() => {
  void props.version
  const p = path.value
  if (!p || !standing.value || p.across.length < 2) return undefined
  const n = p.across.length
  const places = Array.from({ length: n }, (_, f) => at(p.across[f]!, p.ahead[f]!))
  const line = (list: readonly { x: number; y: number }[]): string =>
    list.map((q, i) => `${i === 0 ? 'M' : 'L'}${q.x.toFixed(1)} ${q.y.toFixed(1)}`).join('')
  const step = player.fps / 4
  const ticks = Array.from({ length: Math.floor((n - 1) / step) + 1 }, (_, i) => {
    const f = Math.min(n - 1, Math.round(i * step))
    const a = Math.max(0, f - 1),
      b = Math.min(n - 1, f + 1)
    const [dx, dz] = [p.across[b]! - p.across[a]!, p.ahead[b]! - p.ahead[a]!]
    const l = Math.hypot(dx, dz) || 1
    const wide = i % 4 === 0 ? 0.09 : 0.05
    const [u, v] = [
      at(p.across[f]! + (wide * dz) / l, p.ahead[f]! - (wide * dx) / l),
      at(p.across[f]! - (wide * dz) / l, p.ahead[f]! + (wide * dx) / l),
    ]
    return { i, whole: i % 4 === 0, d: `M${u.x.toFixed(1)} ${u.y.toFixed(1)}L${v.x.toFixed(1)} ${v.y.toFixed(1)}` }
  })
  const f = Math.min(n - 1, player.frame)
  const facing = [Math.sin(p.turn[f]!), Math.cos(p.turn[f]!)] as const
  const here = places[f]!
  const ahead = at(p.across[f]! + 0.3 * facing[0], p.ahead[f]! + 0.3 * facing[1])
  return { line: line(places), ticks, here, ahead }
})
/** Edges of stairs, and their outline at both sides. */
const stairs = computed(() => {
  void props.version
  const told = travel.settings.value.floor?.stairs
  const p = path.value
  if (!told || !p || !standing.value) return []
  const { back, x } = standing.value
  const middle = x + (p.across[0] ?? 0)
  const place = (side: number, z: number, up: number): string => {
    const flat = travel.floorAt(middle + side, z) - stairHeight(told, z)
    const q = props.stage.project(props.placed, rotate(back, [middle + side, flat + up, z]))
    return `${q.x.toFixed(1)} ${q.y.toFixed(1)}`
  }
  const lines: string[] = []
  const shown = Math.min(told.count, 60)
  for (const side of [-WIDE, WIDE]) {
    const outline = Array.from({ length: shown }, (_, k) => [
      place(side, told.from + k * told.tread, k * told.rise),
      place(side, told.from + k * told.tread, (k + 1) * told.rise),
    ]).flat()
    lines.push(`M${[...outline, place(side, told.from + shown * told.tread, shown * told.rise)].join('L')}`)
  }
  for (let k = 0; k < shown; k++)
    for (const up of [k * told.rise, (k + 1) * told.rise]) {
      const z = told.from + k * told.tread
      lines.push(`M${place(-WIDE, z, up)}L${place(WIDE, z, up)}`)
    }
  return lines
})
/** Half as wide as stairs are drawn, metres. */
const WIDE = 0.5
/** Points of the way as it was told, from where it sets out. */
const points = computed(() => {
  void props.version
  const { way } = travel.settings.value
  const p = path.value
  if (way?.kind !== 'points' || !p || !standing.value || p.across.length === 0) return []
  return (draft.value ?? way.points).map(([x, z], i) => ({ i, ...at(p.across[0]! + x, p.ahead[0]! + z) }))
})
const svg = ref<SVGSVGElement>()
const draft = shallowRef<[number, number][]>()
let held: number | undefined
function grab(event: PointerEvent, i: number): void {
  const { way } = travel.settings.value
  if (way?.kind !== 'points') return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held = i
  draft.value = way.points.map(p => [...p] as [number, number])
}
/** The place on the ground under the pointer; in a view along the ground only what the view shows changes. */
function onGround(event: PointerEvent, before: readonly [number, number]): [number, number] {
  const box = svg.value!.getBoundingClientRect()
  const p = path.value!
  const [x, y] = [event.clientX - box.left, event.clientY - box.top]
  const anchor = inSpace(p.across[0]! + before[0], p.ahead[0]! + before[1])
  const near = props.stage.unproject(props.placed, x, y, anchor) as Vec3
  const up = rotate(standing.value!.back, [0, 1, 0])
  const far = props.stage.unproject(props.placed, x, y, [
    anchor[0] + up[0],
    anchor[1] + up[1],
    anchor[2] + up[2],
  ]) as Vec3
  const [a, b] = [near, far].map(q => rotate(standing.value!.frame, q))
  const t = Math.abs(b![1] - a![1]) > 0.15 ? -a![1] / (b![1] - a![1]) : 0
  const place = [a![0] + t * (b![0] - a![0]), a![2] + t * (b![2] - a![2])]
  return [
    Math.round(100 * (place[0]! - standing.value!.x - p.across[0]!)) / 100,
    Math.round(100 * (place[1]! - standing.value!.z - p.ahead[0]!)) / 100,
  ]
}
function drag(event: PointerEvent): void {
  if (held === undefined || !draft.value) return
  const next = [...draft.value]
  next[held] = onGround(event, next[held]!)
  draft.value = next
}
function drop(): void {
  if (held !== undefined && draft.value)
    travel.setWay('Move a point of the way', { kind: 'points', points: draft.value })
  held = undefined
  draft.value = undefined
}
</script>

<template>
  <svg
    ref="svg"
    class="pointer-events-none absolute inset-0 h-full w-full"
    :viewBox="`0 0 ${width || 1} ${height || 1}`"
    aria-hidden="true"
  >
    <g v-if="stairs.length > 0" fill="none" stroke-linejoin="round" data-testid="stairs">
      <path v-for="(d, i) in stairs" :key="`h${i}`" :d="d" stroke="#f5f1e8" stroke-width="3" stroke-opacity="0.7" />
      <path v-for="(d, i) in stairs" :key="i" :d="d" stroke="var(--g-slate)" stroke-width="1.3" />
    </g>
    <g v-if="drawn" fill="none" stroke-linecap="round" data-testid="ground-path">
      <path :d="drawn.line" stroke="#f5f1e8" stroke-width="5" stroke-opacity="0.9" />
      <path :d="drawn.line" stroke="#22292c" stroke-width="2" />
      <path v-for="t in drawn.ticks" :key="t.i" :d="t.d" stroke="#22292c" :stroke-width="t.whole ? 2.4 : 1.3" />
      <path
        :d="`M${drawn.here.x} ${drawn.here.y}L${drawn.ahead.x} ${drawn.ahead.y}`"
        stroke="var(--g-madder)"
        stroke-width="2.6"
      />
      <circle
        :cx="drawn.here.x"
        :cy="drawn.here.y"
        r="4.5"
        fill="var(--g-madder)"
        stroke="#f5f1e8"
        stroke-width="1.6"
      />
    </g>
    <g
      v-for="p in points"
      :key="p.i"
      class="pointer-events-auto cursor-move touch-none"
      :transform="`translate(${p.x} ${p.y})`"
      :data-way-point="p.i"
      @pointerdown="grab($event, p.i)"
      @pointermove="drag"
      @pointerup="drop"
      @pointercancel="drop"
    >
      <title>{{ `Point ${p.i + 1} of the way` }}</title>
      <circle r="13" fill="transparent" />
      <path d="M0 -8L8 0L0 8L-8 0Z" fill="#f5f1e8" stroke="#22292c" stroke-width="2" />
      <text text-anchor="middle" dy="4" font-size="11" font-weight="600" fill="#22292c">{{ p.i + 1 }}</text>
    </g>
  </svg>
</template>
