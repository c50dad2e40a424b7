<script setup lang="ts">
import { conjugate, multiply, quatAt } from '@chiraxis/core/math'
import { roleLabel, sideOf } from '@chiraxis/core/body'
import type { LaneRun } from '~/composables/useContactLanes'
import { bareRole } from './limbs'
import { Pause, Play, Repeat, StepBack, StepForward } from '@lucide/vue'

const player = usePlayer()
const derived = useDerived()
const stretch = useStretch()
const lane = ref<HTMLDivElement>()
const LABEL = 104
const take = computed(() => player.take)
const at = computed(() => (player.length > 0 ? player.time / player.length : 0))

// --- the part of the take that the lanes show, as shares of it ---
const shown = ref<[number, number]>([0, 1])
watch(
  () => derived.performed?.id,
  () => {
    shown.value = [0, 1]
  },
)
const zoomed = computed(() => shown.value[1] - shown.value[0] < 0.999)
/** Where a moment lies in the lanes, percent. */
const place = (share: number): number => (100 * (share - shown.value[0])) / (shown.value[1] - shown.value[0])
function zoom(event: WheelEvent): void {
  if (!take.value) return
  const box = lane.value!.getBoundingClientRect()
  const [a, b] = shown.value
  const wide = b - a
  if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
    const by = Math.min(1 - b, Math.max(-a, ((event.deltaX || event.deltaY) / box.width) * wide))
    shown.value = [a + by, b + by]
    return
  }
  const here = a + ((event.clientX - box.left) / box.width) * wide
  const next = Math.min(1, Math.max(8 / Math.max(8, take.value.frames), wide * Math.exp(event.deltaY / 400)))
  const from = Math.min(1 - next, Math.max(0, here - ((here - a) / wide) * next))
  shown.value = [from, from + next]
}

const { lanes } = useContactLanes()
const ticks = computed(() => {
  const seconds = player.length
  if (seconds <= 0) return []
  const seen = seconds * (shown.value[1] - shown.value[0])
  const step = seen > 20 ? 5 : seen > 8 ? 2 : seen > 3 ? 1 : seen > 1.2 ? 0.5 : 0.1
  return Array.from({ length: Math.floor(seconds / step) + 1 }, (_, i) => ({
    at: (i * step) / seconds,
    text: `${Number((i * step).toFixed(1))}`,
    frame: Math.round(i * step * player.fps),
  })).filter(t => t.at >= shown.value[0] - 1e-6 && t.at <= shown.value[1] + 1e-6)
})
/** The moment of the take under the pointer, on a frame. */
function momentAt(event: PointerEvent): number {
  const box = lane.value!.getBoundingClientRect()
  const [a, b] = shown.value
  const seconds = (a + ((event.clientX - box.left) / box.width) * (b - a)) * player.length
  return Math.min(player.length, Math.max(0, Math.round(seconds * player.fps) / player.fps))
}
/** Where a press began, and whether it chooses a stretch. */
let pressed: { x: number; y: number; at: number; chooses: boolean } | undefined
function down(event: PointerEvent): void {
  player.pause()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  const chooses = event.shiftKey && (take.value !== undefined || derived.ownShown)
  pressed = { x: event.clientX, y: event.clientY, at: momentAt(event), chooses }
  if (!chooses) player.seek(pressed.at)
}
function drag(event: PointerEvent): void {
  if (!(event.buttons & 1) || !pressed) return
  const at = momentAt(event)
  if (!pressed.chooses) return player.seek(at)
  const [from, to] = [Math.min(pressed.at, at), Math.max(pressed.at, at)]
  if (to > from) stretch.choose({ from: player.toRecording(from), to: player.toRecording(to) })
}
/** A press that stayed where it began chooses the contact under it. */
function up(event: PointerEvent): void {
  const still = pressed && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) < 4
  const chose = pressed?.chooses
  pressed = undefined
  if (!still) return
  const box = lane.value!.getBoundingClientRect()
  const row = lanes.value[Math.floor((event.clientY - box.top - 44) / 22)]
  const y = (event.clientY - box.top - 44) % 22
  const [a, b] = shown.value
  const share = a + ((event.clientX - box.left) / box.width) * (b - a)
  const reach = (3 / box.width) * (b - a)
  const run = row?.runs.find(
    r =>
      share >= r.from - reach && share <= r.to + reach && (r.half === undefined || (r.half === 0 ? y < 11 : y >= 11)),
  )
  if (run) stretch.chooseContact(run.contact)
  else if (chose || stretch.contact) stretch.clear()
}
/** The chosen stretch, as shares of the take. */
const band = computed(() => {
  const of = stretch.span
  if (!of || player.length <= 0) return undefined
  const [from, to] = [player.toTake(of.from) / player.length, player.toTake(of.to) / player.length]
  return to < 0 || from > 1 ? undefined : { from, to }
})
const isChosen = (r: LaneRun): boolean =>
  stretch.contact !== undefined &&
  r.contact.part === stretch.contact.part &&
  r.contact.onto === stretch.contact.onto &&
  Math.abs(r.contact.from - stretch.contact.from) < 1e-3
/** Stretches with corrections of their own. */
const corrected = computed(() =>
  (chosen.value?.stretches ?? []).map(s => ({
    from: player.toTake(s.from) / (player.length || 1),
    to: player.toTake(s.to) / (player.length || 1),
  })),
)
const rates = [0.25, 0.5, 1, 2]

// --- the recording, and the part of it that is kept ---
const view = useView()
const { take: chosen, adjust, setAdjust } = useTakeEdit()
const whole = computed(() => (derived.ownShown ? 0 : (derived.performed?.answer.recorded.seconds ?? 0)))
const tuning = computed(() => view.step === 'tune' && whole.value > 0)
const draft = ref<[number, number]>()
const kept = computed<readonly [number, number]>(() => draft.value ?? adjust.value.trim ?? [0, whole.value])
const recording = ref<HTMLDivElement>()
let end: 0 | 1 | undefined
/** Moments of the recording an end catches on: the playhead, and where a foot comes down or lifts. */
const catches = computed<number[]>(() => {
  const from = adjust.value.trim?.[0] ?? 0
  const inRecording = (share: number): number => from + share * player.length * adjust.value.pace
  return [
    inRecording(at.value),
    ...lanes.value.flatMap(l => l.runs.flatMap(r => [inRecording(r.from), inRecording(r.to)])),
  ]
})
/** Where an end was caught. */
const caught = ref<number>()
const CATCH = 6
function grab(event: PointerEvent, which: 0 | 1): void {
  end = which
  draft.value = [...kept.value] as [number, number]
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function trim(event: PointerEvent): void {
  if (end === undefined || !draft.value || !recording.value) return
  const box = recording.value.getBoundingClientRect()
  const fps = derived.performed?.answer.recorded.fps ?? 30
  const raw = ((event.clientX - box.left) / box.width) * whole.value
  const near = event.altKey
    ? undefined
    : catches.value
        .map(t => ({ t, off: (Math.abs(t - raw) / whole.value) * box.width }))
        .filter(c => c.off < CATCH)
        .sort((x, y) => x.off - y.off)[0]
  caught.value = near?.t
  // an end stands on a whole frame
  const at = Math.round(Math.min(whole.value, Math.max(0, near?.t ?? raw)) * fps) / fps
  const next: [number, number] = [...draft.value]
  next[end] = end === 0 ? Math.min(at, next[1] - 2 / fps) : Math.max(at, next[0] + 2 / fps)
  draft.value = next
}
function release(): void {
  if (end === undefined || !draft.value) return
  end = undefined
  caught.value = undefined
  const [a, b] = draft.value
  draft.value = undefined
  setAdjust('Trim', { trim: a <= 0 && b >= whole.value - 1e-6 ? undefined : [a, b] })
}

// --- curves of one joint ---
/** Turns of the chosen role away from rest, degrees about its own axes, as lines over the take. */
const curves = computed(() => {
  const s = derived.skeleton,
    t = player.take
  const j = s?.roles.indexOf(view.role) ?? -1
  if (!s || !t || j < 0 || !curvesShown.value || t.rotations.length !== 4 * s.names.length * t.frames) return undefined
  const rest = conjugate(quatAt(s.restRotations, j))
  const values = [0, 1, 2].map(() => new Float32Array(t.frames))
  let most = 10
  for (let f = 0; f < t.frames; f++) {
    const q = multiply(rest, quatAt(t.rotations, f * s.names.length + j))
    const w = Math.abs(q[3]),
      sine = Math.hypot(q[0], q[1], q[2])
    const k = sine > 1e-9 ? ((q[3] < 0 ? -1 : 1) * 2 * Math.atan2(sine, w) * 180) / Math.PI / sine : 0
    for (const c of [0, 1, 2] as const) {
      values[c]![f] = q[c] * k
      most = Math.max(most, Math.abs(q[c] * k))
    }
  }
  const every = Math.max(1, Math.floor(t.frames / 700))
  return {
    most,
    paths: values.map(v => {
      let d = ''
      for (let f = 0; f < t.frames; f += every)
        d += `${f === 0 ? 'M' : 'L'}${((1000 * f) / Math.max(1, t.frames - 1)).toFixed(1)} ${(50 - (46 * v[f]!) / most).toFixed(1)}`
      return d
    }),
  }
})
const layering = computed(() => view.step === 'layer')
const grounding = computed(() => view.step === 'ground' && take.value !== undefined)
const speaking = computed(() => view.step === 'voice' && take.value !== undefined)
useSpokenSound()
const ownCurve = useCues().curve
const reshaping = computed(() => view.step === 'ground' || view.step === 'tune')
const wayLane = ref<{ now?: { speed: number; turn: number } }>()
const { partName: layerWord } = useLayers()
const CURVE_WORDS = ['left', 'up', 'ahead'] as const
const carried = useProps()
const carrying = computed(() => layering.value && carried.list.value.length > 0 && take.value !== undefined)
const curvesShown = computed(() => view.step === 'tune' || view.step === 'compare')
const AXES = [
  ['x', '#b3261e'],
  ['y', '#2e7d32'],
  ['z', '#1f4fbf'],
] as const
const roleWord = computed(() => roleLabel(view.role))
</script>

<template>
  <section
    class="flex shrink-0 flex-col border-t border-rule bg-paper"
    :style="{
      height: `${104 + 22 * lanes.length + (tuning ? 26 : 0) + (layering ? 22 : 0) + (carrying ? 22 : 0) + (layering ? 80 : 0) + (curvesShown ? 76 : 0) + (grounding ? 90 : 0) + (speaking ? 78 : 0)}px`,
    }"
    aria-label="Score"
    data-testid="score"
  >
    <div v-if="tuning" class="flex h-[26px] shrink-0 items-center border-b border-rule">
      <span class="px-3 text-xs" :style="{ width: `${LABEL}px` }">Recording</span>
      <div class="min-w-0 flex-1 px-3">
        <div ref="recording" class="relative h-[16px] rounded-sm border border-rule bg-paper-2" data-testid="recording">
          <div
            class="absolute inset-y-0 flex items-center overflow-hidden bg-ink-2 px-3 text-xs text-paper"
            :style="{ left: `${(kept[0] / whole) * 100}%`, width: `${((kept[1] - kept[0]) / whole) * 100}%` }"
          >
            <span class="truncate">{{ chosen?.name }}</span><span class="num ml-2"
              >{{ (kept[1] - kept[0]).toFixed(2) }} s</span
            >
          </div>
          <span
            v-if="caught !== undefined"
            class="absolute -bottom-[5px] -top-[5px] w-px bg-madder"
            :style="{ left: `${(caught / whole) * 100}%` }"
            data-testid="caught"
          />
          <button
            v-for="k in [0, 1] as const"
            :key="k"
            title="Catches on the playhead and where feet come down; hold Alt to place freely"
            class="absolute -top-[3px] h-[20px] w-[9px] -translate-x-1/2 cursor-ew-resize touch-none rounded-sm border border-paper bg-madder"
            :style="{ left: `${(kept[k] / whole) * 100}%` }"
            :aria-label="k === 0 ? 'Where the take begins' : 'Where the take ends'"
            :data-testid="k === 0 ? 'trim-begin' : 'trim-end'"
            @pointerdown.stop="grab($event, k)"
            @pointermove="trim"
            @pointerup="release"
            @pointercancel="release"
          />
        </div>
      </div>
    </div>
    <div class="@container flex h-10 items-center gap-2 border-b border-rule px-3">
      <button
        class="press !px-2"
        title="Back a frame (←)"
        aria-label="Back a frame"
        :disabled="!take"
        @click="player.stepFrames(-1)"
      >
        <StepBack :size="15" />
      </button>
      <button
        class="press border-ink font-semibold"
        title="Space"
        :disabled="!take"
        data-testid="play"
        @click="player.toggle()"
      >
        <Pause v-if="player.playing" :size="15" /><Play v-else :size="15" />{{ player.playing ? 'Pause' : 'Play' }}
      </button>
      <button
        class="press !px-2"
        title="On a frame (→)"
        aria-label="On a frame"
        :disabled="!take"
        @click="player.stepFrames(1)"
      >
        <StepForward :size="15" />
      </button>
      <button
        class="press"
        :class="player.loop ? 'press-on' : ''"
        :aria-pressed="player.loop"
        data-testid="loop"
        @click="player.loop = !player.loop"
      >
        <Repeat :size="14" />Loop
      </button>
      <label class="ml-2 flex items-center gap-1.5"
        ><span class="quiet">Rate</span
        ><select v-model.number="player.rate" class="field num !w-[68px]" data-testid="rate">
          <option v-for="r in rates" :key="r" :value="r">{{ r }}×</option>
        </select></label
      >
      <button v-if="zoomed" class="press" data-testid="whole-take" @click="shown = [0, 1]">Whole take</button>
      <span class="num ml-auto whitespace-nowrap" data-testid="clock"
        >{{ player.time.toFixed(2) }} s <span class="quiet">of {{ player.length.toFixed(2) }}</span></span
      >
      <span class="num quiet w-[128px] whitespace-nowrap text-right @max-[540px]:hidden"
        >frame <span data-testid="frame">{{ player.frame }}</span> · {{ player.fps }}/s</span
      >
    </div>
    <div class="relative flex min-h-0 flex-1">
      <div class="flex shrink-0 flex-col border-r border-rule py-[18px] text-xs" :style="{ width: `${LABEL}px` }">
        <span class="flex h-[26px] items-center px-3">Take</span>
        <span v-for="c in lanes" :key="c.key" class="flex h-[22px] items-center gap-1.5 px-3"
          ><SideIcon :side="c.side" />{{ c.label }}</span
        >
        <span v-if="layering" class="flex h-[22px] items-center px-3">Keys</span>
        <span v-if="carrying" class="flex h-[22px] items-center px-3"
          ><span class="truncate">{{ carried.prop.value?.name }}</span></span
        >
        <span v-if="layering && take" class="px-3 pt-1 leading-[16px]" data-testid="curve-name"
          ><span class="block">{{ layerWord }}</span>
          <span v-for="(w, k) in CURVE_WORDS" :key="w" class="quiet flex items-center gap-1"
            ><svg width="18" height="4">
              <path d="M0 2H18" stroke="var(--ink)" stroke-width="1.6" :stroke-dasharray="['', '7 4', '2 3'][k]" /></svg
            >{{ w }}</span
          ></span
        >
        <template v-if="grounding">
          <span class="flex h-[22px] items-center px-3">Moments</span>
          <span class="px-3 pt-1 leading-[16px]"
            ><span class="flex items-center gap-1"
              ><svg width="18" height="4"><path d="M0 2H18" stroke="var(--ink)" stroke-width="1.6" /></svg>Speed</span
            ><span class="num quiet block" data-testid="speed-now">{{ wayLane?.now?.speed.toFixed(2) }} m/s</span
            ><span class="flex items-center gap-1"
              ><svg width="18" height="4">
                <path d="M0 2H18" stroke="var(--ink)" stroke-width="1.6" stroke-dasharray="6 4" /></svg
              >Turn <span class="num quiet">{{ Math.round(wayLane?.now?.turn ?? 0) + 0 }}°</span></span
            ><span v-if="ownCurve" class="flex items-center gap-1"
              ><svg width="18" height="4">
                <path d="M0 2H18" stroke="var(--slate)" stroke-width="1.6" stroke-dasharray="2 3" /></svg
              ><span class="truncate">{{ ownCurve.name }}</span></span
            ></span
          >
        </template>
        <template v-if="speaking"
          ><span class="flex h-[44px] items-center px-3">Voice</span
          ><span class="flex h-[26px] items-center px-3">Mouth</span></template
        >
        <div v-if="curvesShown" class="px-3 pt-1">
          <span class="flex items-center gap-1" :title="roleWord"
            ><SideIcon :side="sideOf(view.role)" /><span class="truncate">{{ bareRole(view.role) }}</span></span
          ><span class="num quiet flex gap-1.5"
            ><span v-for="a in AXES" :key="a[0]" class="flex items-center gap-0.5"
              ><svg width="10" height="4"><path d="M0 2H10" :stroke="a[1]" stroke-width="2" /></svg>{{ a[0] }}</span
            ></span
          ><span v-if="curves" class="num quiet">±{{ curves.most.toFixed(0) }}°</span>
        </div>
      </div>
      <div class="relative min-w-0 flex-1 px-3">
        <div
          ref="lane"
          class="relative h-full cursor-col-resize touch-none"
          data-testid="lane"
          title="Wheel zooms, Shift and wheel moves along; Shift and drag chooses a stretch, a press chooses a contact"
          @pointerdown="down"
          @pointermove="drag"
          @pointerup="up"
          @pointercancel="pressed = undefined"
          @wheel.prevent="zoom"
        >
          <div class="pointer-events-none absolute inset-0 overflow-x-clip">
            <span
              v-for="t in ticks"
              :key="t.at"
              class="num quiet absolute top-0 text-[12px] leading-[18px]"
              :style="{
                left: `${place(t.at)}%`,
                transform: place(t.at) > 97 ? 'translateX(-100%)' : place(t.at) < 1 ? '' : 'translateX(-50%)',
              }"
              >{{ t.text }} s</span
            >
            <div
              v-if="take"
              :style="{ left: `${place(0)}%`, width: `${place(1) - place(0)}%` }"
              class="absolute top-[20px] flex h-[22px] items-center rounded-sm border border-slate bg-paper-2 px-2 text-xs font-medium"
            >
              {{ take.name }}
            </div>
            <p v-else class="quiet absolute top-[22px] text-xs">No take is chosen.</p>
            <span
              v-for="(r, n) in corrected"
              :key="`own-${n}`"
              class="absolute top-[39px] h-[3px] bg-ink"
              :style="{ left: `${place(r.from)}%`, width: `${place(r.to) - place(r.from)}%` }"
              title="Corrected in its own way"
            />
            <div
              v-if="band"
              class="absolute inset-y-0 border-x border-madder bg-madder/10"
              :style="{ left: `${place(band.from)}%`, width: `${place(band.to) - place(band.from)}%` }"
              data-testid="stretch"
            />
            <template v-for="(c, i) in lanes" :key="c.key">
              <div
                v-for="(r, n) in c.runs"
                :key="n"
                class="absolute rounded-sm"
                :class="[
                  isChosen(r) ? 'outline outline-2 outline-offset-1 outline-madder' : '',
                  r.told ? 'shadow-[inset_0_0_0_2px_var(--ink)]' : '',
                ]"
                :style="{
                  left: `${place(r.from)}%`,
                  width: `${Math.max(0.4, place(r.to) - place(r.from))}%`,
                  top: `${49 + i * 22 + (r.half === 1 ? 7 : 0)}px`,
                  height: r.half === undefined ? '12px' : '5px',
                  background: r.color,
                }"
                :title="r.title"
                :data-testid="`run-${c.key}`"
              />
            </template>
            <LazyContactEdges v-if="reshaping && (take || derived.ownShown)" :place="place" :lanes="lanes" />
            <LazyCueLane v-if="grounding" :place="place" :top="44 + 22 * lanes.length" />
            <LazyWayLane v-if="grounding" ref="wayLane" :place="place" :top="68 + 22 * lanes.length" />
            <LazyVoiceLane v-if="speaking" :place="place" :top="48 + 22 * lanes.length" />
            <LazyKeyLane v-if="layering && take" :place="place" :top="44 + 22 * lanes.length" />
            <LazyPropLane v-if="carrying" :place="place" :top="66 + 22 * lanes.length" />
            <LazyCurveLane v-if="layering && take" :place="place" :top="70 + 22 * lanes.length + (carrying ? 22 : 0)" />
            <svg
              v-if="curves"
              :style="{ left: `${place(0)}%`, width: `${place(1) - place(0)}%`, top: `${48 + 22 * lanes.length}px` }"
              class="absolute h-[72px]"
              viewBox="0 0 1000 100"
              preserveAspectRatio="none"
              role="img"
              :aria-label="`Turns of ${roleWord}`"
            >
              <path d="M0 50H1000" stroke="var(--rule)" vector-effect="non-scaling-stroke" />
              <path
                v-for="(d, i) in curves.paths"
                :key="i"
                :d="d"
                fill="none"
                :stroke="AXES[i]![1]"
                stroke-width="1.6"
                vector-effect="non-scaling-stroke"
              />
            </svg>
            <div
              v-if="take"
              class="pointer-events-none absolute inset-y-0 w-px bg-madder"
              :style="{ left: `${place(at)}%` }"
              role="slider"
              aria-label="Playhead"
              :aria-valuenow="Math.round(player.time * 100) / 100"
              aria-valuemin="0"
              :aria-valuemax="player.length"
              :aria-valuetext="`${player.time.toFixed(2)} s`"
              tabindex="0"
            >
              <span
                class="absolute -left-[5px] top-[1px] h-0 w-0 border-x-[5px] border-t-[8px] border-x-transparent border-t-madder"
              />
            </div>
          </div>
        </div>
      </div>
    </div>
  </section>
</template>
