<script setup lang="ts">
import { Eye, EyeOff } from '@lucide/vue'
import type { ShownPiece } from '~/composables/usePieces'

const view = useView()
const { pieces, tell } = usePieces()
const WORDS = {
  body: '',
  rigid: 'rigid',
  garment: 'garment',
  strips: 'loose strips',
  appendage: 'appendage',
  'left-out': 'left out',
} as const
/** What is told of a piece beside its name; a guess says that it is one. */
const wordsFor = (p: ShownPiece): string => {
  const word = p.role ? WORDS[p.role] : ''
  if (p.told || !p.guess || p.guess.kind === 'body') return word
  return p.role && p.role !== 'body' ? `${kindLabel(p.guess)}, ${word}` : `${kindLabel(p.guess)}?`
}
watch(
  pieces,
  list => {
    if (!list.some(p => p.name === view.piece)) view.piece = list[0]?.name
  },
  { immediate: true },
)
const toggle = (p: ShownPiece): void =>
  tell(p.hidden ? `Show ${p.label}` : `Hide ${p.label}`, [p.name], { hidden: !p.hidden })
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
      :aria-current="view.piece === p.name || undefined"
      :class="p.role === 'left-out' ? 'line-through opacity-60' : ''"
      @click="view.piece = p.name"
    >
      <span class="block truncate">{{ p.label }}</span>
      <span v-if="wordsFor(p)" class="quiet block text-xs font-normal">{{ wordsFor(p) }}</span>
    </button>
    <button
      class="p-1 text-ink-2 hover:text-ink"
      :aria-label="p.hidden ? `Show ${p.label}` : `Hide ${p.label}`"
      :title="p.hidden ? 'Show' : 'Hide'"
      @click="toggle(p)"
    >
      <EyeOff v-if="p.hidden" :size="14" /><Eye v-else :size="14" />
    </button>
  </div>
</template>
