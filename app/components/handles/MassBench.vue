<script setup lang="ts">
import { partnerOf, roleLabel, sideOf } from '@chiraxis/core/body'

/** What the figure weighs, part by part, and whether it stands over what carries it. */
const view = useView()
const derived = useDerived()
const handles = useHandles()
const posing = useHandlePose()
const { balance } = posing
const BY = [
  { value: 'volume', label: 'Its own volume' },
  { value: 'published', label: 'Living bodies' },
] as const
const by = computed({
  get: () => balance.settings.value.by ?? 'volume',
  set: v => balance.change('What the mass is told by', { by: v === 'volume' ? undefined : v }),
})
const joint = computed(() => handles.one.value?.joint)
/** How much larger the chosen part counts than it is drawn, metres. */
const grown = computed(() => handles.choices.value.volumes?.[handles.one.value?.ref ?? ''] ?? 0)
function setGrown(metres: number): void {
  const h = handles.one.value
  if (!h) return
  const volumes = { ...handles.choices.value.volumes }
  const to = Math.min(0.5, Math.max(-0.5, metres))
  for (const ref of new Set([h.ref, ...(view.mirror && sideOf(h.ref) !== 'middle' ? [partnerOf(h.ref)] : [])]))
    if (to === 0) delete volumes[ref]
    else volumes[ref] = to
  handles.keep('Volume of a part', { volumes: Object.keys(volumes).length > 0 ? volumes : undefined })
}
const ownMass = computed(() => (joint.value === undefined ? 0 : (balance.mass.value?.masses[joint.value] ?? 0)))
const isOwn = computed(() => {
  const h = handles.one.value
  return h !== undefined && balance.settings.value.own?.[h.ref] !== undefined
})
/** The heaviest parts first. */
const rows = computed(() => {
  const s = derived.skeleton
  const m = balance.mass.value
  if (!s || !m) return []
  return [...m.masses]
    .map((kilograms, j) => ({ j, kilograms, label: s.roles[j] ? roleLabel(s.roles[j]!) : s.names[j]! }))
    .filter(r => r.kilograms > 0)
    .sort((a, b) => b.kilograms - a.kilograms)
})
const most = computed(() => rows.value[0]?.kilograms ?? 1)
const room = computed(() => balance.room.value)
const player = usePlayer()
const props = useProps()
/** Room in every frame, centimetres; worked out when it is asked for. */
const curve = shallowRef<Float32Array>()
watch([() => player.take, balance.mass, props.known], () => {
  curve.value = undefined
})
function weigh(): void {
  curve.value = balance.through(props.loadsAt)
}
const outside = computed(() => {
  const frames = curve.value ?? new Float32Array(0)
  const out = frames.filter(v => v < 0).length
  const air = frames.filter(v => Number.isNaN(v)).length
  const share = (n: number): string => `${Math.round((100 * n) / Math.max(1, frames.length))} %`
  return `Outside in ${share(out)} of the frames${air > 0 ? `, in the air in ${share(air)}` : ''}. Who walks falls from step to step; who stands does not.`
})
const OF_MANY = 14
</script>

<template>
  <BenchHead title="Mass" sentence="What each part weighs decides where the figure is in balance." />
  <WorkProgress step="handles" what="Weighing the body" />
  <template v-if="handles.body.value">
    <div class="card" data-testid="balance">
      <h3>Balance</h3>
      <p v-if="room !== undefined">
        The mass lies
        <b class="num" :class="room < 0 ? 'text-madder' : ''" data-testid="room"
          >{{ Math.abs(100 * room).toFixed(1) }} cm {{ room >= 0 ? 'inside' : 'outside' }}</b
        >
        what carries the figure.
      </p>
      <button class="press mt-2" data-testid="settle-balance" @click="posing.settleBalance()">
        Bring into balance
      </button>
      <p class="quiet pt-1 text-xs">Moves the hips and what is free the least that brings the mass inside.</p>
    </div>
    <div v-if="player.take" class="card" data-testid="balance-through">
      <h3>
        Through the take <span class="quiet font-normal">· {{ player.take.name }}</span>
      </h3>
      <template v-if="curve">
        <CompareChart
          :lines="[{ name: 'Room', values: curve }]"
          :fps="player.fps"
          unit="cm"
          :time="player.time"
          label="Balance through the take"
          @seek="player.seek"
        />
        <p class="quiet pt-1 text-xs">
          {{ outside }}
        </p>
      </template>
      <button v-else class="press" data-testid="weigh-take" @click="weigh()">Weigh every frame</button>
    </div>
    <div class="card" data-testid="mass">
      <h3>Whole figure</h3>
      <ChoiceRow v-if="balance.published.value" v-model="by" label="Told by" :options="BY" />
      <p v-else class="quiet">Told by its own volume: published shares are of bodies on two legs.</p>
      <NumberField
        label="Mass"
        :value="balance.total.value"
        unit="kg"
        :step="0.5"
        @change="balance.change('Mass of the figure', { total: Math.max(0.001, $event) })"
      />
      <div v-if="balance.carried.value > 0" class="flex justify-between py-0.5" data-testid="carried-mass">
        <span>Carries</span><span class="num">{{ balance.carried.value.toFixed(2) }} kg</span>
      </div>
      <div class="flex justify-between py-0.5">
        <span>Volume</span><span class="num">{{ (1000 * balance.volume.value).toFixed(1) }} l</span>
      </div>
      <button
        v-if="balance.settings.value.total !== undefined"
        class="press mt-1"
        @click="balance.change('Mass by its volume', { total: undefined })"
      >
        As its volume weighs
      </button>
    </div>
    <div v-if="joint !== undefined" class="card" data-testid="part-mass">
      <h3>{{ handles.one.value && handles.labelOf(handles.one.value) }}</h3>
      <NumberField
        label="Mass"
        :value="ownMass"
        unit="kg"
        :digits="2"
        :step="0.1"
        @change="balance.setOwn(joint!, $event, view.mirror)"
      />
      <SwitchRow v-model="view.mirror" label="Mirror to the other side" />
      <button class="press mt-1" :disabled="!isOwn" @click="balance.setOwn(joint!, undefined, view.mirror)">
        As told by the body
      </button>
      <NumberField
        label="Volume larger by"
        :value="100 * grown"
        unit="cm"
        :step="0.5"
        @change="setGrown($event / 100)"
      />
      <p class="quiet text-xs">Arms keep clear of it, and it lies on the ground, as if the body were so large.</p>
      <p v-if="balance.chosenCentre.value" class="quiet pt-1 text-xs">
        With all its children {{ balance.chosenCentre.value.mass.toFixed(1) }} kg: its centre is the ring on the figure.
      </p>
    </div>
    <div class="card">
      <h3>Parts</h3>
      <button
        v-for="r in rows.slice(0, OF_MANY)"
        :key="r.j"
        class="flex w-full items-center gap-2 py-[2px] text-left hover:bg-paper-2"
        @click="handles.choose([handles.handleOfJoint(r.j)?.id ?? ''])"
      >
        <span class="w-28 truncate">{{ r.label }}</span>
        <span class="h-2 flex-1"
          ><span class="block h-2 bg-ink-2" :style="{ width: `${(100 * r.kilograms) / most}%` }"
        /></span>
        <span class="num w-[68px] whitespace-nowrap text-right text-xs">{{ r.kilograms.toFixed(2) }} kg</span>
      </button>
      <p v-if="rows.length > OF_MANY" class="quiet text-xs">and {{ rows.length - OF_MANY }} lighter ones</p>
    </div>
  </template>
  <div class="bench-foot">
    <button class="press press-main" @click="view.go('props')">Go on to the props</button>
  </div>
</template>
