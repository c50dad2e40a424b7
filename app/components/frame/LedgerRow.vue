<script setup lang="ts">
/** One row of a ledger: chosen, or not. */
defineProps<{ chosen: boolean }>()
</script>

<template>
  <button
    class="flex w-full items-center border-l-2 text-left"
    :class="chosen ? 'border-madder bg-paper-2 font-semibold' : 'border-transparent hover:bg-paper-2'"
    :aria-current="chosen || undefined"
  >
    <slot />
  </button>
</template>
