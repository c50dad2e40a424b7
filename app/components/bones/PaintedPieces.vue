<script setup lang="ts">
import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/vue'
import { Check, ChevronDown } from '@lucide/vue'

/** Which pieces repairs keep to, and weights copied from one piece to another. */
const view = useView()
const derived = useDerived()
const brush = useWeightBrush()

const names = computed(() => derived.shape?.mesh.parts.filter(p => p.count > 0).map(p => p.name) ?? [])
const painted = computed({
  get: () => view.paintedPieces.filter(n => names.value.includes(n)),
  set: list => (view.paintedPieces = list),
})
const words = computed(() =>
  painted.value.length === 0
    ? 'all pieces'
    : painted.value.length === 1
      ? painted.value[0]
      : `${painted.value.length} pieces`,
)
const from = ref('')
const to = ref('')
watch(
  names,
  list => {
    if (!list.includes(from.value)) from.value = list[0] ?? ''
    if (!list.includes(to.value)) to.value = list[1] ?? ''
  },
  { immediate: true },
)
</script>

<template>
  <div v-if="names.length > 1" class="card">
    <h3>Pieces</h3>
    <Listbox v-model="painted" multiple as="div" class="relative">
      <div class="flex items-center justify-between gap-3">
        <span>Repairs change</span>
        <ListboxButton
          class="field !w-[180px] flex items-center justify-between text-left"
          data-testid="painted-pieces"
          aria-label="Repairs change"
          ><span class="truncate">{{ words }}</span
          ><ChevronDown :size="14"
        /></ListboxButton>
      </div>
      <ListboxOptions
        class="absolute right-0 z-20 mt-1 max-h-60 w-[220px] overflow-auto rounded border border-rule bg-paper py-1 shadow"
      >
        <ListboxOption v-for="n in names" :key="n" v-slot="{ active, selected }" :value="n" as="template">
          <li class="flex cursor-pointer items-center gap-2 px-2 py-1" :class="active ? 'bg-paper-2' : ''">
            <Check :size="13" :class="selected ? '' : 'invisible'" /><span class="truncate">{{ n }}</span>
          </li>
        </ListboxOption>
      </ListboxOptions>
    </Listbox>
    <p v-if="painted.length > 0" class="quiet mt-1 flex items-center gap-2 text-xs">
      <span class="flex-1">Strokes, fills, smoothing and pruning leave all others as they are.</span>
      <button class="press" @click="painted = []">All</button>
    </p>
    <div class="mt-3 grid grid-cols-[1fr_auto_1fr] items-center gap-1.5">
      <select v-model="from" class="field" aria-label="Copy weights from" data-testid="carry-from">
        <option v-for="n in names" :key="n" :value="n">{{ n }}</option></select
      ><span class="quiet">onto</span
      ><select v-model="to" class="field" aria-label="Copy weights onto" data-testid="carry-to">
        <option v-for="n in names" :key="n" :value="n">{{ n }}</option>
      </select>
    </div>
    <button
      class="press mt-2"
      data-testid="carry"
      :disabled="from === to"
      @click="brush.add([{ kind: 'carry', from: [from], to: [to] }])"
    >
      Copy weights
    </button>
  </div>
</template>
