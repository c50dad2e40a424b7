<script setup lang="ts">
import { Eye, EyeOff } from '@lucide/vue'

const view = useView()
const derived = useDerived()
const project = useProject()
const WORDS = { body: '', rigid: 'rigid', garment: 'garment', appendage: 'appendage', 'left-out': 'left out' }
const pieces = computed(() => (derived.shape?.pieces ?? []).map(p => ({ ...p, choice: project.recipe.pieces[p.name] })))
watch(
  pieces,
  list => {
    if (!list.some(p => p.name === view.piece)) view.piece = list[0]?.name
  },
  { immediate: true },
)
function toggle(name: string): void {
  const own = project.recipe.pieces[name] ?? { role: 'body' as const }
  project.change(own.hidden ? `Show ${own.label ?? name}` : `Hide ${own.label ?? name}`, {
    ...project.recipe,
    pieces: { ...project.recipe.pieces, [name]: { ...own, hidden: !own.hidden } },
  })
}
</script>

<template>
  <h2 class="quiet px-3.5 pb-1 text-xs font-semibold">
    Pieces <span class="num">{{ pieces.length }}</span>
  </h2>
  <div
    v-for="p in pieces"
    :key="p.name"
    class="flex items-center border-l-2 pr-2"
    :data-piece="p.name"
    :class="view.piece === p.name ? 'border-madder bg-paper-2 font-semibold' : 'border-transparent hover:bg-paper-2'"
  >
    <button
      class="min-w-0 flex-1 py-[3px] pl-3 text-left"
      :class="p.choice?.role === 'left-out' ? 'line-through opacity-60' : ''"
      @click="view.piece = p.name"
    >
      <span class="block truncate">{{ p.choice?.label ?? p.name }}</span>
      <span v-if="WORDS[p.choice?.role ?? 'body']" class="quiet block text-xs font-normal">{{
        WORDS[p.choice?.role ?? 'body']
      }}</span>
    </button>
    <button
      class="p-1 text-ink-2 hover:text-ink"
      :aria-label="p.choice?.hidden ? `Show ${p.name}` : `Hide ${p.name}`"
      :title="p.choice?.hidden ? 'Show' : 'Hide'"
      @click="toggle(p.name)"
    >
      <EyeOff v-if="p.choice?.hidden" :size="14" /><Eye v-else :size="14" />
    </button>
  </div>
</template>
