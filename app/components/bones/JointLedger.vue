<script setup lang="ts">
import { roleLabel } from '@chiraxis/core/body'
import { jointSide } from '@chiraxis/core/skeleton'

const derived = useDerived()
const chosen = useChosen()
const props = defineProps<{ query: string }>()
/** The mark tells the side of a finger; its name is long enough without. */
const bare = (label: string): string =>
  /(thumb|index|middle|ring|little) /.test(label)
    ? label.replace(/^(Left|Right) (.)/, (_, _s, c: string) => c.toUpperCase())
    : label
const rows = computed(() => {
  const s = derived.skeleton
  if (!s) return []
  const children: number[][] = s.names.map(() => [])
  s.parents.forEach((p, j) => {
    if (p >= 0) children[p]!.push(j)
  })
  const out: { j: number; depth: number; label: string; side: 'left' | 'right' | 'middle' }[] = []
  const visit = (j: number, depth: number): void => {
    out.push({
      j,
      depth,
      label: s.roles[j] ? bare(roleLabel(s.roles[j]!)) : s.names[j]!,
      side: jointSide(s, j),
    })
    // only branches indent, so that a long limb stays readable in a narrow column
    for (const c of children[j]!) visit(c, depth + (children[j]!.length > 1 ? 1 : 0))
  }
  s.parents.forEach((p, j) => {
    if (p < 0) visit(j, 0)
  })
  return out.filter(r => !props.query || r.label.toLowerCase().includes(props.query.toLowerCase()))
})
</script>

<template>
  <h2 class="quiet px-3.5 pb-1 text-xs font-semibold">
    Joints <span class="num">{{ rows.length }}</span>
    <span v-if="chosen.many" class="float-right font-normal"
      ><span class="num">{{ chosen.joints.length }}</span> chosen</span
    >
  </h2>
  <p v-if="rows.length === 0" class="quiet px-3.5">No joints yet. They are built from the landmarks.</p>
  <VirtualRows v-slot="{ row: r }" :rows="rows" :size="24" :key-of="r => r.j">
    <button
      class="flex w-full items-center gap-2 border-l-2 py-[2px] pr-3 text-left"
      :style="{ paddingLeft: `${10 + r.depth * 12}px` }"
      :data-ledger="r.j"
      :aria-current="derived.joint === r.j || undefined"
      :class="
        derived.joint === r.j
          ? 'border-madder bg-paper-2 font-semibold'
          : chosen.isAlso(r.j)
            ? 'border-madder bg-paper-2'
            : 'border-transparent hover:bg-paper-2'
      "
      :aria-pressed="chosen.joints.includes(r.j)"
      @click="
        chosen.press(
          r.j,
          $event,
          rows.map(x => x.j),
        )
      "
    >
      <SideIcon :side="r.side" /><span class="truncate">{{ r.label }}</span>
    </button>
  </VirtualRows>
</template>
