<script setup lang="ts">
import type { PoseGroup } from '@chiraxis/core/strain'
import { posePictures } from '~/composables/usePosePictures'

/** The check poses as small pictures of the figure itself. */
const props = defineProps<{ query: string }>()
const view = useView()
const derived = useDerived()
const player = usePosePlayer()
const LABELS: Record<PoseGroup, string> = {
  arms: 'Arms',
  hands: 'Hands',
  legs: 'Legs',
  trunk: 'Trunk',
  head: 'Head',
  whole: 'Whole',
  walk: 'Walk',
  chains: 'Chains',
  own: 'Your own',
}
const groups = computed(() => {
  const out: { id: PoseGroup; label: string; poses: { id: string; label: string; score?: number }[] }[] = []
  for (const p of player.poses.value) {
    if (props.query && !p.label.toLowerCase().includes(props.query.toLowerCase())) continue
    let g = out.find(x => x.id === p.group)
    if (!g) out.push((g = { id: p.group, label: LABELS[p.group], poses: [] }))
    g.poses.push({ id: p.id, label: p.label, score: derived.strain?.poses.find(x => x.id === p.id)?.score })
  }
  return out
})
</script>

<template>
  <button
    class="mx-2 mb-1 flex w-[calc(100%-16px)] items-center rounded border px-2 py-1 text-left"
    :class="view.pose ? 'border-rule' : 'border-madder font-semibold'"
    @click="player.show(undefined)"
  >
    At rest
  </button>
  <div v-for="g in groups" :key="g.id">
    <h2 class="px-3.5 pb-1 pt-2 font-semibold">{{ g.label }}</h2>
    <div class="grid grid-cols-[repeat(auto-fill,minmax(52px,1fr))] gap-1 px-2">
      <button
        v-for="p in g.poses"
        :key="p.id"
        class="flex flex-col items-center rounded border bg-paper-2 pb-0.5"
        :class="view.pose === p.id ? 'border-madder' : 'border-transparent hover:border-rule'"
        :title="p.score === undefined ? p.label : `${p.label}: strain ${p.score.toFixed(1)} %`"
        :data-pose="p.id"
        :aria-label="p.label"
        :aria-current="view.pose === p.id || undefined"
        @click="player.show(p.id)"
      >
        <span
          class="flex h-[70px] w-full items-center justify-center overflow-hidden rounded-t"
          style="background: var(--ground-a)"
          ><img v-if="posePictures()[p.id]" :src="posePictures()[p.id]" alt="" class="h-[70px]"
        /></span>
        <span class="mt-0.5 line-clamp-2 h-[26px] px-0.5 text-center text-[11px] leading-[13px]">{{ p.label }}</span>
        <span class="num quiet text-[11px] leading-4">{{ p.score === undefined ? '…' : p.score.toFixed(0) }}</span>
      </button>
    </div>
  </div>
</template>
