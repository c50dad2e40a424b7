<script setup lang="ts">
import type { Clip } from '@chiraxis/core/trial'

/** A ruler of speed: takes stand at the speed they were measured at, a mark moves along it, shares are bars. */
const props = defineProps<{
  takes: readonly Pick<Clip, 'name' | 'speed'>[]
  speed: number
  shares: readonly { readonly name: string; readonly share: number }[]
}>()
/** Metres a second at the end of the ruler. */
const most = computed(() => Math.max(1, Math.ceil(1.2 * (props.takes.at(-1)?.speed ?? 2))))
const share = (v: number): number => Math.min(1, v / most.value)
const at = (v: number): string => `${(100 * share(v)).toFixed(2)}%`
const ticks = computed(() => Array.from({ length: most.value + 1 }, (_, i) => i))
</script>

<template>
  <div class="relative mx-1 mt-1 h-16">
    <div class="absolute inset-x-0 top-8 border-t border-ink" />
    <div
      v-for="t in ticks"
      :key="t"
      class="num quiet absolute top-8 -translate-x-1/2 pt-1 text-[10px]"
      :style="{ left: at(t) }"
    >
      <span class="absolute -top-1 left-1/2 h-2 border-l border-ink" />{{ t }}
    </div>
    <div
      v-for="(g, i) in takes"
      :key="g.name"
      class="absolute top-8 h-2.5 w-[3px] -translate-x-1/2 -translate-y-2 bg-ink-2"
      :style="{ left: at(g.speed) }"
      :title="`${g.name}, ${g.speed.toFixed(2)} m/s`"
    >
      <span
        class="absolute max-w-32 truncate text-[11px]"
        :class="[i % 2 ? '-top-7' : '-top-4', share(g.speed) > 0.7 ? 'right-0' : 'left-0']"
        >{{ g.name }}</span
      >
    </div>
    <div
      class="absolute top-[22px] h-5 w-0.5 -translate-x-1/2 bg-madder"
      :style="{ left: at(speed) }"
      data-testid="speed-mark"
    />
  </div>
  <div v-for="s in shares" :key="s.name" class="flex items-center gap-2 py-[1px]" :data-share="s.name">
    <span class="w-28 truncate">{{ s.name }}</span><span class="h-2 flex-1 bg-paper-2"
      ><span class="block h-2 bg-ink" :style="{ width: `${100 * Math.min(1, s.share)}%` }" /></span
    ><span class="num w-9 text-right text-xs">{{ Math.round(100 * s.share) }} %</span>
  </div>
</template>
