<script setup lang="ts">
/** Takes that do not fit this body, told in one line. */
defineProps<{ words: string }>()
const shown = defineModel<boolean>({ required: true })
</script>

<template>
  <button
    v-if="words"
    class="quiet mx-3.5 mt-3 border-t border-rule pb-2 pt-1.5 text-left text-xs hover:text-ink"
    data-testid="takes-for-others"
    @click="shown = !shown"
  >
    {{ words }}<span class="ml-1 underline">{{ shown ? 'hide' : 'show' }}</span>
  </button>
</template>
