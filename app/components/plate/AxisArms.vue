<script setup lang="ts">
import { isFinger } from '@chiraxis/core/body'
import { conjugate, fromTo, multiply, normalize, quatAt, rotate, sub, type Quat, type Vec3 } from '@chiraxis/core/math'
import { rigOf, turnAxes, type RigEdit } from '@chiraxis/core/rig'
import { atBind, findJoint, jointRef, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import type { Placed, Stage } from '~/stage/stage'

/** The joints' own axes in the large view; in Axes the ends of the chosen joint's are pulled to turn them. */
const props = defineProps<{
  stage: Stage
  placed: Placed
  version: number
  skeleton: Skeleton
  places: readonly Vec3[]
  height: number
}>()
const view = useView()
const derived = useDerived()
const chosen = useChosen()
const edit = useJointEdit()

const AXES = [
  ['x', [1, 0, 0], '#b3261e'],
  ['y', [0, 1, 0], '#2e7d32'],
  ['z', [0, 0, 1], '#1f4fbf'],
] as const
const LONG = 0.07
const SHORT = 0.028

const arms = computed(() => {
  void props.version
  const s = props.skeleton
  const w = worldPose(view.step === 'skeleton' ? atBind(s) : s)
  const all = view.step === 'axes'
  return s.names.flatMap((_, j) => {
    const at = props.places[j]
    const one = j === derived.joint
    if (!at || (!one && (!all || (isFinger(s.roles[j] ?? '') && !chosen.isAlso(j))))) return []
    const q = quatAt(w.rotations, j)
    const long = (one ? LONG : chosen.isAlso(j) ? 0.7 * LONG : SHORT) * (props.height || 1.7)
    return AXES.map(([name, axis, color]) => {
      const d = rotate(q, axis as unknown as Vec3)
      const end: Vec3 = [at[0] + d[0] * long, at[1] + d[1] * long, at[2] + d[2] * long]
      return {
        key: `${j}${name}`,
        name: one ? name : '',
        color,
        wide: one ? 2.4 : 1.5,
        from: props.stage.project(props.placed, at),
        to: props.stage.project(props.placed, end),
        at,
        end,
      }
    })
  })
})

let held: { skeleton: Skeleton; at: Vec3; end: Vec3 } | undefined
/** The turn of every chosen joint so far, each in its own axes. */
let turns: { joint: string; by: Quat }[] = []
function down(event: PointerEvent, arm: { at: Vec3; end: Vec3 }): void {
  if (view.step !== 'axes' || event.button !== 0 || !derived.skeleton) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held = { skeleton: derived.skeleton, at: arm.at, end: arm.end }
  turns = []
}
function move(event: PointerEvent): void {
  if (!held) return
  const box = (event.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect()
  const to = props.stage.unproject(props.placed, event.clientX - box.left, event.clientY - box.top, held.end) as Vec3
  const [a, b] = [sub(held.end, held.at), sub(to, held.at)]
  if (Math.hypot(...b) < 1e-6) return
  const turn = fromTo(normalize(a), normalize(b))
  const s = held.skeleton
  const { rotations } = worldPose(s)
  turns = ownJoints(s).map(j => {
    const q = quatAt(rotations, j)
    return { joint: jointRef(s, j), by: multiply(multiply(conjugate(q), turn), q) }
  })
  edit.draft.value = turns.reduce((k, t) => turnAxes(rigOf(k), findJoint(k, t.joint), t.by, view.mirror).skeleton, s)
}
function up(): void {
  if (!held) return
  held = undefined
  if (turns.length > 0)
    edit.add(
      turns.map((t): RigEdit => ({ kind: 'turn', ...t, mirror: view.mirror })),
      turns.length > 1 ? `Turn the axes of ${turns.length} joints` : undefined,
    )
  else edit.draft.value = undefined
}
/** Chosen joints; of a pair that is mirrored anyway only one. */
const ownJoints = (s: Skeleton): number[] => withoutMirrored(s, chosen.joints, view.mirror)
</script>

<template>
  <g>
    <g v-for="a in arms" :key="a.key">
      <line
        :x1="a.from.x"
        :y1="a.from.y"
        :x2="a.to.x"
        :y2="a.to.y"
        stroke="#f5f1e8"
        stroke-opacity="0.85"
        stroke-linecap="round"
        :stroke-width="a.wide + 2"
      />
      <line :x1="a.from.x" :y1="a.from.y" :x2="a.to.x" :y2="a.to.y" :stroke="a.color" :stroke-width="a.wide" />
      <text
        v-if="a.name"
        :x="a.to.x + 7"
        :y="a.to.y + 4"
        :fill="a.color"
        stroke="#f5f1e8"
        stroke-width="3"
        stroke-linejoin="round"
        paint-order="stroke"
        font-size="13"
        font-weight="700"
      >
        {{ a.name }}
      </text>
      <path
        v-if="a.name && view.step === 'axes'"
        class="pointer-events-auto cursor-grab"
        :data-axis="a.name"
        :d="`M${a.to.x - 4.5} ${a.to.y}L${a.to.x} ${a.to.y - 4.5}L${a.to.x + 4.5} ${a.to.y}L${a.to.x} ${a.to.y + 4.5}Z`"
        :fill="a.color"
        stroke="#f5f1e8"
        stroke-width="1"
        @pointerdown="down($event, a)"
        @pointermove="move"
        @pointerup="up"
        @pointercancel="up"
      >
        <title>Pull to turn the axes</title>
      </path>
    </g>
  </g>
</template>
