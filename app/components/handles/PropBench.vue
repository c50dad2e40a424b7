<script setup lang="ts">
import { fromEuler, toEulerYXZ, type Quat, type Vec3 } from '@chiraxis/core/math'
import { GROUND, type PropPlace } from '@chiraxis/core/props'
import { Crosshair, X } from '@lucide/vue'

/** What the figure carries: files of their own, how each is held, where it lies, what it weighs. */
const view = useView()
const derived = useDerived()
const files = useFiles()
const props = useProps()
const posing = useHandlePose()
const handles = useHandles()
const { prop, thing, way, pivot, marking } = props
const picks = shallowRef<Awaited<ReturnType<typeof files.demoProps>>>([])
onMounted(async () => {
  picks.value = await files.demoProps().catch(() => [])
})
const offered = computed(() => picks.value.filter(p => !props.list.value.some(o => o.file.name === p.file)))
const MOVES = [
  ['Shift sideways', 0],
  ['Shift up', 1],
  ['Shift ahead', 2],
] as const
const IN_HAND = [
  ['Towards the thumb', 0],
  ['Towards the fingers', 1],
  ['Across the palm', 2],
] as const
const TURNS = [
  ['Turned about x', 0],
  ['Turned about y', 1],
  ['Turned about z', 2],
] as const
const WAYS = [
  { value: 'move', label: 'Moves it' },
  { value: 'turn', label: 'Turns it' },
] as const
/** The place a drag turns it about. */
const about = computed({ get: () => pivot.value ?? thing.value?.places[0]?.id ?? '', set: id => (pivot.value = id) })
const inHand = computed(() => props.hands.value.includes(prop.value?.carry.by ?? ''))
/** Metres that shifts are told in. */
const long = computed(() => posing.unit.value)
const shift = (k: number): number => 100 * long.value * (prop.value?.carry.shift?.[k] ?? 0)
function setShift(k: number, centimetres: number): void {
  if (!prop.value) return
  const { shift: was, ...carry } = prop.value.carry
  const next = [...(was ?? [0, 0, 0])] as Vec3
  next[k] = centimetres / (100 * long.value)
  props.setCarry(`Move ${prop.value.name}`, next.some(v => v !== 0) ? { ...carry, shift: next } : carry)
}
const angles = computed(() =>
  toEulerYXZ([...(prop.value?.carry.turn ?? [0, 0, 0, 1])] as Quat).map(v => (v * 180) / Math.PI),
)
function setTurn(k: number, degrees: number): void {
  if (!prop.value) return
  const { turn: _, ...carry } = prop.value.carry
  const each = [...angles.value]
  each[k] = degrees
  const [x, y, z] = each.map(v => (v * Math.PI) / 180) as Vec3
  props.setCarry(
    `Turn ${prop.value.name}`,
    each.some(v => v !== 0) ? { ...carry, turn: fromEuler(x, y, z, 'YXZ') } : carry,
  )
}
function setBack(): void {
  if (!prop.value) return
  const { shift: _, turn: __, ...carry } = prop.value.carry
  props.setCarry(`Set ${prop.value.name} back`, carry)
}
const isMoved = computed(() => prop.value?.carry.shift !== undefined || prop.value?.carry.turn !== undefined)
/** The joint chosen in the list, where it does not carry the prop already. */
const other = computed(() => {
  const h = handles.one.value
  return h && h.kind !== 'figure' && h.ref !== prop.value?.carry.by ? h.ref : undefined
})
function ontoChosen(): void {
  if (!prop.value || !other.value) return
  const grip = prop.value.carry.grip ?? thing.value?.places.find(p => !p.pivot)?.id
  const carry = { by: other.value, ...(grip && { grip }) }
  props.setCarry(`${prop.value.name}: carried by ${props.nameOf(other.value).toLowerCase()}`, carry)
}
const own = (p: PropPlace): boolean => prop.value?.places?.some(o => o.id === p.id) === true
const off = computed(() => posing.propOff.value.get(prop.value?.id ?? '') ?? 0)
const words = (id: string): string => {
  const p = props.list.value.find(o => o.id === id)!
  const { by, second } = p.carry
  return second
    ? `${props.nameOf(by)} and ${props.nameOf(second.by).toLowerCase()}`
    : by === GROUND
      ? 'on the ground'
      : props.nameOf(by)
}
</script>

<template>
  <BenchHead title="Props" sentence="What the figure carries: each a file of its own, held by places on it." />
  <WorkProgress step="props" what="Reading the props" />
  <div v-if="!derived.skeleton || !derived.skin" class="card quiet">Props come with the skin.</div>
  <template v-else>
    <div class="card" data-testid="props">
      <h3>Props</h3>
      <p v-if="props.list.value.length === 0" class="quiet pb-1">
        None yet. Bring in a file: it stays as it came, and goes along in every take.
      </p>
      <div
        v-for="p in props.list.value"
        :key="p.id"
        class="flex items-center gap-1 border-l-2 py-0.5 pl-1.5"
        :class="p.id === prop?.id ? 'border-madder bg-paper-2' : 'border-transparent'"
        :data-prop="p.name"
      >
        <button class="min-w-0 flex-1 truncate text-left" @click="props.chosen.value = p.id">
          {{ p.name }} <span class="quiet ml-1.5 text-xs">{{ words(p.id) }}</span>
        </button>
        <button class="press !px-1" :aria-label="`Remove ${p.name}`" title="Remove" @click="props.remove(p.id)">
          <X :size="13" />
        </button>
      </div>
      <div class="flex flex-wrap gap-2 pt-1.5">
        <button class="press" data-testid="bring-prop" @click="files.pickProp()">Bring in a file</button>
        <button
          v-for="o in offered"
          :key="o.file"
          class="press"
          :data-offered="o.name"
          title="Comes with the program"
          @click="files.addDemoProp(o)"
        >
          {{ o.name }}
        </button>
      </div>
    </div>
    <template v-if="prop">
      <div class="card" data-testid="carry">
        <TextField
          class="field mb-1"
          aria-label="Name of the prop"
          :value="prop.name"
          @change="props.change('Name a prop', prop!.id, { name: $event.trim() || prop!.name })"
        />
        <CarryFields :carry="prop.carry" :places="thing?.places ?? []" @change="(c, name) => props.setCarry(name, c)" />
        <button
          v-if="other"
          class="press mt-1"
          title="The joint that is chosen in the list carries it"
          data-testid="onto-joint"
          @click="ontoChosen()"
        >
          Onto {{ props.nameOf(other).toLowerCase() }}
        </button>
        <p v-if="off > 0.002" class="text-xs text-madder" data-testid="grip-off">
          A hand stays {{ (100 * off).toFixed(1) }} cm off its place.
        </p>
      </div>
      <div class="card" data-testid="prop-place">
        <h3>How it lies</h3>
        <ChoiceRow v-model="way" label="Dragging" :options="WAYS" />
        <SelectRow
          v-if="way === 'turn'"
          v-model="about"
          label="About"
          :options="(thing?.places ?? []).map(p => ({ value: p.id, label: p.name }))"
        />
        <NumberField
          v-for="[text, k] in inHand ? IN_HAND : MOVES"
          :key="text"
          :label="text"
          :value="shift(k)"
          unit="cm"
          :step="0.5"
          @change="setShift(k, $event)"
        />
        <NumberField
          v-for="[text, k] in TURNS"
          :key="text"
          :label="text"
          :value="angles[k]!"
          unit="°"
          :step="1"
          @change="setTurn(k, $event)"
        />
        <button class="press mt-1" :disabled="!isMoved" @click="setBack()">As its place tells</button>
      </div>
      <div class="card" data-testid="prop-mass">
        <h3>Size and mass</h3>
        <NumberField
          label="A unit of its file is"
          :value="100 * (prop.scale ?? 1)"
          unit="cm"
          :step="1"
          :digits="2"
          @change="props.change(`Size of ${prop!.name}`, prop!.id, { scale: Math.max(1e-4, $event / 100) })"
        />
        <NumberField
          label="Mass"
          :value="thing?.mass ?? 0"
          unit="kg"
          :step="0.1"
          :digits="2"
          @change="props.change(`Mass of ${prop!.name}`, prop!.id, { mass: Math.max(0, $event) })"
        />
        <p v-if="thing && !thing.massTold" class="quiet text-xs">
          As much wood as its surface encloses, {{ (1000 * thing.volume).toFixed(2) }} l.
        </p>
        <button
          v-else
          class="press mt-1"
          @click="props.change(`Mass of ${prop!.name} by its volume`, prop!.id, { mass: undefined })"
        >
          As its volume weighs
        </button>
      </div>
      <div class="card" data-testid="prop-places">
        <h3>Places on it</h3>
        <p
          v-for="l in props.lost.value"
          :key="l"
          class="border-l-2 border-madder pl-2"
          role="alert"
          data-testid="lost-part"
        >
          “{{ l }}” is no longer there: it is held by its shaft, or hangs where it hung.
        </p>
        <div v-for="p in thing?.places ?? []" :key="p.id" class="flex items-center gap-1 py-0.5" :data-place="p.name">
          <TextField
            class="field min-w-0 flex-1"
            aria-label="Name of the place"
            :value="p.name"
            @change="props.setPlace('Name a place', { ...p, name: $event.trim() || p.name })"
          />
          <span class="num w-16 text-right text-xs" title="Half across">{{
            p.pivot ? '' : `${(100 * (p.thick ?? 0)).toFixed(1)} cm`
          }}</span>
          <button
            class="press !px-1.5 text-xs"
            :aria-pressed="p.pivot !== true"
            title="Hands may hold it there, or it is only turned about"
            @click="props.setPlace('Use of a place', { ...p, pivot: p.pivot ? undefined : true })"
          >
            {{ p.pivot ? 'turns' : 'held' }}
          </button>
          <button
            v-if="own(p)"
            class="press !px-1"
            :aria-label="`Set ${p.name} back`"
            title="Remove, or set back to the file's"
            @click="props.removePlace(p.id)"
          >
            <X :size="13" />
          </button>
        </div>
        <button class="press mt-1.5" :aria-pressed="marking" data-testid="mark-place" @click="marking = !marking">
          <Crosshair :size="13" class="mr-1 inline" />{{ marking ? 'Press on the prop' : 'New place' }}
        </button>
      </div>
    </template>
  </template>
  <div class="bench-foot">
    <button class="press press-main" @click="view.go('takes')">Go on to motion</button>
  </div>
</template>
