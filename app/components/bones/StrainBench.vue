<script setup lang="ts">
import { maxOf } from '@chiraxis/core/math'
import { Pause, Play } from '@lucide/vue'
import { landmarksOf } from '@chiraxis/core/landmarks'
import type { WorstPlace } from '@chiraxis/core/strain'
import { rampCss } from '~/stage/ramp'
import type { StrainView } from '~/stores/view'

const view = useView()
const derived = useDerived()
const player = usePosePlayer()
const { answer } = useSkinHeat()

onMounted(() => {
  void derived.look('strain')
  if (!view.pose) player.show('arms-up')
})
onBeforeUnmount(() => {
  void derived.look('strain', false)
  player.stop()
})

const VIEWS = computed<{ value: StrainView; label: string }[]>(() => [
  { value: 'stretch', label: 'Stretch' },
  { value: 'squeeze', label: 'Squeeze' },
  { value: 'shear', label: 'Shear' },
  { value: 'volume', label: 'Loss of surface' },
  { value: 'weights', label: "The joint's weights" },
  { value: 'before-repair', label: 'Against the skin before repair' },
  { value: 'nearest-bone', label: 'Against nearest bone' },
  { value: 'volume-blend', label: 'Against volume-keeping blend' },
  ...(derived.shape?.joints ? [{ value: 'as-received' as const, label: 'Against the skin as it came' }] : []),
])
const compared = computed(() => VIEWS.value.find(v => v.value === view.poseStrain)?.label.startsWith('Against'))
const regions = computed(() => [...(derived.strain?.regions ?? [])].sort((a, b) => b.score - a.score))
const most = computed(() =>
  maxOf(
    regions.value.map(r => r.score),
    1,
  ),
)
const chosen = shallowRef<WorstPlace>()
const worst = computed(() => (derived.strain?.worst ?? []).slice(0, 10))
const regionLabel = (id: string): string => derived.strain?.regions.find(r => r.id === id)?.label ?? id
const poseLabel = (id: string): string => player.poses.value.find(p => p.id === id)?.label ?? id
function look(w: WorstPlace): void {
  chosen.value = w
  derived.joint = w.joint
  view.poseStrain = w.kind
  player.show(w.pose)
  view.vertex = derived.shape?.mesh.indices[3 * w.triangle]
}
const landmark = computed(() => {
  const role = derived.skeleton?.roles[chosen.value?.joint ?? -1]
  return role && !derived.kept ? landmarksOf(derived.plan).find(l => l.role === role) : undefined
})
function toWeights(): void {
  view.brush.tool = 'smooth'
  view.skinMode = 'repair'
}
function toLandmark(): void {
  if (!landmark.value) return
  view.landmark = landmark.value.id
  view.go('landmarks')
}
const num = (v: number): string => (v >= 100 ? v.toFixed(0) : v.toFixed(1))
</script>

<template>
  <WorkProgress step="strain" what="Driving the figure through its poses" />
  <div class="card">
    <div class="flex items-center gap-2">
      <button class="press" data-testid="play-poses" @click="player.toggle()">
        <Pause v-if="view.playingPoses" :size="14" /><Play v-else :size="14" />{{
          view.playingPoses ? 'Pause' : 'Play all poses'
        }}
      </button>
      <span class="ml-auto truncate">{{ player.current.value?.label ?? 'at rest' }}</span>
    </div>
    <label class="mt-2 flex items-center justify-between gap-3"
      ><span>Drawn</span>
      <select v-model="view.poseStrain" class="field !w-[208px]" aria-label="What is drawn on the skin">
        <option v-for="v in VIEWS" :key="v.value" :value="v.value">{{ v.label }}</option>
      </select>
    </label>
    <div class="mt-2 h-3 rounded" :style="{ background: rampCss }" role="img" aria-label="From none to much" />
    <div v-if="view.poseStrain === 'weights'" class="num quiet flex justify-between text-xs">
      <span>0</span><span>{{ jointLabel(derived.skeleton, derived.joint) }}</span
      ><span>1</span>
    </div>
    <div v-else class="num quiet flex justify-between text-xs">
      <span>0</span
      ><span v-if="answer"
        >mean {{ answer.mean.toFixed(compared ? 2 : 1) }}, most {{ num(answer.most)
        }}{{ answer.most >= 299.9 && answer.unit === '%' ? ' or more' : '' }} {{ answer.unit }}</span
      ><span>{{ answer ? `${num(answer.scale)} ${answer.unit}` : '' }}</span>
    </div>
    <ChoiceRow
      v-model="view.blending"
      label="Blended"
      :options="[
        { value: 'linear', label: 'Linear' },
        { value: 'volume', label: 'Volume-keeping' },
      ]"
    />
  </div>
  <div v-if="derived.strain" class="card" data-testid="worst">
    <h3>Worst places</h3>
    <p v-if="worst.length === 0" class="quiet">No place is strained by more than a twentieth.</p>
    <button
      v-for="(w, i) in worst"
      :key="i"
      class="grid w-full grid-cols-[1fr_auto] gap-x-2 border-l-2 py-[3px] pl-2 text-left hover:bg-paper-2"
      :class="chosen === w ? 'border-madder bg-paper-2' : 'border-transparent'"
      :data-worst="i"
      @click="look(w)"
    >
      <span class="truncate">{{ regionLabel(w.region) }}</span><span class="num"
        >{{ w.kind === 'stretch' ? '+' : '−' }}{{ num(w.value) }} %</span
      >
      <span class="quiet col-span-2 truncate text-xs"
        >{{ poseLabel(w.pose) }}, by {{ jointLabel(derived.skeleton, w.joint) }}</span
      >
    </button>
    <div v-if="chosen" class="mt-2 flex flex-wrap gap-2">
      <button class="press" data-testid="to-weights" @click="toWeights">Repair weights</button>
      <button class="press" @click="view.go('skeleton')">Move the joint</button>
      <button v-if="landmark" class="press" @click="toLandmark">Move the landmark</button>
    </div>
  </div>
  <div v-if="derived.strain" class="card">
    <h3 class="flex items-baseline">
      Strain by region
      <span class="num ml-auto" data-testid="strain-score">{{ derived.strain.score.toFixed(1) }} %</span>
    </h3>
    <p class="quiet mb-1 text-xs">Mean over all poses; the thin mark is volume lost at most.</p>
    <div
      v-for="r in regions"
      :key="r.id"
      class="flex items-center gap-2 py-[2px]"
      :title="`Loses ${r.volumeLoss.toFixed(0)} % of its volume in ${poseLabel(r.worstPose)}`"
    >
      <span class="w-[118px] truncate text-xs">{{ r.label }}</span>
      <span class="relative h-2.5 flex-1 bg-paper-2"
        ><span class="block h-full bg-madder" :style="{ width: `${(r.score / most) * 100}%` }" /><span
          class="absolute top-[-2px] h-[14px] w-[2px] bg-ink"
          :style="{ left: `${Math.min(99, r.volumeLoss)}%` }"
      /></span>
      <span class="num w-9 text-right text-xs">{{ r.score.toFixed(1) }}</span>
    </div>
  </div>
  <LazyRangeChart v-if="view.pose && derived.strain" :pose="view.pose" />
</template>
