<script setup lang="ts" generic="T extends string">
/** What a brush that works on the body is set to: its tool, and how large, strong and soft it is. */
const props = defineProps<{
  tools: readonly { readonly value: T; readonly label: string; readonly hint: string }[]
  /** Begins the test ids of the tools. */
  name: string
  /** Whether the tool works under the brush alone, and there by degrees. */
  sized?: boolean
  graded?: boolean
}>()
const tool = defineModel<T>('tool', { required: true })
const radius = defineModel<number>('radius', { required: true })
const strength = defineModel<number>('strength', { required: true })
const falloff = defineModel<number>('falloff', { required: true })
const hint = computed(() => props.tools.find(t => t.value === tool.value)?.hint)
const share = (percent: number, least: number): number => Math.min(1, Math.max(least, percent / 100))
</script>

<template>
  <div
    class="mb-2 grid gap-1.5"
    :class="tools.length % 4 === 0 ? 'grid-cols-4' : 'grid-cols-3'"
    role="radiogroup"
    aria-label="Brush"
  >
    <button
      v-for="t in tools"
      :key="t.value"
      class="press"
      role="radio"
      :aria-checked="tool === t.value"
      :class="tool === t.value ? '!bg-ink !text-paper font-semibold' : ''"
      :data-testid="`${name}-${t.value}`"
      @click="tool = t.value"
    >
      {{ t.label }}
    </button>
  </div>
  <p class="quiet mb-2 text-xs">{{ hint }}</p>
  <NumberField
    v-if="sized"
    label="Size"
    :value="radius"
    unit="cm"
    :step="0.5"
    @change="radius = Math.min(60, Math.max(0.2, $event))"
  />
  <NumberField
    v-if="graded"
    label="Strength"
    :value="strength * 100"
    unit="%"
    :step="5"
    :digits="0"
    @change="strength = share($event, 0.01)"
  />
  <slot />
  <NumberField
    v-if="graded"
    label="Fall-off"
    :value="falloff * 100"
    unit="%"
    :step="5"
    :digits="0"
    @change="falloff = share($event, 0)"
  />
</template>
