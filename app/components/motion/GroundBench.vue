<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import { ROOT_CHANNELS, type RootChannel } from '@chiraxis/core/motion'
import type { RootPlace, RootWay, StairSettings } from '@chiraxis/core/root-motion'
import { CHANNEL_NAMES } from '~/composables/useTravel'

/** Where the take goes: on which joint its travel lies, which way it takes, what touches the ground and when. */
const view = useView()
const travel = useTravel()
const { settings, answer } = travel
const pace = computed(() => answer.value?.travelled.pace)
const inPlace = computed(() => answer.value?.travelled.inPlace === true)
const PLACES = computed(() => [
  { value: 'came', label: 'As it came' },
  { value: 'root', label: 'On the root' },
  { value: 'hips', label: 'On the hips' },
  { value: 'dropped', label: 'Dropped' },
])
const placeOf = (c: RootChannel): string => settings.value[c] ?? 'came'
const setPlace = (c: RootChannel, place: string): void =>
  travel.setChannel(c, place === 'came' ? undefined : (place as RootPlace))
const wantsRoot = computed(() => ROOT_CHANNELS.some(c => settings.value[c] === 'root'))
const alone = computed({ get: () => travel.alone.value, set: travel.setAlone })
const fromFeet = computed({
  get: () => settings.value.fromFeet === true,
  set: v => travel.set(v ? 'Travel told from the feet' : 'Travel as recorded', { fromFeet: v || undefined }),
})
const startPlace = computed({
  get: () => settings.value.start?.includes('place') === true,
  set: () => travel.toggle('start', 'place', 'Where it sets out'),
})
const startFacing = computed({
  get: () => settings.value.start?.includes('facing') === true,
  set: () => travel.toggle('start', 'facing', 'How it faces when it sets out'),
})
const WAYS = [
  { value: 'recorded', label: 'Recorded' },
  { value: 'straight', label: 'Straight' },
  { value: 'bent', label: 'Bent' },
  { value: 'points', label: 'Points' },
] as const
const way = computed({
  get: () => settings.value.way?.kind ?? 'recorded',
  set: kind => {
    const made: Record<string, RootWay | undefined> = {
      recorded: undefined,
      straight: { kind: 'straight' },
      bent: { kind: 'bent', degrees: 45 },
      points: { kind: 'points', points: pointsAhead() },
    }
    travel.setWay(`The way ${kind === 'points' ? 'through points' : kind}`, made[kind])
  },
})
/** A way to begin with: two points along the recorded one. */
function pointsAhead(): [number, number][] {
  const path = answer.value?.travelled.path
  const n = path?.across.length ?? 0
  if (!path || n < 2) return [[0, 2]]
  const at = (f: number): [number, number] => [
    Math.round(100 * (path.across[f]! - path.across[0]!)) / 100,
    Math.round(100 * (path.ahead[f]! - path.ahead[0]!)) / 100,
  ]
  return [at(Math.floor(n / 2)), at(n - 1)]
}
const degrees = computed(() => (settings.value.way?.kind === 'bent' ? settings.value.way.degrees : 0))
const points = computed(() => (settings.value.way?.kind === 'points' ? settings.value.way.points : []))
function addPoint(): void {
  const last = points.value.at(-1) ?? [0, 0]
  const before = points.value.at(-2) ?? [0, last[1] - 1]
  const on: [number, number] = [2 * last[0] - before[0], 2 * last[1] - before[1]]
  travel.setWay('Add a point to the way', {
    kind: 'points',
    points: [...points.value.map(p => [...p] as [number, number]), on],
  })
}
function removePoint(): void {
  if (points.value.length > 1)
    travel.setWay('Remove the last point of the way', {
      kind: 'points',
      points: points.value.slice(0, -1).map(p => [...p] as [number, number]),
    })
}
/** Where it ends, from where it began. */
const ended = computed(() => {
  const p = pace.value
  if (!p) return ''
  const turn = Math.round(Math.abs(p.turn))
  const turned = turn === 0 ? 'facing as it began' : `turned ${turn}° to its ${p.turn > 0 ? 'left' : 'right'}`
  return `Ends ${p.straight.toFixed(2)} m from where it began, ${turned}.`
})
const FLOOR = [
  ['ahead', 'Rises ahead by', '°', 1, 1],
  ['across', 'Rises to its left by', '°', 1, 1],
  ['height', 'Lies higher by', 'cm', 1, 100],
] as const
const floorOf = (key: 'ahead' | 'across' | 'height', times: number): number =>
  (settings.value.floor?.[key] ?? 0) * times
function setFloor(key: 'ahead' | 'across' | 'height', value: number): void {
  const most = key === 'height' ? 20 : 40
  const next = { ...settings.value.floor, [key]: Math.min(most, Math.max(-most, value)) || undefined }
  const kept = Object.fromEntries(Object.entries(next).filter(([, v]) => v !== undefined))
  travel.set('The floor', { floor: Object.keys(kept).length > 0 ? kept : undefined })
}
const STAIRS = [
  ['from', 'Begin ahead at', 'cm', 100],
  ['rise', 'Each rises by', 'cm', 100],
  ['tread', 'Each is long', 'cm', 100],
  ['count', 'Steps', '', 1],
] as const
const stairs = computed(() => settings.value.floor?.stairs)
const LIMITS = { from: [-100, 1000], rise: [-1, 1], tread: [0.05, 5], count: [1, 500] } as const
function setStairs(change: Partial<StairSettings> | undefined): void {
  const { stairs: before, ...others } = settings.value.floor ?? {}
  const next = change && { ...STAIRS_TO_BEGIN, ...before, ...change }
  const floor = { ...others, ...(next && { stairs: next }) }
  travel.set(next ? 'Stairs' : 'No stairs', { floor: Object.keys(floor).length > 0 ? floor : undefined })
}
const STAIRS_TO_BEGIN: StairSettings = { from: 1, rise: 0.17, tread: 0.35, count: 6 }
const setStair = (key: keyof StairSettings, value: number): void =>
  setStairs({ [key]: Math.min(LIMITS[key][1], Math.max(LIMITS[key][0], key === 'count' ? Math.round(value) : value)) })
const hasStairs = computed({ get: () => stairs.value !== undefined, set: on => setStairs(on ? {} : undefined) })
const closes = (c: RootChannel): boolean => settings.value.close?.includes(c) === true
</script>

<template>
  <BenchHead
    title="Ground"
    sentence="Where the take goes, which joint carries it there, what touches the ground and when."
  />
  <WorkProgress step="take" what="Carrying the take over" />
  <div v-if="!answer" class="card quiet">Choose a take.</div>
  <template v-else>
    <div class="card" data-testid="travel">
      <div class="flex items-baseline justify-between">
        <h3>Travel</h3>
        <span v-if="pace" class="num quiet" data-testid="pace"
          >{{ pace.way.toFixed(2) }} m · {{ pace.speed.toFixed(2) }} m/s</span
        >
      </div>
      <p v-if="inPlace" class="quiet py-0.5" data-testid="in-place">
        It stays in place while its feet go: the speed is told from them.
      </p>
      <SwitchRow v-if="inPlace || fromFeet" v-model="fromFeet" label="Travel told from the feet" />
      <SelectRow
        v-for="c in ROOT_CHANNELS"
        :key="c"
        :model-value="placeOf(c)"
        :label="CHANNEL_NAMES[c]"
        :options="PLACES"
        :data-channel="c"
        @update:model-value="setPlace(c, $event)"
      />
      <div class="flex flex-wrap gap-2 py-1">
        <button
          class="press"
          data-testid="all-on-root"
          @click="travel.all('Travel and turn on the root joint', 'root', ['across', 'ahead', 'turn'])"
        >
          On the root
        </button>
        <button class="press" data-testid="on-spot" @click="travel.all('On the spot', 'dropped', ['across', 'ahead'])">
          On the spot
        </button>
        <button class="press" data-testid="as-it-came" @click="travel.all('Travel as it came', undefined)">
          As it came
        </button>
      </div>
      <div class="flex items-center justify-between py-1">
        <span class="quiet">Root joint</span>
        <span v-if="travel.root.value" class="truncate" data-testid="root-joint">{{ travel.root.value }}</span>
        <button
          v-else
          class="press"
          :class="wantsRoot ? 'border-ink font-semibold' : ''"
          data-testid="add-root"
          @click="travel.addRoot()"
        >
          Add one
        </button>
      </div>
      <p v-if="wantsRoot && !travel.root.value" class="py-0.5 text-madder" data-testid="no-root">
        Nothing stands above the hips yet, so travel stays on them.
      </p>
      <SliderRow
        label="Steps evened out over"
        :value="travel.smooth.value"
        :min="0"
        :max="2"
        :step="0.05"
        unit="s"
        hint="0 follows every sway of the hips"
        @change="(v, joins) => travel.set('Steps evened out', { smooth: v }, joins)"
      />
      <SwitchRow v-model="alone" label="Set this for this take alone" />
    </div>
    <div class="card" data-testid="way">
      <h3>Way</h3>
      <SwitchRow v-model="view.wholeWay" label="See all of it" />
      <ChoiceRow v-model="way" label="Over the ground" :options="WAYS" />
      <SliderRow
        v-if="way === 'bent'"
        label="To its left by"
        :value="degrees"
        :min="-360"
        :max="360"
        :step="5"
        :digits="0"
        unit="°"
        @change="(v, joins) => travel.setWay('Bend the way', { kind: 'bent', degrees: v }, joins)"
      />
      <div v-if="way === 'points'" class="flex items-center gap-2 py-1">
        <span class="quiet flex-1">{{ counted(points.length, 'point') }}, dragged on the ground</span>
        <button class="press" data-testid="add-point" @click="addPoint">Add</button>
        <button class="press" :disabled="points.length < 2" @click="removePoint">Remove</button>
      </div>
      <SwitchRow v-model="startPlace" label="Sets out from where it stands at rest" />
      <SwitchRow v-model="startFacing" label="Sets out facing as it does at rest" />
      <div class="py-1" role="group" aria-label="Ends as it began">
        <span class="quiet mb-1 block text-xs">Ends as it began</span>
        <div class="flex gap-1.5">
          <button
            v-for="c in ROOT_CHANNELS"
            :key="c"
            class="press flex-1 !px-1"
            :class="closes(c) ? 'press-on' : ''"
            :aria-pressed="closes(c)"
            :data-close="c"
            @click="travel.toggle('close', c, `${CHANNEL_NAMES[c]} ends as it began`)"
          >
            {{ CHANNEL_NAMES[c] }}
          </button>
        </div>
      </div>
      <p v-if="pace" class="quiet pt-0.5">{{ ended }}</p>
    </div>
    <div class="card" data-testid="floor">
      <h3>Floor</h3>
      <NumberField
        v-for="[key, label, unit, step, times] in FLOOR"
        :key="key"
        :label="label"
        :value="floorOf(key, times)"
        :unit="unit"
        :step="step"
        :digits="0"
        @change="setFloor(key, $event / times)"
      />
      <SwitchRow v-model="hasStairs" label="Stairs" />
      <template v-if="stairs">
        <NumberField
          v-for="[key, label, unit, times] in STAIRS"
          :key="key"
          :label="label"
          :value="stairs[key] * times"
          :unit="unit"
          :step="1"
          :digits="0"
          @change="setStair(key, $event / times)"
        />
      </template>
    </div>
    <CueCard />
    <CurveCard />
    <ContactsCard />
  </template>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!answer" @click="view.go('voice')">Go on to the voice</button>
  </div>
</template>
