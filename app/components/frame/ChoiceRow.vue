<script setup lang="ts" generic="T extends string">
import { RadioGroup, RadioGroupLabel, RadioGroupOption } from '@headlessui/vue'

/** One of a few, side by side. */
const chosen = defineModel<T>({ required: true })
defineProps<{ label: string; options: readonly { readonly value: T; readonly label: string }[] }>()
</script>

<template>
  <RadioGroup v-model="chosen" class="py-1">
    <RadioGroupLabel class="quiet mb-1 block text-xs">{{ label }}</RadioGroupLabel>
    <div class="flex overflow-hidden rounded border border-rule">
      <RadioGroupOption v-for="o in options" :key="o.value" v-slot="{ checked }" :value="o.value" as="template">
        <button
          class="min-h-[26px] flex-1 border-r border-rule px-1 last:border-r-0"
          :class="[
            options.length > 3 ? 'text-xs' : '',
            checked ? 'bg-ink font-semibold text-paper' : 'bg-paper hover:bg-paper-2',
          ]"
        >
          {{ o.label }}
        </button>
      </RadioGroupOption>
    </div>
  </RadioGroup>
</template>
