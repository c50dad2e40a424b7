<script setup lang="ts">
import type { SculptTool } from '@chiraxis/core/corrective'
import { X } from '@lucide/vue'

const view = useView()
const derived = useDerived()
const { poses } = usePosePlayer()
const sculpt = useSculpt()
const { list, current, pose, nameOf, lost, turnsNow, degrees, begin, choose, change, remove } = useCorrectives()

onMounted(() => {
  if (current.value) return choose(current.value.id)
  if (!view.pose) view.pose = poses.value.find(p => p.id === 'elbows-bent')?.id ?? poses.value[0]?.id
})
onBeforeUnmount(() => {
  view.poseShare = 1
  view.plainSkin = false
})

const TOOLS: readonly { value: SculptTool; label: string; hint: string }[] = [
  { value: 'raise', label: 'Raise', hint: 'pushes the surface out' },
  { value: 'sink', label: 'Sink', hint: 'pushes it in' },
  { value: 'smooth', label: 'Smooth', hint: 'evens out what the pose has crumpled; what it did not bend stays' },
  { value: 'clear', label: 'Clear', hint: 'brings the plain skin back' },
]
const poseChoice = computed({
  get: () => view.pose ?? '',
  set: v => {
    choose(undefined)
    view.pose = v || undefined
  },
})
const by = ref<'joint' | 'pose'>('joint')
const whole = computed(() => by.value === 'pose')
const now = computed(() => turnsNow(whole.value))
const joint = computed(() => jointLabel(derived.skeleton, derived.joint))
const counted = computed(() => turnsNow(true).length)
/** Why nothing can be begun here. */
const hindrance = computed(() => {
  if (!pose.value) return 'Choose a pose in which the surface should look otherwise.'
  if (now.value.length === 0)
    return `${pose.value.label} does not turn the ${joint.value.toLowerCase()}. Choose a joint it turns.`
  return ''
})
const drivers = computed(() =>
  (current.value?.turns ?? [])
    .map(t => nameOf(t.joint).toLowerCase())
    .slice(0, 3)
    .join(', '),
)
</script>

<template>
  <WorkProgress step="correctives" what="Working out correctives" />
  <div class="card">
    <h3 class="flex items-baseline">
      Correctives<span class="num quiet ml-auto font-normal" data-testid="corrective-count">{{ list.length }}</span>
    </h3>
    <p v-if="list.length === 0" class="quiet">
      None yet. A corrective is the shape the surface takes while a joint is turned; files carry it as a morph shape
      that takes move along.
    </p>
    <div
      v-for="c in list"
      :key="c.id"
      class="flex items-center border-l-2"
      :class="c.id === view.corrective ? 'border-madder bg-paper-2 font-semibold' : 'border-transparent'"
    >
      <button
        class="min-w-0 flex-1 truncate py-[3px] pl-2 text-left"
        :class="lost(c.id) ? 'text-madder' : ''"
        :title="lost(c.id)"
        :data-corrective="c.label"
        @click="choose(c.id)"
      >
        {{ c.label }}<span v-if="c.mirrored" class="quiet font-normal"> · both sides</span>
      </button>
      <button class="p-1 text-ink-2 hover:text-ink" :aria-label="`Remove ${c.label}`" @click="remove(c.id)">
        <X :size="13" />
      </button>
    </div>
    <button v-if="current" class="press mt-2 w-full" data-testid="another-corrective" @click="choose(undefined)">
      Begin another
    </button>
  </div>
  <div v-if="!current" class="card">
    <h3>Begin one</h3>
    <label class="flex items-center justify-between gap-3"
      ><span>Pose</span>
      <select v-model="poseChoice" class="field !w-[190px]" data-testid="corrective-pose">
        <option value="">rest</option>
        <option v-for="p in poses" :key="p.id" :value="p.id">{{ p.label }}</option>
      </select>
    </label>
    <ChoiceRow
      v-model="by"
      label="Driven by"
      :options="[
        { value: 'joint', label: joint },
        {
          value: 'pose',
          label: counted === 2 ? 'Both joints' : counted > 2 ? `All ${counted} joints` : 'All its joints',
        },
      ]"
    />
    <SwitchRow v-model="view.mirror" label="Also for the other side" />
    <p v-if="hindrance" class="quiet mt-1 text-xs">{{ hindrance }}</p>
    <button
      class="press mt-2 w-full"
      data-testid="begin-corrective"
      :disabled="now.length === 0 || !derived.skin"
      @click="begin(whole)"
    >
      Begin from this pose<span v-if="degrees(now)" class="num quiet">{{ ` ${degrees(now)}°` }}</span>
    </button>
  </div>
  <template v-if="current">
    <div class="card" data-testid="corrective">
      <TextField
        :key="current.id"
        :value="current.label"
        class="field mb-1 font-semibold"
        aria-label="Name of the corrective"
        @change="t => t && change(current!.id, { label: t.slice(0, 120) }, `Rename the corrective ${current!.label}`)"
      />
      <p class="quiet mb-1 text-xs">
        Shows while {{ drivers }}{{ current.turns.length > 3 ? ` and ${current.turns.length - 3} more` : '' }}
        {{ current.turns.length === 1 ? `is turned by ${degrees(current.turns)}°` : 'are turned together' }}.
      </p>
      <SliderRow
        label="Keeps volume"
        hint="How much of the volume-keeping blend the shape begins with"
        :value="100 * current.keep"
        :min="0"
        :max="100"
        :step="1"
        unit="%"
        :digits="0"
        @change="(v, joins) => change(current!.id, { keep: v / 100 }, `Volume kept by ${current!.label}`, joins)"
      />
      <SliderRow
        label="Comes on"
        hint="1: evenly with the turn. Higher: later, as a blend of joints loses volume"
        :value="current.ease"
        :min="1"
        :max="6"
        :step="0.1"
        unit=""
        :digits="1"
        @change="(v, joins) => change(current!.id, { ease: v }, `How ${current!.label} comes on`, joins)"
      />
      <SwitchRow
        :model-value="current.mirrored"
        label="Also for the other side"
        @update:model-value="v => change(current!.id, { mirrored: v }, v ? 'Correct both sides' : 'Correct one side')"
      />
      <SliderRow
        label="Turned"
        hint="How far the joint is turned in the picture"
        :value="100 * view.poseShare"
        :min="0"
        :max="100"
        :step="1"
        unit="%"
        :digits="0"
        @change="v => (view.poseShare = v / 100)"
      />
      <SwitchRow v-model="view.plainSkin" label="Show the skin without" />
    </div>
    <div class="card">
      <h3>Paint the shape</h3>
      <BrushCard
        v-model:tool="view.sculpt.tool"
        v-model:radius="view.sculpt.radius"
        v-model:strength="view.sculpt.strength"
        v-model:falloff="view.sculpt.falloff"
        :tools="TOOLS"
        name="sculpt"
        sized
        graded
      />
      <SwitchRow v-model="view.sculpt.through" label="Through to the far side" />
      <SwitchRow v-if="sculpt.standsAlike.value" v-model="view.mirror" label="Both halves alike" />
      <div class="mt-1 flex items-center gap-2">
        <span class="quiet text-xs"
          ><span class="num" data-testid="stroke-count">{{ current.strokes.length }}</span>
          {{ current.strokes.length === 1 ? 'stroke' : 'strokes' }}</span
        >
        <button
          v-if="current.strokes.length > 0"
          class="press ml-auto"
          @click="change(current!.id, { strokes: [] }, `Remove all strokes on ${current!.label}`)"
        >
          Remove all
        </button>
      </div>
    </div>
  </template>
</template>
