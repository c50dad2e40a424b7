<script setup lang="ts">
import { GROUND, type Carry } from '@chiraxis/core/props'

/** How a prop is carried in the take in play, from one moment to the next. */
const player = usePlayer()
const props = useProps()
const { prop, thing, keyNow } = props
const chosen = computed({ get: () => prop.value?.id ?? '', set: id => (props.chosen.value = id) })
const carry = computed<Carry | undefined>(() => keyNow.value ?? prop.value?.carry)
const when = computed(() =>
  keyNow.value ? `From ${player.toTake(keyNow.value.at).toFixed(2)} s` : 'As at rest, from the beginning',
)
/** The other hand takes it: the one that holds on already, where there is one. */
const next = computed(() => {
  const c = carry.value
  if (!c) return undefined
  const by = c.second?.by ?? props.hands.value.find(h => h !== c.by)
  const grip = c.second?.grip ?? c.grip ?? thing.value?.places.find(p => !p.pivot)?.id
  return by && { by, ...(grip && { grip }) }
})
const settle = (c: Carry): void =>
  keyNow.value ? props.changeKey(keyNow.value, withoutMissing(c)) : props.carryFromHere(c)
/** What the new way does not tell is told no more. */
const withoutMissing = (c: Carry): Partial<Carry> => ({
  grip: undefined,
  shift: undefined,
  turn: undefined,
  second: undefined,
  aim: undefined,
  open: undefined,
  loose: undefined,
  ...c,
})
</script>

<template>
  <div v-if="prop && carry" class="card" data-testid="prop-keys">
    <h3>Props</h3>
    <SelectRow
      v-if="props.list.value.length > 1"
      v-model="chosen"
      label="Prop"
      :options="props.list.value.map(p => ({ value: p.id, label: p.name }))"
    />
    <p v-else class="font-semibold">{{ prop.name }}</p>
    <p class="quiet text-xs" data-testid="carried-since">{{ when }}</p>
    <CarryFields :carry="carry" :places="thing?.places ?? []" @change="settle" />
    <NumberField
      v-if="keyNow && player.toTake(keyNow.at) > 0"
      label="Comes there within"
      :value="keyNow.over ?? 0.25"
      unit="s"
      :step="0.05"
      :digits="2"
      @change="props.changeKey(keyNow!, { over: Math.min(10, Math.max(0, $event)) })"
    />
    <div class="flex flex-wrap gap-2 pt-1.5">
      <button
        class="press"
        :disabled="carry.by === GROUND"
        data-testid="put-down"
        @click="props.carryFromHere({ by: GROUND })"
      >
        Put down here
      </button>
      <button v-if="next" class="press" data-testid="hand-over" @click="props.carryFromHere(next)">
        {{ carry.by === GROUND ? 'Take up here' : 'Into the other hand here' }}
      </button>
      <button v-if="keyNow" class="press" data-testid="remove-prop-key" @click="props.removeKey(keyNow)">
        As before
      </button>
    </div>
    <p v-if="props.offNow.value.most > 0.002" class="pt-1 text-xs text-madder" data-testid="prop-off">
      A hand stays up to {{ (100 * props.offNow.value.most).toFixed(1) }} cm off its place,
      {{ (100 * props.offNow.value.now).toFixed(1) }} cm here.
    </p>
  </div>
</template>
