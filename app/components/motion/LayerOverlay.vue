<script setup lang="ts">
import { isFinger, roleLabel, sideOf } from '@chiraxis/core/body'
import { quatAt, rotate, vec3At, type Vec3 } from '@chiraxis/core/math'
import { childrenOf, worldPose } from '@chiraxis/core/skeleton'
import { readChannel } from '@chiraxis/core/layers'
import { colorOfSide } from '~/components/plate/overlay'
import type { Placed, Stage } from '~/stage/stage'

/** What of the moving figure can be dragged by hand: ends of limbs, the hips, every joint by the bone that leads to it. */
const props = defineProps<{
  stage: Stage
  placed: Placed
  version: number
  width: number
  height: number
  /** Local values of the figure's joints as it is shown. */
  pose: { readonly translations: Float32Array; readonly rotations: Float32Array }
}>()
const derived = useDerived()
const player = usePlayer()
const layers = useLayers()
const drags = useLayerDrag()

/** Joint of the part in play. */
const inPlay = computed(() => readChannel(layers.channel.value)?.joint)
/** A bone shorter than this share of the body turns too far at a touch to be pulled by its end. */
const SHORT = 0.05
interface HandleMark {
  readonly key: string
  readonly j: number
  readonly role: string
  /** Where it is in the world, and whether it is the end of the joint's own bone. */
  readonly place: Vec3
  readonly tip: boolean
  readonly end: boolean
  readonly chosen: boolean
}
const marks = computed(() => {
  void props.version
  const s = derived.skeleton
  if (!s || !layers.ready.value || props.pose.rotations.length !== 4 * s.names.length) return []
  const w = worldPose(s, props.pose.translations, props.pose.rotations)
  const children = childrenOf(s)
  const tall = derived.shape?.straightened.height ?? 1.7
  return s.roles
    .flatMap((role, j): HandleMark[] => {
      if (!role || isFinger(role)) return []
      const place = vec3At(w.positions, j)
      const end = layers.ends.value.has(role) || role === 'hips'
      const own = { j, role, end, tip: false, key: role, place, chosen: role === inPlay.value }
      const tip =
        s.tips && !children[j]!.some(c => s.roles[c]) ? rotate(quatAt(w.rotations, j), vec3At(s.tips, j)) : [0, 0, 0]
      const far = Math.hypot(tip[0]!, tip[1]!, tip[2]!)
      const at: Vec3 = [place[0] + tip[0]!, place[1] + tip[1]!, place[2] + tip[2]!]
      const p = s.parents[j]!
      const bone = p < 0 ? 0 : Math.hypot(...vec3At(w.positions, p).map((v, k) => v - place[k]!))
      return [
        ...(end || bone > SHORT * tall ? [own] : []),
        ...(far > SHORT * tall
          ? [{ ...own, key: `${role} tip`, tip: true, end: false, place: at, chosen: own.chosen && turning.value }]
          : []),
      ]
    })
    .map(m => ({ ...m, ...props.stage.project(props.placed, m.place) }))
    .sort((a, b) => Number(a.chosen) - Number(b.chosen) || b.depth - a.depth)
})
/** The way of the part in play around the playhead: a dot a frame, the nearer together the slower. */
const path = computed(() => {
  void props.version
  const s = derived.skeleton
  const own = marks.value.find(m => m.chosen)
  if (!s || !own || player.playing) return undefined
  const tip = own.tip && s.tips ? vec3At(s.tips, own.j) : undefined
  const dots = drags
    .pathOf(own.j, tip, Math.round(AROUND * player.fps))
    .map(({ f, place }) => ({ f, ...props.stage.project(props.placed, place) }))
  const line = (list: typeof dots): string =>
    list.map((d, i) => `${i === 0 ? 'M' : 'L'}${d.x.toFixed(1)} ${d.y.toFixed(1)}`).join('')
  const keyed = new Set(layers.own.value.map(k => Math.round(player.toTake(k.at) * player.fps)))
  return {
    past: line(dots.filter(d => d.f <= player.frame)),
    coming: line(dots.filter(d => d.f >= player.frame)),
    dots: dots.filter(d => d.f !== player.frame).map(d => ({ ...d, keyed: keyed.has(d.f) })),
  }
})
/** Seconds of the way that are drawn to either side. */
const AROUND = 0.8
const turning = computed(() => readChannel(layers.channel.value)?.kind === 'turn')
const svg = ref<SVGSVGElement>()
const pull = usePlatePull(() => ({ ...props, svg: svg.value }), {
  drag: drags.dragTo,
  end: drags.end,
  cancel: drags.cancel,
  chooses: 2,
})
function down(event: PointerEvent, { j, place, tip }: HandleMark): void {
  event.stopPropagation()
  if (drags.begin(j, [...place], tip)) pull.begin(event, place)
}
// what was dragged is shown until the take with it has come, or another moment is looked at
watch([() => derived.performed, () => player.time], () => {
  if (!pull.isPulling()) drags.cancel()
})
/** Bones of the figure at the keys around the playhead. */
const ghosts = computed(() => {
  void props.version
  const s = derived.skeleton
  if (!s) return []
  return drags.ghostPoses.value.map(({ which, pose }) => ({
    which,
    d: [...s.parents]
      .flatMap((p, j) => {
        if (p < 0 || isFinger(s.roles[j] ?? '')) return []
        const [a, b] = [p, j].map(k => props.stage.project(props.placed, vec3At(pose.positions, k)))
        return [`M${a!.x.toFixed(1)} ${a!.y.toFixed(1)}L${b!.x.toFixed(1)} ${b!.y.toFixed(1)}`]
      })
      .join(''),
  }))
})
</script>

<template>
  <svg
    ref="svg"
    class="pointer-events-none absolute inset-0 h-full w-full"
    :viewBox="`0 0 ${width || 1} ${height || 1}`"
    aria-hidden="true"
  >
    <g v-for="g in ghosts" :key="g.which" fill="none" stroke-linecap="round" :data-ghost="g.which">
      <path :d="g.d" stroke="#f5f1e8" stroke-opacity="0.55" stroke-width="3.2" />
      <path :d="g.d" stroke="#22292c" stroke-width="1.2" :stroke-dasharray="g.which === 'after' ? '5 3' : undefined" />
    </g>
    <g v-if="path" fill="none">
      <path :d="path.past + path.coming" stroke="#f5f1e8" stroke-opacity="0.85" stroke-width="3.4" />
      <path :d="path.past" stroke="#22292c" stroke-width="1.3" />
      <path :d="path.coming" stroke="#22292c" stroke-width="1.3" stroke-dasharray="4 3" />
      <circle
        v-for="d in path.dots"
        :key="d.f"
        :cx="d.x"
        :cy="d.y"
        :r="d.keyed ? 3.8 : 1.9"
        :fill="d.keyed ? 'var(--g-madder)' : '#22292c'"
        :stroke="d.keyed ? '#f5f1e8' : 'none'"
      />
    </g>
    <g
      v-for="m in marks"
      :key="m.key"
      class="pointer-events-auto cursor-move touch-none"
      :transform="`translate(${m.x} ${m.y})`"
      :data-handle="m.key"
      @pointerdown="down($event, m)"
    >
      <title>{{ roleLabel(m.role) }}</title>
      <circle :r="m.end ? 12 : 8" fill="transparent" />
      <SideMark
        :side="sideOf(m.role)"
        :size="m.chosen ? 7.5 : m.end ? 6.2 : 3.4"
        :fill="m.chosen ? 'var(--g-madder)' : m.end ? '#f5f1e8' : colorOfSide(sideOf(m.role))"
        :stroke="m.chosen ? '#f5f1e8' : m.end ? colorOfSide(sideOf(m.role)) : '#f5f1e8'"
        :stroke-width="m.end || m.chosen ? 2.2 : 0.8"
      />
    </g>
  </svg>
</template>
