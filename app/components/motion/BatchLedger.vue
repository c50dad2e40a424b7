<script setup lang="ts">
/** The takes to carry over, chosen one by one or all of a performer. */
const props = defineProps<{ query: string }>()
const { chosen, choose, running } = useBatch()
const { groups, unfitWords, others } = useTakeGroups(() => props.query)
const all = (ids: readonly string[]): boolean => ids.every(id => chosen.value.has(id))
</script>

<template>
  <p v-if="groups.length === 0" class="quiet px-3.5">No takes yet. Drop a BVH or GLB with a motion on the window.</p>
  <div v-for="g in groups" :key="g.performer">
    <label class="flex cursor-pointer items-center gap-2 px-3 pb-1 pt-2 text-xs font-semibold text-ink-2"
      ><input
        type="checkbox"
        class="accent-[var(--madder)]"
        :checked="all(g.ids)"
        :disabled="running"
        :data-testid="`all-${g.performer}`"
        @change="choose(g.ids, !all(g.ids))"
      />{{ g.label }}</label
    >
    <label
      v-for="t in g.takes"
      :key="t.id"
      class="flex cursor-pointer items-center gap-2 px-3 py-[2px] hover:bg-paper-2"
      ><input
        type="checkbox"
        class="accent-[var(--madder)]"
        :checked="chosen.has(t.id)"
        :disabled="running"
        @change="choose([t.id], !chosen.has(t.id))"
      /><span class="truncate">{{ t.name }}</span></label
    >
  </div>
  <TakesForOthers v-model="others" :words="unfitWords" />
</template>
