<script setup lang="ts">
/** What a step of the trial is for, how far its takes are, and why something was refused in it. */
defineProps<{ title: string; sentence: string }>()
const trial = useTrial()
</script>

<template>
  <BenchHead :title="title" :sentence="sentence" />
  <WorkProgress step="trial" what="Making the takes ready" />
  <div v-if="trial.refused.value" class="mx-4 mb-3 border-l-2 border-madder bg-paper-2 px-3 py-2" role="alert">
    {{ trial.refused.value }}
  </div>
</template>
