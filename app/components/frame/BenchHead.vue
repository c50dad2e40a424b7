<script setup lang="ts">
defineProps<{ title: string; sentence: string }>()
</script>

<template>
  <div class="px-4 pb-3 pt-4">
    <h2 class="mb-1 text-[15px] font-bold">{{ title }}</h2>
    <p class="quiet">{{ sentence }}</p>
  </div>
</template>
