<script setup lang="ts">
/** One of many by its name, in a list that opens. */
const chosen = defineModel<string>({ required: true })
defineProps<{ label: string; options: readonly { value: string; label: string }[] }>()
</script>

<template>
  <label class="flex items-center justify-between py-0.5">
    <span>{{ label }}</span>
    <select v-model="chosen" class="field !w-36" :aria-label="label">
      <option v-for="o in options" :key="o.value" :value="o.value">{{ o.label }}</option>
    </select>
  </label>
</template>
