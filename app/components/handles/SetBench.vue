<script setup lang="ts">
import { X } from '@lucide/vue'

/** The figure's handles: which there are, how they look, what is chosen together. */
const view = useView()
const handles = useHandles()
const { picked } = handles
const edit = computed(() => {
  const h = picked.value[0]
  return (h && handles.choices.value.shapes?.[h.id]) ?? {}
})
const AXES = [
  ['To its left', 0],
  ['Up', 1],
  ['Ahead', 2],
] as const
function offset(k: 0 | 1 | 2, cm: number): void {
  const next: [number, number, number] = [...(edit.value.offset ?? [0, 0, 0])]
  next[k] = cm / 100
  handles.editShape({ offset: next })
}
const TURNS = [
  ['About its left', 0],
  ['About up', 1],
  ['About ahead', 2],
] as const
function turn(k: 0 | 1 | 2, degrees: number): void {
  const next: [number, number, number] = [...(edit.value.turn ?? [0, 0, 0])]
  next[k] = (degrees * Math.PI) / 180
  handles.editShape({ turn: next })
}
const name = ref('')
function addGroup(): void {
  handles.addGroup(name.value)
  name.value = ''
}
const canMirror = computed(() => picked.value.some(h => handles.partnerId(h) !== undefined))
</script>

<template>
  <BenchHead
    title="Handles"
    sentence="What the figure is pulled by, drawn from its own outline. Done when all you pull is easy to find."
  />
  <WorkProgress step="handles" what="Finding the handles" />
  <template v-if="handles.body.value">
    <HandleChart />
    <div class="card" data-testid="handle-shape">
      <h3>{{ picked.length === 0 ? 'Shape' : handles.namesOf(picked) }}</h3>
      <p v-if="picked.length === 0" class="quiet">Choose a handle to change how it looks.</p>
      <template v-else>
        <SliderRow
          label="Size"
          :value="Math.round(100 * (edit.grow ?? 1))"
          :min="40"
          :max="300"
          :step="1"
          :digits="0"
          unit="%"
          @change="(v, joins) => handles.editShape({ grow: v / 100 }, joins)"
        />
        <NumberField
          v-for="[text, k] in AXES"
          :key="k"
          :label="text"
          :value="100 * (edit.offset?.[k] ?? 0)"
          unit="cm"
          :step="0.5"
          @change="offset(k, $event)"
        />
        <NumberField
          v-for="[text, k] in TURNS"
          :key="text"
          :label="text"
          :value="((edit.turn?.[k] ?? 0) * 180) / Math.PI"
          unit="°"
          :step="5"
          @change="turn(k, $event)"
        />
        <div class="flex flex-wrap gap-2 pt-1.5">
          <button
            class="press"
            data-testid="hide-handle"
            @click="handles.editShape({ hidden: edit.hidden ? undefined : true })"
          >
            {{ edit.hidden ? 'Show' : 'Hide' }}
          </button>
          <button class="press" :disabled="!canMirror" @click="handles.shapesToOtherSide()">
            Copy to the other side
          </button>
          <button class="press" @click="handles.setBackShapes()">The body's own</button>
        </div>
      </template>
      <button v-if="handles.hiddenCount.value > 0" class="press mt-2" @click="handles.showAll()">
        Show all ({{ handles.hiddenCount.value }} hidden)
      </button>
    </div>
    <LimbCard />
    <div class="card" data-testid="groups">
      <h3>Chosen together</h3>
      <div v-for="g in handles.groups.value" :key="g.id" class="flex items-center gap-2 py-0.5">
        <button class="min-w-0 flex-1 truncate text-left hover:underline" @click="handles.choose(g.handles)">
          {{ g.name }} <span class="quiet num text-xs">{{ g.handles.length }}</span>
        </button>
        <select
          class="field num !w-14"
          :value="g.key ?? ''"
          :aria-label="`Key of ${g.name}`"
          @change="handles.editGroup(g.id, { key: ($event.target as HTMLSelectElement).value || undefined })"
        >
          <option value="">no key</option>
          <option v-for="k in ['4', '5', '6', '7', '8', '9']" :key="k" :value="k">{{ k }}</option>
        </select>
        <button
          class="p-0.5 text-ink-2 hover:text-ink"
          :aria-label="`Remove ${g.name}`"
          @click="handles.removeGroup(g.id)"
        >
          <X :size="13" />
        </button>
      </div>
      <div class="flex gap-2 pt-1">
        <input
          v-model="name"
          class="field"
          maxlength="100"
          placeholder="Name"
          aria-label="Name of the group"
          @keydown.enter="addGroup"
        />
        <button class="press" :disabled="picked.length === 0" data-testid="add-group" @click="addGroup">Keep</button>
      </div>
    </div>
    <div v-if="handles.lost.value.length > 0" class="card">
      <h3>Not on this figure</h3>
      <p class="quiet">
        Kept for when their joints are back: {{ handles.lost.value.slice(0, 8).join(', ')
        }}{{ handles.lost.value.length > 8 ? ' …' : '' }}
      </p>
    </div>
  </template>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!handles.body.value" @click="view.go('pose')">Go on to posing</button>
  </div>
</template>
