<script setup lang="ts">
import type { StepName } from '~/stores/derived'

/** How far a step is, with a way to stop it or to try again; shown once it takes longer than a moment. */
const props = defineProps<{ step: StepName; what: string }>()
const derived = useDerived()
const state = computed(() => derived.steps[props.step])
const slow = useLasting(() => state.value.state === 'working', 300)
</script>

<template>
  <div v-if="state.state === 'working' && slow" class="px-4 py-3" role="status">
    <div class="mb-1 flex items-center justify-between gap-2">
      <span>{{ what }}</span><button class="press !min-h-6" @click="derived.halt()">Stop</button>
    </div>
    <div class="h-1 overflow-hidden rounded bg-rule">
      <div class="h-full bg-madder transition-[width]" :style="{ width: `${Math.max(3, state.progress * 100)}%` }" />
    </div>
  </div>
  <div
    v-else-if="state.state === 'refused'"
    class="mx-4 my-3 border-l-2 border-madder bg-paper-2 px-3 py-2"
    role="alert"
  >
    {{ state.message }}
  </div>
  <div
    v-else-if="state.state === 'stopped'"
    class="mx-4 my-3 flex items-center justify-between gap-2 border-l-2 border-rule bg-paper-2 px-3 py-2"
    role="status"
  >
    <span>Stopped.</span><button class="press" @click="derived.resume()">Work it out</button>
  </div>
</template>
