<script setup lang="ts">
import { Switch, SwitchGroup, SwitchLabel } from '@headlessui/vue'

const on = defineModel<boolean>({ required: true })
defineProps<{ label: string }>()
</script>

<template>
  <SwitchGroup as="div" class="flex items-center justify-between py-1">
    <SwitchLabel class="cursor-pointer">{{ label }}</SwitchLabel>
    <Switch
      v-model="on"
      class="relative h-[18px] w-8 rounded-full border transition-colors"
      :class="on ? 'border-ink bg-ink' : 'border-ink-2 bg-paper'"
    >
      <span
        class="absolute top-[2px] h-3 w-3 rounded-full transition-[left]"
        :class="on ? 'left-[16px] bg-paper' : 'left-[2px] bg-ink-2'"
      />
    </Switch>
  </SwitchGroup>
</template>
