<script setup lang="ts">
import { conjugate, nearestAxis, rotate, type Vec3 } from '@chiraxis/core/math'
import { ownTakeAt, shortName, type TakeRef } from '@chiraxis/core/recipe'

const view = useView()
const derived = useDerived()
const project = useProject()
const answer = computed(() => derived.performed?.answer)
const take = computed(() => {
  const came = derived.rig?.takes.find(t => t.id === derived.wantedTake)
  return came
    ? { name: came.name, performer: 'came with the body', own: true }
    : project.recipe.takes.find(t => t.id === derived.wantedTake)
})
const isOwn = computed(() => ownTakeAt(derived.wantedTake ?? ''))
const height = computed(() => derived.shape?.straightened.height ?? 1)
const measures = computed(() => {
  const m = answer.value?.measures
  if (!m) return []
  return [
    {
      label: 'Feet slide at rest',
      value: m.footSkateMetresPerSecond === null ? 'unknown' : `${(m.footSkateMetresPerSecond * 100).toFixed(1)} cm/s`,
      bad: (m.footSkateMetresPerSecond ?? 0) > 0.01,
    },
    {
      label: 'Body under the floor',
      value: `${Math.max(0, -m.clearance * height.value * 1000).toFixed(1)} mm`,
      bad: m.clearance * height.value < -0.002,
    },
    ...(view.fourLegs
      ? []
      : [
          {
            label: 'Hands off their place',
            value: `${(m.handError * height.value * 1000).toFixed(1)} mm`,
            bad: m.handError > 0.05,
          },
        ]),
    ...(m.armRoom !== undefined && m.armRoom < 0
      ? [{ label: 'Arms in the body', value: `${(-m.armRoom * 1000).toFixed(1)} mm`, bad: m.armRoom < -0.005 }]
      : []),
    {
      label: 'Feet off their place',
      value: `${(m.footError * height.value * 1000).toFixed(1)} mm`,
      bad: m.footError > 0.02,
    },
  ]
})
const ownTakes = useOwnTakes()
const { take: own, adjust, setAdjust, editTake } = useTakeEdit()
function leaveOutCalibration(): void {
  const a = answer.value
  if (!a?.calibration) return
  const end = adjust.value.trim?.[1] ?? a.recorded.seconds
  setAdjust('Leave out the pose for measuring', { trim: [a.calibration / a.recorded.fps, end] })
}
/** Joints of the performer that slide on what they hang on, in words. */
const sliding = computed(() => {
  const list = answer.value?.sliding ?? []
  const left = list.filter(s => !s.carried)
  const names = (some: typeof list): string =>
    some.length > 3
      ? `${some
          .slice(0, 2)
          .map(s => s.joint)
          .join(', ')} and ${some.length - 2} more`
      : some.map(s => s.joint).join(', ')
  if (left.length > 0) return `Joints of the performer that slide or stretch are not carried: ${names(left)}.`
  return list.length > 0 ? `Sliding and stretching joints are carried along: ${names(list)}.` : ''
})
const UNITS = [
  { name: 'metres', leg: 0.82, rare: 1 },
  { name: 'centimetres', leg: 82, rare: 1 },
  { name: 'millimetres', leg: 820, rare: 1 },
  { name: 'inches', leg: 32.3, rare: 2 },
  { name: 'feet', leg: 2.7, rare: 2 },
] as const
const misfit = (leg: number, unit: (typeof UNITS)[number]): number =>
  unit.rare * Math.abs(Math.log((leg || 1e-9) / unit.leg))
const AXIS = { x: 'X', y: 'Y', z: 'Z' } as const
/** What was found out about the performer's own conventions. */
const told = computed(() => {
  const a = answer.value
  if (!a) return []
  const back = conjugate(a.performerFrame)
  const axis = (v: Vec3): string => {
    const n = nearestAxis(rotate(back, v))
    return `${n[0] === '-' ? '−' : ''}${AXIS[n[1] as 'x']}`
  }
  // a leg told by the size of its number; small bodies are likelier than other units
  const unit = UNITS.reduce((best, u) => (misfit(a.performerLeg, u) < misfit(a.performerLeg, best) ? u : best))
  return [
    { label: 'Up, facing', value: `${axis([0, 1, 0])}, ${axis([0, 0, 1])}` },
    { label: 'Unit, by its size', value: unit.name },
    { label: 'Recorded', value: `${a.recorded.seconds.toFixed(2)} s at ${Number(a.recorded.fps.toFixed(2))} a second` },
    { label: 'Joints', value: `${a.performer.names.length}, ${Object.keys(a.performerJoints).length} with a role` },
  ]
})
const edit = (name: string, change: Partial<TakeRef>): void => editTake(() => name, change)
function rename(name: string): void {
  if (name && name !== own.value?.name) edit(`Rename take to ${shortName(name)}`, { name: shortName(name) })
}
const retag = (text: string): void =>
  edit('Tags of the take', {
    tags: text
      .split(',')
      .map(w => w.trim().slice(0, 40))
      .filter(Boolean)
      .slice(0, 20),
  })
const list = useTakeList()
</script>

<template>
  <BenchHead
    title="Takes"
    sentence="A motion recorded on somebody else, carried onto this figure. Done when hands and feet go where the performer's do."
  />
  <WorkProgress step="shape" what="Straightening the body" />
  <WorkProgress step="landmarks" what="Finding landmarks" />
  <WorkProgress step="take" what="Carrying the take over" />
  <WorkProgress step="skin" what="Working out skin weights" />
  <div v-if="derived.skeleton && derived.plan !== 'drawn'" class="card flex items-center justify-between">
    <span class="quiet">A take made here by layers alone</span>
    <button class="press" data-testid="from-rest" @click="ownTakes.fromRest()">Begin from rest</button>
  </div>
  <div v-if="!take" class="card quiet">Choose a take in the list.</div>
  <template v-else>
    <div class="card">
      <h3>
        {{ take.name }} <span class="quiet font-normal">· {{ take.performer }}</span>
      </h3>
      <ChoiceRow
        v-if="!isOwn"
        v-model="view.performerShown"
        label="Performer"
        :options="[
          { value: 'beside', label: 'Beside' },
          { value: 'over', label: 'Over' },
          { value: 'hidden', label: 'Hidden' },
        ]"
      />
      <SwitchRow v-model="view.bonesInMotion" label="Show the figure's skeleton" />
    </div>
    <div v-if="measures.length > 0" class="card">
      <h3>Measured</h3>
      <div v-for="m in measures" :key="m.label" class="flex justify-between py-0.5">
        <span class="quiet">{{ m.label }}</span><span class="num" :class="m.bad ? 'font-semibold text-madder' : ''">{{
          m.value
        }}</span>
      </div>
      <div v-if="answer?.calibration && !isOwn" class="pt-1" data-testid="calibration">
        <p class="quiet">
          {{
            answer.calibration > 1
              ? `The first ${answer.calibration} frames hold a pose for measuring and are no motion.`
              : 'The first frame is a pose for measuring and no motion.'
          }}
        </p>
        <button class="press mt-1" @click="leaveOutCalibration">Leave it out</button>
      </div>
      <p v-if="sliding" class="quiet pt-1" data-testid="sliding">{{ sliding }}</p>
      <p v-if="answer?.onTheSpot" class="quiet pt-1" data-testid="on-the-spot">
        Walks on the spot: the feet run away under a body that stays, so what they slide over is not told.
      </p>
      <p v-if="answer?.asPerformed" class="quiet pt-1" data-testid="as-performed">
        Made on this very skeleton: the take is as it was, nothing is corrected.
      </p>
    </div>
    <div v-if="answer && !isOwn" class="card">
      <h3>Read from the file</h3>
      <div v-for="t in told" :key="t.label" class="flex justify-between gap-2 py-0.5">
        <span class="quiet">{{ t.label }}</span><span class="truncate text-right">{{ t.value }}</span>
      </div>
    </div>
    <div v-if="own" class="card">
      <h3>This take</h3>
      <label class="flex items-center justify-between gap-2 py-0.5"
        ><span>Name</span
        ><TextField class="field !w-[172px]" :value="own.name" data-testid="take-name" @change="rename"
      /></label>
      <label class="flex items-center justify-between gap-2 py-0.5"
        ><span>Tags</span
        ><TextField
          class="field !w-[172px]"
          :value="(own.tags ?? []).join(', ')"
          placeholder="loop, gait …"
          @change="retag"
      /></label>
      <button class="press mt-2" @click="list.remove(own.id)">Remove from the list</button>
    </div>
  </template>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!answer || isOwn" @click="view.go('map')">Go on to the role map</button>
  </div>
</template>
