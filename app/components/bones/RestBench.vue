<script setup lang="ts">
import { armsAt, armsDown } from '@chiraxis/core/rig'
import { setQuat, type Quat } from '@chiraxis/core/math'
import { strike } from '@chiraxis/core/strain'
import { sampleTake } from '@chiraxis/core/motion'
import { X } from '@lucide/vue'

/** The figure posed joint by joint; what is posed becomes the rest pose, or a check pose of one's own. */
const view = useView()
const derived = useDerived()
const project = useProject()
const player = usePlayer()
const chosen = useChosen()
const posing = usePosing()
const poses = useCheckPoses()
const s = computed(() => derived.skeleton)
const label = computed(() => jointLabel(s.value, derived.joint))
const isPosed = computed(() => posing.rotations.value !== undefined)
const down = computed(() => (s.value ? armsDown(s.value) : undefined))
const degrees = ref(45)
const AXES = [
  ['About its left', 0],
  ['About up', 1],
  ['About ahead', 2],
] as const
/** Arms brought to an angle, everything else as it is posed. */
function arms(by: number): void {
  const k = s.value
  if (!k) return
  const next = (posing.rotations.value ?? k.restRotations).slice()
  for (const [j, q] of armsAt(k, by)) setQuat(next, j, q as Quat)
  posing.takeUp(next)
}
const hasArms = computed(() => down.value !== undefined)
const from = ref('')
function takeUp(): void {
  const k = s.value
  if (!k) return
  const pose = poses.value.find(p => p.id === from.value)
  if (pose) posing.takeUp(strike(k, pose))
  else if (from.value === 'take') {
    const take = derived.performed?.answer.take
    const buffer = {
      translations: new Float32Array(3 * k.names.length),
      rotations: new Float32Array(4 * k.names.length),
    }
    if (!take || take.rotations.length !== buffer.rotations.length * take.frames) return
    sampleTake(take, player.time, buffer)
    posing.takeUp(buffer.rotations)
  }
}
const name = ref('')
function keep(): void {
  posing.keep(name.value)
  name.value = ''
}
const own = computed(() => project.recipe.checkPoses ?? [])
</script>

<template>
  <BenchHead
    title="Rest pose"
    sentence="Pull a bone by its joint or by its end. Skin, face shapes and takes look as before, whatever rests here."
  />
  <WorkProgress step="rig" what="Building the skeleton" />
  <div v-if="s" class="card">
    <h3>{{ chosen.many ? `${chosen.joints.length} joints` : label }}</h3>
    <NumberField
      v-for="[text, k] in AXES"
      :key="k"
      :label="text"
      :value="posing.angles.value[k]"
      unit="°"
      :step="1"
      @change="posing.setAngle(k, $event)"
    />
    <SwitchRow v-model="view.mirror" label="Mirror to the other side" />
    <ChooseMore />
    <div class="mt-2 flex flex-wrap gap-2">
      <button class="press" :disabled="!posing.undoable.value" title="Ctrl+Z" @click="posing.stepBack()">
        Undo the turn
      </button>
      <button class="press" :disabled="!isPosed" data-testid="back-to-rest" @click="posing.rest()">Back to rest</button>
    </div>
  </div>
  <div v-if="s" class="card">
    <h3>
      Begin from
      <span v-if="down !== undefined" class="quiet font-normal"
        >· arms rest {{ Math.abs(down).toFixed(0) }}° {{ down < -0.5 ? 'up' : 'down' }}</span
      >
    </h3>
    <div v-if="hasArms" class="mb-2 flex flex-wrap gap-2">
      <button class="press" data-testid="arms-out" @click="arms(0)">T-pose</button
      ><span class="flex items-center"
        ><button class="press !rounded-r-none" data-testid="arms-down" @click="arms(degrees)">A-pose</button
        ><select
          v-model.number="degrees"
          class="field num !w-16 !rounded-l-none !border-l-0"
          aria-label="Degrees below straight out"
        >
          <option v-for="d in [15, 30, 45, 60, 75]" :key="d" :value="d">{{ d }}°</option>
        </select></span
      >
    </div>
    <div class="flex gap-2">
      <select v-model="from" class="field" aria-label="Pose to begin from">
        <option value="">choose a pose</option>
        <option v-if="derived.performed" value="take">the take at the playhead</option>
        <option v-for="p in poses" :key="p.id" :value="p.id">{{ p.label }}</option>
      </select>
      <button class="press" :disabled="from === ''" @click="takeUp">Take it up</button>
    </div>
  </div>
  <div v-if="s" class="card">
    <h3>Keep as a check pose</h3>
    <div class="flex gap-2">
      <input
        v-model="name"
        class="field"
        maxlength="100"
        placeholder="Name"
        aria-label="Name of the pose"
        @keydown.enter="keep"
      />
      <button class="press" :disabled="!isPosed" data-testid="keep-pose" @click="keep">Keep</button>
    </div>
    <div v-for="p in own" :key="p.id" class="flex items-center gap-2 pt-1">
      <button class="min-w-0 flex-1 truncate text-left hover:underline" @click="posing.takeUpTurns(p.turns)">
        {{ p.label }}
      </button>
      <button class="p-0.5 text-ink-2 hover:text-ink" :aria-label="`Remove ${p.label}`" @click="posing.forget(p.id)">
        <X :size="13" />
      </button>
    </div>
  </div>
  <div class="bench-foot flex flex-col gap-2">
    <button
      class="press border-ink font-semibold"
      :disabled="!isPosed"
      data-testid="make-rest"
      @click="posing.makeRest()"
    >
      Make this the rest pose
    </button>
    <button class="press press-main" :disabled="!derived.skeleton" @click="view.go('skin')">Go on to the skin</button>
  </div>
</template>
