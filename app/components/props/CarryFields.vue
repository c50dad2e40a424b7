<script setup lang="ts">
import { GROUND, type Carry, type PropPlace } from '@chiraxis/core/props'
import { partnerOf } from '@chiraxis/core/body'

/** What carries a prop, by which place, and the hand that holds on as a second one. */
const props = defineProps<{ carry: Carry; places: readonly PropPlace[] }>()
const emit = defineEmits<{ change: [carry: Carry, name: string] }>()
const { carriers, hands, nameOf, prop } = useProps()
const grips = computed(() => props.places.filter(p => !p.pivot))
const inHand = computed(() => hands.value.includes(props.carry.by))
/** Carried by something else it lies as it usually does there. */
function by(joint: string): void {
  const { grip, second, open, loose } = props.carry
  const isHand = hands.value.includes(joint)
  const next: Carry = {
    by: joint,
    ...(isHand && (grip ?? grips.value[0]?.id) && { grip: grip ?? grips.value[0]!.id }),
    ...(isHand && second && second.by !== joint && { second }),
    ...(open && { open }),
    ...(loose && { loose }),
  }
  emit('change', next, `${prop.value?.name}: carried by ${nameOf(joint).toLowerCase()}`)
}
function set(name: string, next: Partial<Record<keyof Carry, unknown>>): void {
  const all = { ...props.carry, ...next } as Record<string, unknown>
  for (const [k, v] of Object.entries(all)) if (v === undefined) delete all[k]
  emit('change', all as unknown as Carry, `${prop.value?.name}: ${name}`)
}
const others = computed(() => hands.value.filter(h => h !== props.carry.by))
function second(joint: string): void {
  if (!joint) return set('one hand', { second: undefined, aim: undefined })
  const free = grips.value.find(g => g.id !== props.carry.grip) ?? grips.value[0]
  if (free) set('two hands', { second: { by: joint, grip: props.carry.second?.grip ?? free.id } })
}
const partner = computed(() => (props.carry.second ? props.carry.second.by : partnerOf(props.carry.by)))
</script>

<template>
  <div class="flex items-center justify-between py-0.5">
    <span>Carried by</span>
    <select
      class="field !w-36"
      aria-label="Carried by"
      :value="carry.by"
      @change="by(($event.target as HTMLSelectElement).value)"
    >
      <option v-if="!carriers.some(c => c.by === carry.by)" :value="carry.by">{{ carry.by }} (not there)</option>
      <option v-for="c in carriers" :key="c.by" :value="c.by">{{ c.label }}</option>
    </select>
  </div>
  <div v-if="carry.by !== GROUND && grips.length > 0" class="flex items-center justify-between py-0.5">
    <span>{{ inHand ? 'Held at' : 'Hangs by' }}</span>
    <select
      class="field !w-36"
      aria-label="Held at"
      :value="carry.grip ?? ''"
      @change="set('held elsewhere', { grip: ($event.target as HTMLSelectElement).value || undefined })"
    >
      <option value="">its origin</option>
      <option v-for="g in grips" :key="g.id" :value="g.id">{{ g.name }}</option>
    </select>
  </div>
  <template v-if="carry.by !== GROUND && others.length > 0 && grips.length > 0">
    <div class="flex items-center justify-between py-0.5">
      <span>Second hand</span>
      <select
        class="field !w-36"
        aria-label="Second hand"
        :value="carry.second?.by ?? ''"
        @change="second(($event.target as HTMLSelectElement).value)"
      >
        <option value="">none</option>
        <option v-for="h in others" :key="h" :value="h">{{ nameOf(h) }}</option>
      </select>
    </div>
    <template v-if="carry.second">
      <div class="flex items-center justify-between py-0.5">
        <span>It holds</span>
        <select
          class="field !w-36"
          aria-label="It holds"
          :value="carry.second.grip"
          @change="
            set('second hand elsewhere', {
              second: { by: partner, grip: ($event.target as HTMLSelectElement).value },
            })
          "
        >
          <option v-for="g in grips" :key="g.id" :value="g.id">{{ g.name }}</option>
        </select>
      </div>
      <SwitchRow
        v-if="inHand && carry.grip"
        label="Points from hand to hand"
        :model-value="carry.aim === 'between'"
        @update:model-value="
          set($event ? 'between both hands' : 'turned by its hand', { aim: $event ? 'between' : undefined })
        "
      />
    </template>
  </template>
  <SwitchRow
    v-if="carry.second"
    label="Hands are brought to it"
    :model-value="carry.loose !== true"
    @update:model-value="set($event ? 'hands are brought' : 'hands stay', { loose: $event ? undefined : true })"
  />
  <SwitchRow
    v-if="inHand || carry.second"
    label="Fingers close around it"
    :model-value="carry.open !== true"
    @update:model-value="set($event ? 'fingers close' : 'fingers as they are', { open: $event ? undefined : true })"
  />
</template>
