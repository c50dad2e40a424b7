<script setup lang="ts">
import { X } from '@lucide/vue'

/** The stretch of the take that corrections are told of, and those that have corrections of their own. */
const player = usePlayer()
const stretch = useStretch()
const { take, removeStretch } = useTakeEdit()
const own = computed(() => take.value?.stretches ?? [])
const shown = (seconds: number): string => player.toTake(seconds).toFixed(2)
function begin(): void {
  const at = Math.min(player.time, Math.max(0, player.length - 0.5))
  stretch.choose({
    from: player.toRecording(at),
    to: player.toRecording(Math.min(player.length, at + 0.5)),
  })
}
function move(end: 'from' | 'to', value: number): void {
  const { span } = stretch
  if (!span) return
  const next = { ...span, [end]: player.toRecording(Math.min(player.length, Math.max(0, value))) }
  if (next.to > next.from) stretch.choose(next)
}
</script>

<template>
  <div class="mt-1 border-t border-rule pt-1" data-testid="stretches">
    <template v-if="stretch.span">
      <NumberField
        label="Stretch from"
        :value="player.toTake(stretch.span.from)"
        unit="s"
        :step="0.05"
        :digits="2"
        @change="move('from', $event)"
      />
      <NumberField
        label="to"
        :value="player.toTake(stretch.span.to)"
        unit="s"
        :step="0.05"
        :digits="2"
        @change="move('to', $event)"
      />
      <button class="press mt-1" @click="stretch.clear()">Back to the whole take</button>
    </template>
    <button
      v-else
      class="press"
      title="Or hold Shift and drag over the score"
      data-testid="choose-stretch"
      @click="begin"
    >
      Choose a stretch
    </button>
    <ul v-if="own.length > 0" class="mt-1.5">
      <li v-for="(s, i) in own" :key="i" class="flex items-center gap-2 py-0.5">
        <button
          class="num underline decoration-dotted underline-offset-2"
          @click="stretch.choose({ from: s.from, to: s.to })"
        >
          {{ shown(s.from) }} to {{ shown(s.to) }} s
        </button>
        <span class="quiet min-w-0 flex-1 truncate">in its own way</span>
        <button
          class="press !px-1.5"
          aria-label="Correct as the rest"
          title="Correct as the rest"
          @click="removeStretch(s)"
        >
          <X :size="13" />
        </button>
      </li>
    </ul>
  </div>
</template>
