<script setup lang="ts">
import { landmarkKind, type Landmark } from '@chiraxis/core/landmarks'
import { roleLabel, sideOf, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { jointWeights } from '@chiraxis/core/skin'
import { sampleTake } from '@chiraxis/core/motion'
import { multiply, rotate, type Vec3 } from '@chiraxis/core/math'
import type { Placed } from '~/stage/stage'
import { Stage } from '~/stage/stage'
import { layoutCallouts, type CalloutItem } from '~/composables/callouts'
import type { ViewName } from '~/stores/view'

const view = useView()
const derived = useDerived()
const player = usePlayer()
const drag = useLandmarkDrag()

const host = ref<HTMLDivElement>()
const canvas = ref<HTMLCanvasElement>()
const surface = ref<HTMLDivElement>()
const stage = shallowRef<Stage>()
const version = ref(0)
const size = reactive({ width: 0, height: 0 })
const failed = ref('')

const SHEET_WIDTH = 136
const NAMES: Record<ViewName, string> = { front: 'Front', side: 'Side', top: 'Top', turn: 'Turn' }

const placed = computed<Placed[]>(() => {
  const others = (['front', 'side', 'top', 'turn'] as const).filter(v => v !== view.mainView)
  const width = Math.max(200, size.width - SHEET_WIDTH)
  const each = size.height / others.length
  return [
    { view: view.mainView, main: true, rect: { x: 0, y: 0, width, height: size.height } },
    ...others.map((v, i) => ({ view: v, main: false, rect: { x: width, y: i * each, width: SHEET_WIDTH, height: each } })),
  ]
})
const main = computed(() => placed.value[0]!)

onMounted(() => {
  try {
    stage.value = new Stage(canvas.value!)
  } catch {
    failed.value = 'The browser offers no 3D drawing here (WebGL 2 is needed). Everything else still works.'
    return
  }
  stage.value.listenOn(surface.value!)
  stage.value.onDrawn(() => { version.value++ })
  const observer = new ResizeObserver(() => {
    size.width = host.value?.clientWidth ?? 0
    size.height = host.value?.clientHeight ?? 0
  })
  observer.observe(host.value!)
  onBeforeUnmount(() => {
    observer.disconnect()
    stage.value?.dispose()
  })
})

watch([placed, stage], () => { if (size.width > 0) stage.value?.setLayout(placed.value, size.width, size.height) })
watch([stage, () => derived.shape], () => stage.value?.setBody(derived.shape?.mesh))
watch([stage, () => derived.skin], () => {
  // a skin is drawn on the skeleton it was made for
  stage.value?.setSkin(derived.skin ? derived.skeleton : undefined, derived.skin)
  pose()
})
const inMotion = computed(() => view.step === 'takes')
watch([stage, () => view.step, () => view.seeThrough], () => {
  const through = view.step === 'skeleton' || view.step === 'landmarks'
  stage.value?.setOpacity(through && view.seeThrough ? 0.55 : 1)
}, { immediate: true })
watch([stage, () => view.step, () => view.joint, () => derived.skin], () => {
  const skin = view.step === 'skin' ? derived.skin : undefined
  stage.value?.setHeat(skin ? jointWeights(skin, view.joint) : undefined)
})
const beside = computed(() => (inMotion.value && derived.performed && view.performerShown === 'beside' ? (derived.shape?.straightened.height ?? 1.7) * 0.62 : 0))
watch([stage, inMotion], () => stage.value?.setMoving(inMotion.value))
watch([stage, beside], () => stage.value?.setRoom(beside.value))

const skeleton = computed<Skeleton | undefined>(() => drag.draftSkeleton.value ?? derived.skeleton)
const { buffer, jointPlaces, performerPlaces } = usePoses(skeleton, inMotion, beside, version)


/** Poses the body: in Motion by the take at the playhead, elsewhere at rest. */
function pose(): void {
  const skeleton = derived.skeleton
  if (!stage.value || !skeleton) return
  const take = inMotion.value ? derived.performed?.answer.take : undefined
  if (take && take.rotations.length === 4 * skeleton.names.length * take.frames) {
    sampleTake(take, player.time, buffer.value)
    stage.value.setPose(buffer.value.translations, buffer.value.rotations, 0)
    const hips = skeleton.roles.indexOf('hips')
    stage.value.setFocus(buffer.value.translations[3 * hips]!, buffer.value.translations[3 * hips + 2]!)
  } else {
    stage.value.setPose(skeleton.restTranslations, skeleton.restRotations, 0)
    stage.value.setFocus(0, 0)
  }
}
watch([stage, () => player.time, inMotion, () => derived.performed], pose)

// --- what is drawn over the picture ---
const landmarks = computed<readonly Landmark[]>(() => drag.draft.value ?? derived.landmarks ?? [])
const colorOf = (side: string): string => ({ left: 'var(--g-verdigris)', right: 'var(--g-ochre)', middle: 'var(--g-slate)' })[side] ?? 'var(--on-ground)'

const showBones = computed(() => (view.phase === 'bones') || (inMotion.value && view.bonesInMotion))
interface Line { x1: number; y1: number; x2: number; y2: number; chosen: boolean }
function bonesIn(p: Placed): Line[] {
  const s = skeleton.value
  if (!s || !stage.value || !showBones.value) return []
  return [...s.parents].flatMap((parent, j) => {
    if (parent < 0) return []
    const a = stage.value!.project(p, jointPlaces.value[parent]!)
    const b = stage.value!.project(p, jointPlaces.value[j]!)
    return [{ x1: a.x, y1: a.y, x2: b.x, y2: b.y, chosen: view.step !== 'landmarks' && parent === view.joint }]
  })
}

function performerIn(p: Placed): { x1: number; y1: number; x2: number; y2: number }[] {
  const performer = performerPlaces.value
  // a sheet is too narrow for two side by side
  if (!performer || !stage.value || (!p.main && beside.value > 0)) return []
  return performer.parents.flatMap((parent, j) => {
    if (parent < 0) return []
    const a = stage.value!.project(p, performer.places[parent]!)
    const b = stage.value!.project(p, performer.places[j]!)
    return [{ x1: a.x, y1: a.y, x2: b.x, y2: b.y }]
  })
}

interface Mark { id: string; label: string; value?: string; side: 'left' | 'right' | 'middle'; place: Vec3; chosen: boolean; unsure: boolean }
const marks = computed<Mark[]>(() => {
  if (view.step === 'landmarks') {
    return landmarks.value.map(l => {
      const kind = landmarkKind(l.id)!
      return { id: l.id, label: kind.label, value: l.confidence >= 1 ? 'by hand' : l.confidence.toFixed(2), side: kind.side, place: l.position, chosen: l.id === view.landmark, unsure: l.confidence < 0.6 }
    })
  }
  const s = skeleton.value
  if ((view.step === 'skeleton' || view.step === 'skin') && s) {
    return s.names.map((name, j) => ({ id: String(j), label: s.roles[j] ? roleLabel(s.roles[j]!) : name, side: sideOf(s.roles[j] ?? name), place: jointPlaces.value[j]!, chosen: j === view.joint, unsure: false }))
  }
  return []
})
interface Dot extends Mark { x: number; y: number; depth: number }
const overlays = computed(() => {
  void version.value
  if (!stage.value) return []
  return placed.value.map(p => ({
    placed: p, bones: bonesIn(p), performer: performerIn(p),
    // what is nearer lies on top and is taken first; the chosen one before all
    dots: marks.value.map((m): Dot => ({ ...m, ...stage.value!.project(p, m.place) })).sort((a, b) => Number(a.chosen) - Number(b.chosen) || b.depth - a.depth),
  }))
})
const callouts = computed(() => {
  const dots = overlays.value[0]?.dots ?? []
  const shown = view.step === 'skin' ? dots.filter(d => d.chosen) : dots
  const reaching = /Shoulder|Elbow|Wrist|HandTip|UpperArm|LowerArm|Hand$/
  const role = (id: string): string => (view.step === 'landmarks' ? id : skeleton.value?.roles[Number(id)] ?? '')
  const items: CalloutItem[] = shown.map(d => ({
    id: d.id, label: d.label, value: d.value, side: d.side, x: d.x, y: d.y,
    reaches: reaching.test(role(d.id)) && (view.step === 'landmarks' || !/Shoulder$/.test(role(d.id))),
  }))
  const r = main.value.rect
  const frame = { left: r.x + 204, right: r.x + r.width - 142, top: r.y + 22, bottom: r.y + r.height - 22, outerLeft: r.x + 76, outerRight: r.x + r.width - 6 }
  return layoutCallouts(items, frame).map(c => {
    const own = shown.find(d => d.id === c.id)!
    let d = ''
    for (let i = 0; i < c.leader.length; i += 2) d += `${i === 0 ? 'M' : 'L'}${c.leader[i]!.toFixed(1)} ${c.leader[i + 1]!.toFixed(1)}`
    return { ...c, chosen: own.chosen, unsure: own.unsure, d }
  })
})

const height = computed(() => derived.shape?.straightened.height ?? 0)
const head = computed(() => {
  const at = (id: string): number | undefined => landmarks.value.find(l => l.id === id)?.position[1]
  const crown = at('crown'), chin = at('chin')
  return crown !== undefined && chin !== undefined ? crown - chin : 0
})
const ticks = computed(() => (view.step === 'landmarks' ? marks.value.map(m => ({ id: m.id, y: m.place[1], chosen: m.chosen })) : []))

/** Measures told on the plate in Shape: how tall, how wide, which way it looks. */
const measures = computed(() => {
  void version.value
  if (view.phase !== 'shape' || !derived.shape || !stage.value) return []
  const { min, max } = stage.value.bodyExtent
  const p = main.value
  const at = (x: number, y: number, z: number) => stage.value!.project(p, [x, y, z])
  const list = [
    { id: 'front', text: 'looks this way', from: at(0, 0, max[2]), to: at(0, 0, max[2] + 0.28 * height.value), side: 'middle' as const },
    { id: 'left', text: 'its left', from: at(max[0], (min[1] + max[1]) / 2, 0), to: at(max[0] + 0.05 * height.value, (min[1] + max[1]) / 2, 0), side: 'left' as const },
    { id: 'right', text: 'its right', from: at(min[0], (min[1] + max[1]) / 2, 0), to: at(min[0] - 0.05 * height.value, (min[1] + max[1]) / 2, 0), side: 'right' as const },
  ]
  return list.filter(l => Math.hypot(l.to.x - l.from.x, l.to.y - l.from.y) > 8)
})

function choose(id: string): void {
  if (view.step === 'landmarks') view.landmark = id
  else view.joint = Number(id)
}

// --- dragging landmarks in any view ---
let dragging: { placed: Placed; id: string } | undefined
const pointer = reactive({ x: 0, y: 0, active: false })
function down(event: PointerEvent, p: Placed, dot: Dot): void {
  event.stopPropagation()
  choose(dot.id)
  if (view.step !== 'landmarks' || event.button !== 0) return
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  dragging = { placed: p, id: dot.id }
  drag.begin(dot.id)
}
function move(event: PointerEvent): void {
  if (!dragging || !stage.value || !host.value) return
  const box = host.value.getBoundingClientRect()
  const x = event.clientX - box.left
  const y = event.clientY - box.top
  const now = landmarks.value.find(l => l.id === dragging!.id)
  if (!now) return
  drag.to([...stage.value.unproject(dragging.placed, x, y, now.position)])
  Object.assign(pointer, { x, y, active: true })
}
function up(): void {
  if (!dragging) return
  dragging = undefined
  pointer.active = false
  drag.end()
}
/** Beside the pointer, on the side of the body, so that the lens never lies on call-outs in the margins. */
const lensPlace = computed(() => {
  const r = main.value.rect
  const inwards = pointer.x > r.width / 2 ? pointer.x - 156 : pointer.x + 36
  const x = Math.max(212, Math.min(inwards, r.width - 280))
  return { left: `${x}px`, top: `${Math.max(8, Math.min(pointer.y - 150, size.height - 130))}px` }
})
const chosenKind = computed(() => (view.landmark ? landmarkKind(view.landmark) : undefined))
const chosenPlace = computed(() => landmarks.value.find(l => l.id === view.landmark)?.position)

const axes = computed(() => {
  void version.value
  const s = skeleton.value
  if (view.step !== 'skeleton' || !s || !stage.value || !jointPlaces.value[view.joint]) return []
  const w = worldPose(s)
  const q = [0, 1, 2, 3].map(k => w.rotations[4 * view.joint + k]!) as [number, number, number, number]
  const at = jointPlaces.value[view.joint]!
  const long = 0.07 * (height.value || 1.7)
  return ([['x', [1, 0, 0], '#b3261e'], ['y', [0, 1, 0], '#2e7d32'], ['z', [0, 0, 1], '#1f4fbf']] as const).map(([name, axis, color]) => {
    const d = rotate(multiply(q, [0, 0, 0, 1]), axis as unknown as Vec3)
    const from = stage.value!.project(main.value, at)
    const to = stage.value!.project(main.value, [at[0] + d[0] * long, at[1] + d[1] * long, at[2] + d[2] * long])
    return { name, color, from, to }
  })
})
defineExpose({ frame: () => stage.value?.frameAll() })
</script>

<template>
  <div ref="host" class="plate relative h-full min-w-0 flex-1 overflow-hidden" data-testid="plate" @pointermove="move" @pointerup="up" @pointercancel="up">
    <canvas ref="canvas" class="absolute inset-0 h-full w-full" />
    <div ref="surface" class="absolute left-0 top-0 h-full cursor-grab touch-none" :style="{ width: `${main.rect.width}px` }" />
    <svg class="pointer-events-none absolute inset-0 h-full w-full" :viewBox="`0 0 ${size.width || 1} ${size.height || 1}`" aria-hidden="true">
      <path v-for="p in placed.slice(1)" :key="p.view" :d="`M${p.rect.x} ${p.rect.y}h${p.rect.width}M${p.rect.x} ${p.rect.y}v${p.rect.height}`" stroke="var(--on-ground-2)" stroke-opacity="0.55" fill="none" />
      <PlateRuler v-if="stage && main.view !== 'top' && height > 0 && view.phase !== 'motion'" :stage="stage" :placed="main" :version="version" :height="height" :head="head" :ticks="ticks" />
      <g v-for="m in measures" :key="m.id">
        <path :d="`M${m.from.x} ${m.from.y}L${m.to.x} ${m.to.y}`" :stroke="colorOf(m.side)" stroke-width="1.4" stroke-dasharray="5 3" />
        <g :transform="`translate(${m.to.x} ${m.to.y})`"><SideMark :side="m.side" :size="5" :fill="colorOf(m.side)" /></g>
        <text :x="m.to.x" :y="m.to.y + 20" text-anchor="middle" font-size="13" font-weight="500" fill="var(--on-ground)">{{ m.text }}</text>
      </g>
      <g v-for="o in overlays" :key="o.placed.view">
        <svg :x="o.placed.rect.x" :y="o.placed.rect.y" :width="o.placed.rect.width" :height="o.placed.rect.height" :viewBox="`${o.placed.rect.x} ${o.placed.rect.y} ${o.placed.rect.width} ${o.placed.rect.height}`">
          <g stroke-linecap="round">
            <line v-for="(l, i) in o.performer" :key="`p${i}`" :x1="l.x1" :y1="l.y1" :x2="l.x2" :y2="l.y2" stroke="var(--g-madder)" :stroke-width="o.placed.main ? 3 : 1.5" stroke-opacity="0.85" />
            <template v-if="o.placed.main"><circle v-for="(l, i) in o.performer" :key="`pc${i}`" :cx="l.x1" :cy="l.y1" r="3" fill="#f5f1e8" stroke="var(--g-madder)" stroke-width="1.4" /></template>
            <line v-for="(l, i) in o.bones" :key="`b${i}`" :x1="l.x1" :y1="l.y1" :x2="l.x2" :y2="l.y2" :stroke="l.chosen ? (view.step === 'skin' ? '#f5f1e8' : 'var(--g-madder)') : view.step === 'skin' ? '#cfd8d6' : 'var(--on-ground)'" :stroke-width="l.chosen ? 3 : o.placed.main ? 1.8 : 1.1" stroke-opacity="0.85" />
          </g>
          <g v-for="d in o.dots" :key="d.id" class="pointer-events-auto" :class="view.step === 'landmarks' ? 'cursor-move' : 'cursor-pointer'" :transform="`translate(${d.x} ${d.y})`" :data-mark="o.placed.main ? d.id : `${o.placed.view}:${d.id}`" @pointerdown="down($event, o.placed, d)">
            <circle r="9" fill="transparent" />
            <circle v-if="d.chosen" :r="o.placed.main ? 9.5 : 6.5" fill="none" stroke="var(--g-madder)" stroke-width="1.6" />
            <SideMark :side="d.side" :size="o.placed.main ? (view.step === 'landmarks' ? 5.4 : 3.8) : 3" :fill="d.unsure ? '#f5f1e8' : colorOf(d.side)" :stroke="d.unsure ? colorOf(d.side) : '#f5f1e8'" :stroke-width="d.unsure ? 1.6 : 0.8" />
          </g>
        </svg>
      </g>
      <g v-for="a in axes" :key="a.name">
        <line :x1="a.from.x" :y1="a.from.y" :x2="a.to.x" :y2="a.to.y" :stroke="a.color" stroke-width="2.4" />
        <text :x="a.to.x + 4" :y="a.to.y + 4" :fill="a.color" font-size="13" font-weight="700">{{ a.name }}</text>
      </g>
      <g v-for="c in callouts" :key="c.id" class="pointer-events-auto cursor-pointer" @pointerdown.stop="choose(c.id)">
        <path :d="c.d" fill="none" :stroke="c.chosen ? 'var(--g-madder)' : 'var(--on-ground)'" :stroke-width="c.chosen ? 1.5 : 0.8" :stroke-opacity="c.chosen ? 1 : 0.5" class="pointer-events-none" />
        <g :transform="`translate(${c.labelX} ${c.labelY})`"><SideMark :side="c.side" :size="3.6" :fill="colorOf(c.side)" /></g>
        <text :x="c.anchor === 'end' ? c.labelX - 9 : c.labelX + 9" :y="c.labelY + 4.5" :text-anchor="c.anchor" font-size="13" :font-weight="c.chosen ? 700 : 500" :fill="c.chosen ? 'var(--g-madder)' : 'var(--on-ground)'" :data-callout="c.id">
          {{ c.label }}<tspan v-if="c.value" dx="6" class="num" font-size="12" font-weight="400" :fill="c.unsure ? 'var(--g-madder)' : 'var(--on-ground-2)'">{{ c.value }}</tspan>
        </text>
      </g>
    </svg>
    <button v-for="p in placed.slice(1)" :key="p.view" class="absolute px-2 py-1 text-left text-[13px] font-semibold" :style="{ left: `${p.rect.x}px`, top: `${p.rect.y}px`, color: 'var(--on-ground)' }" :title="`Make the ${NAMES[p.view].toLowerCase()} view the large one`" @click="view.makeMain(p.view)">
      {{ NAMES[p.view] }}
    </button>
    <div v-if="pointer.active && drag.section.value && chosenKind" class="pointer-events-none absolute rounded-full bg-paper shadow-lg" :style="lensPlace">
      <SectionLens :section="drag.section.value" :side="chosenKind.side" :point="chosenPlace" :size="120" />
    </div>
    <p v-if="failed" class="absolute inset-x-8 top-1/3 text-center text-[15px]" style="color: var(--on-ground)">{{ failed }}</p>
    <slot />
  </div>
</template>

<style scoped>
.plate { background: linear-gradient(var(--ground-a), var(--ground-b)); }
</style>
