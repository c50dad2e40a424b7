<script setup lang="ts">
import { GROUND, type Carry, type PropPlace } from '@chiraxis/core/props'

/** What carries a prop, by which place, and the hand that holds on as a second one. */
const props = defineProps<{ carry: Carry; places: readonly PropPlace[] }>()
const emit = defineEmits<{ change: [carry: Carry, name: string] }>()
const { carriers, hands, nameOf, prop } = useProps()
const grips = computed(() => props.places.filter(p => !p.pivot))
const gripOptions = computed(() => grips.value.map(g => ({ value: g.id, label: g.name })))
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
</script>

<template>
  <SelectRow
    label="Carried by"
    :model-value="carry.by"
    :options="[
      ...(carriers.some(c => c.by === carry.by) ? [] : [{ value: carry.by, label: `${carry.by} (not there)` }]),
      ...carriers.map(c => ({ value: c.by, label: c.label })),
    ]"
    @update:model-value="by"
  />
  <SelectRow
    v-if="carry.by !== GROUND && grips.length > 0"
    :label="inHand ? 'Held at' : 'Hangs by'"
    :model-value="carry.grip ?? ''"
    :options="[{ value: '', label: 'its origin' }, ...gripOptions]"
    @update:model-value="set('held elsewhere', { grip: $event || undefined })"
  />
  <template v-if="carry.by !== GROUND && others.length > 0 && grips.length > 0">
    <SelectRow
      label="Second hand"
      :model-value="carry.second?.by ?? ''"
      :options="[{ value: '', label: 'none' }, ...others.map(h => ({ value: h, label: nameOf(h) }))]"
      @update:model-value="second"
    />
    <template v-if="carry.second">
      <SelectRow
        label="It holds"
        :model-value="carry.second.grip"
        :options="gripOptions"
        @update:model-value="set('second hand elsewhere', { second: { by: carry.second!.by, grip: $event } })"
      />
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
