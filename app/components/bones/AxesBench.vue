<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import type { AxisName } from '@chiraxis/core/math'
import { jointRef, OWN_CONVENTION, readAxes, readBends } from '@chiraxis/core/skeleton'

const view = useView()
const derived = useDerived()
const edit = useJointEdit()
const chosen = useChosen()
const s = computed(() => derived.skeleton)
const axes = computed(() => (s.value ? readAxes(s.value) : undefined))
const WORDS = { along: 'lie along the bones', world: 'stand like the world', mixed: 'differ' }
const off = computed(() => {
  const list = [...(axes.value?.off ?? [])].filter(v => !Number.isNaN(v))
  return list.length === 0 ? 0 : (list.reduce((a, b) => a + b, 0) / list.length) * (180 / Math.PI)
})
const AXES = ['+x', '-x', '+y', '-y', '+z', '-z'] as const
const along = ref<AxisName>(OWN_CONVENTION.along)
const hinge = ref<AxisName>(OWN_CONVENTION.hinge)
const clash = computed(() => along.value[1] === hinge.value[1])
const label = (i: number): string => jointLabel(s.value, i)
const ownOff = computed(() => {
  const v = axes.value?.off[derived.joint]
  return v === undefined || Number.isNaN(v) ? undefined : (v * 180) / Math.PI
})
const bends = computed(() =>
  s.value
    ? readBends(s.value).map(b => ({ ...b, degrees: (b.bend * 180) / Math.PI, hingeDegrees: (b.off * 180) / Math.PI }))
    : [],
)
const mirrored = ref(false)
const convention = computed(() => ({
  along: along.value,
  hinge: hinge.value,
  ...(mirrored.value && { mirrored: true }),
}))
const aimAll = (): void => edit.add([{ kind: 'aim', convention: convention.value }])
const aimChosen = (): void => {
  const k = s.value
  if (!k) return
  const joints = withMirrored(k, chosen.joints, view.mirror).map(j => jointRef(k, j))
  edit.add(
    [{ kind: 'aim', convention: convention.value, joints }],
    chosen.many ? `Aim ${counted(chosen.refs.length, 'joint')}` : `Aim ${label(derived.joint).toLowerCase()}`,
  )
}
const turn = ref(0)
function turnHinge(): void {
  if (s.value && turn.value !== 0)
    edit.add([{ kind: 'hinge', joint: jointRef(s.value, derived.joint), degrees: turn.value, mirror: view.mirror }])
  turn.value = 0
}
</script>

<template>
  <BenchHead
    title="Axes"
    sentence="Which way each joint is turned, and what it hinges about. Skin and takes stay as they are, whatever is aimed here."
  />
  <WorkProgress step="rig" what="Building the skeleton" />
  <div v-if="axes" class="card">
    <h3>The axes {{ WORDS[axes.kind] }}</h3>
    <div class="flex justify-between py-0.5">
      <span class="quiet">Own axis along most bones</span><span class="num">{{ axes.along }}</span>
    </div>
    <div class="flex justify-between py-0.5">
      <span class="quiet">Off the bone, on average</span
      ><span class="num" :class="off > 5 ? 'font-semibold text-madder' : ''">{{ off.toFixed(1) }}°</span>
    </div>
    <div v-if="ownOff !== undefined" class="flex justify-between py-0.5">
      <span class="quiet">{{ label(derived.joint) }}</span><span class="num">{{ ownOff.toFixed(1) }}°</span>
    </div>
    <div class="mt-2 flex gap-2">
      <label class="flex-1"
        ><span class="quiet text-xs">Along the bone</span
        ><select v-model="along" class="field num">
          <option v-for="a in AXES" :key="a" :value="a">{{ a }}</option>
        </select></label
      >
      <label class="flex-1"
        ><span class="quiet text-xs">Hinge</span
        ><select v-model="hinge" class="field num">
          <option v-for="a in AXES" :key="a" :value="a">{{ a }}</option>
        </select></label
      >
    </div>
    <SwitchRow v-model="mirrored" label="Both sides turn alike in mirror" />
    <p v-if="clash" class="mt-1 text-xs text-madder">Bone and hinge need two different axes.</p>
    <div class="mt-2 flex gap-2">
      <button class="press border-ink font-semibold" :disabled="clash" data-testid="aim-all" @click="aimAll">
        Aim all</button
      ><button class="press" :disabled="clash" data-testid="aim-chosen" @click="aimChosen">
        Aim {{ chosen.many ? counted(chosen.refs.length, 'joint') : label(derived.joint).toLowerCase() }}
      </button>
    </div>
  </div>
  <OrientCard />
  <div v-if="bends.length > 0" class="card">
    <h3>Knees and elbows</h3>
    <div class="quiet flex pb-0.5 text-xs">
      <span class="flex-1">at rest</span><span class="w-14 text-right">bend</span
      ><span class="w-20 text-right">hinge off</span><span class="w-[60px]" />
    </div>
    <div v-for="b in bends" :key="b.role" class="flex items-center py-[3px]">
      <button
        class="flex-1 text-left hover:underline"
        :class="derived.joint === b.joint ? 'font-semibold' : ''"
        @click="derived.joint = b.joint"
      >
        {{ b.word }}
      </button>
      <span class="num w-14 text-right" :class="b.degrees < 1 ? 'font-semibold text-madder' : ''"
        >{{ b.degrees.toFixed(1) }}°</span
      >
      <span class="num w-20 text-right" :class="b.hingeDegrees > 12 ? 'font-semibold text-madder' : ''"
        >{{ b.hingeDegrees.toFixed(0) }}° {{ b.own }}</span
      >
      <span class="w-[60px] text-right"
        ><button
          class="press !min-h-[22px] !px-1.5 text-xs"
          :disabled="b.degrees >= 1"
          title="Moves the joint until the limb bends 2 degrees the natural way"
          @click="edit.add([{ kind: 'bend', joint: b.role, degrees: 2 }])"
        >
          Bend 2°
        </button></span
      >
    </div>
    <NumberField
      class="mt-2"
      :label="`Turn ${label(derived.joint).toLowerCase()} about its bone`"
      :value="turn"
      unit="°"
      :step="1"
      @change="turn = Math.max(-180, Math.min(180, $event))"
    />
    <button class="press mt-1" :disabled="turn === 0" @click="turnHinge">Turn</button>
    <p class="quiet mt-2 text-xs">
      On the plate: the light bar is the hinge the bend asks for, the dashed line the joint's own nearest axis.
    </p>
  </div>
  <div class="card">
    <SwitchRow v-model="view.mirror" label="Mirror to the other side" /><SwitchRow
      v-model="view.seeThrough"
      label="See through the body"
    />
  </div>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!derived.skeleton" @click="view.go('names')">Go on to the names</button>
  </div>
</template>
