<script setup lang="ts" generic="T">
import { useVirtualizer } from '@tanstack/vue-virtual'

/**
 * Rows of one height. A short list is laid out whole; of a long one only what can be seen, so that thousands of joints or
 * takes do not stall the window.
 */
const props = defineProps<{ rows: readonly T[]; size: number; keyOf: (row: T) => string | number }>()
const SHORT = 200
const host = ref<HTMLElement>()
const long = computed(() => props.rows.length > SHORT)
const virtualizer = useVirtualizer(
  computed(() => ({
    count: long.value ? props.rows.length : 0,
    getScrollElement: () => host.value?.closest<HTMLElement>('.overflow-y-auto') ?? null,
    estimateSize: () => props.size,
    overscan: 20,
    scrollMargin: host.value?.offsetTop ?? 0,
  })),
)
const seen = computed(() =>
  virtualizer.value
    .getVirtualItems()
    .map(v => ({ row: props.rows[v.index]!, top: v.start - (host.value?.offsetTop ?? 0) })),
)
</script>

<template>
  <div ref="host" class="relative" :style="long ? { height: `${virtualizer.getTotalSize()}px` } : undefined">
    <template v-if="long">
      <div
        v-for="s in seen"
        :key="keyOf(s.row)"
        class="absolute inset-x-0"
        :style="{ transform: `translateY(${s.top}px)`, height: `${size}px` }"
      >
        <slot :row="s.row" />
      </div>
    </template>
    <template v-else>
      <slot v-for="r in rows" :key="keyOf(r)" :row="r" />
    </template>
  </div>
</template>
