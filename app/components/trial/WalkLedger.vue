<script setup lang="ts">
/** The takes the figure may be led with, by who performed them. */
const walk = useWalk()
const made = computed(() => new Set([...walk.walks.value, ...walk.stands.value].map(g => g.id)))
</script>

<template>
  <label v-if="walk.performers.value.length > 1" class="block px-3 pb-2"
    ><span class="quiet mb-1 block text-xs">Takes of</span
    ><select
      class="field"
      aria-label="Takes of"
      :value="walk.by.value"
      @change="walk.choosePerformer(($event.target as HTMLSelectElement).value)"
    >
      <option v-for="p in walk.performers.value" :key="p" :value="p">{{ p }}</option>
    </select></label
  >
  <label
    v-for="t in walk.takes.value"
    :key="t.id"
    class="flex cursor-pointer items-center gap-2 px-3 py-[2px] hover:bg-paper-2"
    ><input
      type="checkbox"
      class="accent-[var(--madder)]"
      :checked="walk.wanted.value.includes(t.id)"
      :data-led="t.name"
      @change="walk.choose(t.id, ($event.target as HTMLInputElement).checked)"
    /><span class="truncate" :class="made.has(t.id) ? '' : 'text-ink-2'">{{ t.name }}</span></label
  >
</template>
