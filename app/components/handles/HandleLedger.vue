<script setup lang="ts">
import { capital } from '@chiraxis/core/words'
import type { Handle } from '@chiraxis/core/handles'
import { EyeOff } from '@lucide/vue'
import { LIMB_GROUPS } from '~/components/motion/limbs'

/** Every handle of the figure, limb by limb. */
const props = defineProps<{ query: string }>()
const derived = useDerived()
const handles = useHandles()
const rows = computed(() => {
  const wanted = props.query.trim().toLowerCase()
  const list = handles.all.value.filter(
    h =>
      (handles.hidden(h) || handles.shown.value.includes(h) || h.minor) &&
      (!wanted || handles.labelOf(h).toLowerCase().includes(wanted)),
  )
  const groups = LIMB_GROUPS.map(g => ({
    label: g.label,
    own: list.filter(h => h.kind !== 'figure' && derived.skeleton?.roles[h.joint] && g.holds(h.ref)),
  }))
  const placed = new Set(groups.flatMap(g => g.own))
  return [
    { label: '', own: list.filter(h => h.kind === 'figure') },
    ...groups,
    { label: 'Other joints', own: list.filter(h => h.kind !== 'figure' && !placed.has(h)) },
  ].filter(g => g.own.length > 0)
})
const short = (h: Handle): string => {
  const words = handles.labelOf(h).replace(/^(Left|Right) ((front|hind) )?/, '')
  return capital(words)
}
/** Fingers are many: they are listed where one of them is chosen or looked for. */
const folded = ref(new Set(['Left fingers', 'Right fingers', 'Other joints']))
function fold(label: string): void {
  const next = new Set(folded.value)
  if (!next.delete(label)) next.add(label)
  folded.value = next
}
const isOpen = (label: string, own: readonly Handle[]): boolean =>
  !folded.value.has(label) || props.query !== '' || own.some(h => handles.chosen.value.includes(h.id))
</script>

<template>
  <div v-if="!handles.body.value" class="quiet px-3.5 py-2">Handles come with the skin.</div>
  <div v-for="g in rows" :key="g.label">
    <button
      v-if="g.label"
      class="flex w-full justify-between px-3.5 pb-0.5 pt-2 text-left font-semibold"
      :aria-expanded="isOpen(g.label, g.own)"
      @click="fold(g.label)"
    >
      {{ g.label }}<span class="quiet num text-xs font-normal">{{ isOpen(g.label, g.own) ? '' : g.own.length }}</span>
    </button>
    <template v-if="isOpen(g.label, g.own)">
      <LedgerRow
        v-for="h in g.own"
        :key="h.id"
        class="gap-1.5 py-[3px] pl-3 pr-2"
        :chosen="handles.chosen.value.includes(h.id)"
        :data-row="h.id"
        @click="handles.choose([h.id], $event.shiftKey || $event.ctrlKey || $event.metaKey)"
      >
        <SideIcon :side="h.side" />
        <span class="min-w-0 flex-1 truncate">{{
          g.label && g.label !== 'Trunk' ? short(h) : handles.labelOf(h)
        }}</span>
        <EyeOff v-if="handles.hidden(h)" :size="12" class="text-ink-2" aria-label="hidden" />
      </LedgerRow>
    </template>
  </div>
</template>
