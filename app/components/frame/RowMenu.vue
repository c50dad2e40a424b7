<script setup lang="ts">
import { DropdownMenuContent, DropdownMenuItem, DropdownMenuPortal, DropdownMenuRoot, DropdownMenuTrigger } from 'reka-ui' // prettier-ignore

/** The list of what can be done with a row or a mark, where it was asked for. */
const open = computed({
  get: () => rowMenu.value !== undefined,
  set: yes => {
    if (!yes) rowMenu.value = undefined
  },
})
</script>

<template>
  <DropdownMenuRoot v-if="rowMenu" :key="`${rowMenu.x} ${rowMenu.y}`" v-model:open="open" :modal="false">
    <DropdownMenuTrigger as-child>
      <span class="fixed h-px w-px" :style="{ left: `${rowMenu.x}px`, top: `${rowMenu.y}px` }" />
    </DropdownMenuTrigger>
    <DropdownMenuPortal>
      <DropdownMenuContent
        class="z-50 min-w-44 rounded border border-rule bg-paper py-1 shadow-xl outline-none"
        align="start"
        :collision-padding="8"
        data-testid="row-menu"
        aria-label="What can be done"
      >
        <DropdownMenuItem
          v-for="e in rowMenu.entries"
          :key="e.label"
          class="cursor-pointer px-3 py-1 outline-none data-[disabled]:cursor-default data-[highlighted]:bg-paper-2 data-[disabled]:opacity-45"
          :disabled="e.disabled"
          @select="e.run()"
        >
          {{ e.label }}
        </DropdownMenuItem>
      </DropdownMenuContent>
    </DropdownMenuPortal>
  </DropdownMenuRoot>
</template>
