<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { History } from '@lucide/vue'

/** Everything that was done, the latest on top; a press goes back or forward to it. */
const project = useProject()
const rows = computed(() =>
  project.done.names
    .map((name, at) => ({ name, at }))
    .reverse()
    .slice(0, 120),
)
</script>

<template>
  <Menu as="div" class="relative">
    <MenuButton class="press !px-2" title="History" aria-label="History" data-testid="history">
      <History :size="15" />
    </MenuButton>
    <MenuItems
      class="absolute right-0 top-full z-40 mt-1 max-h-[60vh] w-72 overflow-y-auto rounded border border-rule bg-paper py-1 shadow-xl outline-none"
      data-testid="history-list"
    >
      <MenuItem v-for="r in rows" :key="r.at" v-slot="{ active }">
        <button
          class="flex w-full items-center gap-2 border-l-2 px-3 py-1 text-left"
          :class="[
            active ? 'bg-paper-2' : '',
            r.at === project.done.at ? 'border-madder font-semibold' : 'border-transparent',
            r.at > project.done.at ? 'text-ink-2' : '',
          ]"
          :aria-current="r.at === project.done.at || undefined"
          @click="project.stepTo(r.at)"
        >
          <span class="truncate" :title="r.name">{{ r.name }}</span><span
            v-if="r.at > project.done.at"
            class="quiet ml-auto shrink-0 text-xs"
            >undone</span
          >
        </button>
      </MenuItem>
    </MenuItems>
  </Menu>
</template>
