<script setup lang="ts">
import type { Arrival } from '@chiraxis/core/steps'
import { jointRef } from '@chiraxis/core/skeleton'

const files = useFiles()
const arrived = files.arrived
const derived = useDerived()
const chosen = ref<Arrival>('figure')
/** What an appendage hangs on, and what stands before its names. */
const joint = ref('')
const prefix = ref('')
const joints = computed(() =>
  (derived.skeleton?.names ?? []).map((_, j) => ({
    ref: jointRef(derived.skeleton!, j),
    label: jointLabel(derived.skeleton, j),
  })),
)
const left = reactive(new Set<number>())
watch(
  arrived,
  a => {
    if (a) chosen.value = a.guess.likely
    joint.value = derived.skeleton ? jointRef(derived.skeleton, derived.joint) : ''
    prefix.value = a ? `${fileStem(a.name.replace(/\.[^.]*$/, ''))}_` : ''
    left.clear()
  },
  { immediate: true },
)
const options = computed<{ value: Arrival; label: string; hint: string; off?: boolean }[]>(() => [
  {
    value: 'version',
    label: 'A new version of this body',
    hint: 'Everything done by hand stays; what no longer fits is told.',
  },
  { value: 'figure', label: 'Another figure', hint: 'Becomes a project of its own, with the takes of this one.' },
  {
    value: 'clips',
    label: 'Motion for this figure',
    hint: 'Its takes come in, its body does not.',
    off: !arrived.value?.received.takes.length,
  },
  { value: 'piece', label: 'A piece for this figure', hint: 'Is put on where it lies in its own file.' },
  {
    value: 'appendage',
    label: 'An appendage with joints of its own',
    hint: 'A tail, an ear, a cable: attached to a joint, moved by its own skin.',
    off: !arrived.value?.received.hasSkeleton || !arrived.value?.received.hasMesh,
  },
  {
    value: 'skeleton',
    label: 'A skeleton for this body',
    hint: 'Is laid on it exactly as it is: joints, names and axes.',
    off: !arrived.value?.received.hasSkeleton,
  },
])
const takes = computed(() => arrived.value?.received.takes ?? [])
function toggle(i: number): void {
  if (left.has(i)) left.delete(i)
  else left.add(i)
}
</script>

<template>
  <div
    v-if="arrived"
    class="card border-l-4 border-l-madder"
    role="group"
    aria-label="A file came in"
    data-testid="arrival"
  >
    <h3 class="break-words">{{ arrived.name }}</h3>
    <p class="quiet mb-2">What is it? {{ arrived.guess.why }}</p>
    <label
      v-for="o in options"
      :key="o.value"
      class="flex gap-2 py-[3px]"
      :class="o.off ? 'opacity-50' : ''"
      :data-arrival="o.value"
      ><input
        v-model="chosen"
        type="radio"
        name="arrival"
        :value="o.value"
        :disabled="o.off"
        class="mt-[3px] accent-madder"
      /><span
        ><span class="block"
          >{{ o.label }}<span v-if="o.value === arrived.guess.likely" class="quiet text-xs"> · likely</span></span
        ><span class="quiet block text-xs">{{ o.hint }}</span></span
      ></label
    >
    <div v-if="chosen === 'appendage'" class="mt-2 border-t border-rule pt-2">
      <label class="flex items-center justify-between gap-3 py-1"
        ><span>Attached to</span
        ><select v-model="joint" class="field !w-[168px]" data-testid="attach-joint">
          <option v-for="j in joints" :key="j.ref" :value="j.ref">{{ j.label }}</option>
        </select></label
      >
      <label class="flex items-center justify-between gap-3 py-1"
        ><span>Before its names</span
        ><input v-model="prefix" class="field !w-[168px]" maxlength="40" data-testid="attach-prefix"
      /></label>
      <p v-if="takes.length > 0" class="quiet text-xs">Its own takes do not come along.</p>
    </div>
    <div v-if="chosen === 'clips' && takes.length > 1" class="mt-2 max-h-40 overflow-y-auto border-t border-rule pt-2">
      <label v-for="(t, i) in takes" :key="i" class="flex items-center gap-2 py-0.5"
        ><input type="checkbox" class="accent-madder" :checked="!left.has(i)" @change="toggle(i)" /><span
          class="min-w-0 flex-1 truncate"
          >{{ t.name }}</span
        ><span class="num quiet text-xs">{{ t.seconds.toFixed(1) }} s</span></label
      >
    </div>
    <div class="mt-3 flex gap-2">
      <button
        class="press press-main flex-1"
        data-testid="arrival-take"
        :disabled="(chosen === 'clips' && left.size === takes.length) || (chosen === 'appendage' && joint === '')"
        @click="files.settle(chosen, left, { joint, prefix })"
      >
        Bring it in
      </button>
      <button class="press" data-testid="arrival-aside" @click="files.putAside()">Not now</button>
    </div>
  </div>
</template>
