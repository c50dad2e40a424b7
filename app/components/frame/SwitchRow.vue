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
      class="relative h-[18px] w-8 rounded-full border border-transparent transition-colors"
      :class="on ? 'bg-verdigris' : 'bg-ink-2'"
    >
      <span
        class="absolute top-[2px] h-3 w-3 rounded-full bg-paper transition-[left]"
        :class="on ? 'left-[16px]' : 'left-[2px]'"
      />
    </Switch>
  </SwitchGroup>
</template>
