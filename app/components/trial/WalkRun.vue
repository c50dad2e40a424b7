<script setup lang="ts">
import type { Eye } from '~/composables/useWalk'

/** How the run is looked at, slowed, stopped, stepped through and kept. */
const walk = useWalk()
const { slow, paused, eye, recording, recordedSeconds } = walk
const EYES: readonly { value: Eye; label: string }[] = [
  { value: 'still', label: 'as it is' },
  { value: 'behind', label: 'behind' },
  { value: 'beside', label: 'beside' },
  { value: 'around', label: 'around' },
]
</script>

<template>
  <div class="card" data-testid="walk-run">
    <h3>The run</h3>
    <ChoiceRow v-model="eye" label="Seen from" :options="EYES" />
    <SwitchRow v-model="slow" label="Slow motion" />
    <div class="flex gap-2 py-1">
      <button class="press flex-1" :class="paused ? 'press-on' : ''" data-testid="walk-pause" @click="paused = !paused">
        {{ paused ? 'Go on' : 'Pause' }}
      </button>
      <button class="press flex-1" :disabled="!paused" data-testid="walk-step" @click="walk.stepOnce()">
        Step 1/30 s
      </button>
    </div>
    <div v-if="walk.canRecord.value" class="flex items-center gap-2 py-1">
      <button v-if="!recording" class="press flex-1" data-testid="walk-record" @click="walk.record()">
        Record a take
      </button>
      <template v-else>
        <button class="press press-on flex-1" data-testid="walk-keep" @click="walk.keep()">
          Keep {{ recordedSeconds.toFixed(1) }} s
        </button>
        <button class="press" @click="walk.drop()">Drop</button>
      </template>
    </div>
    <p v-else class="quiet py-1 text-xs">Takes are recorded of your own figure.</p>
  </div>
</template>
