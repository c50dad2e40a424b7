<script setup lang="ts">
import { maxOf } from '@chiraxis/core/math'
import { Lock, LockOpen } from '@lucide/vue'
import { jointRef, jointSide } from '@chiraxis/core/skeleton'
import { roleLabel } from '@chiraxis/core/body'
import { jointCss } from '~/composables/useJointColors'

/** Joints with the share of the body each holds; locked ones keep it. */
const props = defineProps<{ query: string }>()
const view = useView()
const derived = useDerived()
const held = computed(() => {
  const { skin, skeleton } = derived
  const out = new Float64Array(skeleton?.names.length ?? 0)
  if (!skin) return out
  let all = 0
  for (let i = 0; i < skin.joints.length; i++) {
    out[skin.joints[i]!]! += skin.weights[i]!
    all += skin.weights[i]!
  }
  return out.map(x => (all > 0 ? x / all : 0))
})
/** The mark tells the side. */
const bare = (label: string): string => label.replace(/^(Left|Right) (.)/, (_, _s, c: string) => c.toUpperCase())
const rows = computed(() => {
  const s = derived.skeleton
  if (!s) return []
  const most = maxOf(held.value, 1e-9)
  return s.names
    .map((n, j) => ({
      j,
      ref: jointRef(s, j),
      label: s.roles[j] ? bare(roleLabel(s.roles[j]!)) : n,
      side: jointSide(s, j),
      share: held.value[j]!,
      bar: held.value[j]! / most,
    }))
    .filter(r => !props.query || r.label.toLowerCase().includes(props.query.toLowerCase()))
})
const isLocked = (r: string): boolean => view.locked.includes(r)
const toggle = (r: string): void => {
  view.locked = isLocked(r) ? view.locked.filter(x => x !== r) : [...view.locked, r]
}
const others = computed(() => rows.value.filter(r => r.j !== derived.joint).map(r => r.ref))
const alone = computed(() => others.value.length > 0 && others.value.every(isLocked))
</script>

<template>
  <div class="flex items-center gap-2 px-3.5 pb-1">
    <h2 class="quiet flex-1 text-xs font-semibold">
      Joints <span class="num">{{ rows.length }}</span>
    </h2>
    <button
      v-if="view.skinMode === 'repair'"
      class="text-xs text-ink-2 underline-offset-2 hover:underline"
      @click="view.locked = alone || view.locked.length > 0 ? [] : others"
    >
      {{ view.locked.length > 0 ? 'Unlock all' : 'Lock others' }}
    </button>
  </div>
  <p v-if="rows.length === 0" class="quiet px-3.5">No joints yet. They are built from the landmarks.</p>
  <div
    v-for="r in rows"
    :key="r.j"
    class="flex items-center border-l-2 pr-1.5"
    :class="derived.joint === r.j ? 'border-madder bg-paper-2 font-semibold' : 'border-transparent hover:bg-paper-2'"
  >
    <button
      class="flex min-w-0 flex-1 items-center gap-2 py-[2px] pl-2.5 text-left"
      :aria-current="derived.joint === r.j || undefined"
      :data-ledger="r.j"
      :title="`${(100 * r.share).toFixed(1)} % of the body`"
      @click="derived.joint = r.j"
    >
      <SideIcon v-if="view.solo || view.skinMode === 'check'" :side="r.side" /><span
        v-else
        class="h-2.5 w-2.5 shrink-0 rounded-sm"
        :style="{ background: jointCss(r.j) }"
      />
      <span class="min-w-0 flex-1 truncate">{{ r.label }}</span>
      <span class="h-1.5 w-7 shrink-0"
        ><span class="block h-full bg-ink-2" :style="{ width: `${r.bar * 100}%` }"
      /></span>
    </button>
    <button
      v-if="view.skinMode === 'repair'"
      class="p-1"
      :class="isLocked(r.ref) ? 'text-madder' : 'text-ink-2 opacity-50 hover:opacity-100'"
      :aria-label="`${isLocked(r.ref) ? 'Unlock' : 'Lock'} ${r.label}`"
      :aria-pressed="isLocked(r.ref)"
      @click="toggle(r.ref)"
    >
      <Lock v-if="isLocked(r.ref)" :size="12" /><LockOpen v-else :size="12" />
    </button>
  </div>
</template>
