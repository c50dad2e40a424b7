<script setup lang="ts">
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, Dialog, DialogPanel } from '@headlessui/vue'

const view = useView()
const { commands } = useCommands()
const query = ref('')
const found = computed(() => {
  const words = query.value.toLowerCase().split(/\s+/).filter(Boolean)
  return commands.value.filter(c => words.every(w => c.name.toLowerCase().includes(w))).slice(0, 12)
})
function run(command: { run: () => void } | null): void {
  view.paletteOpen = false
  query.value = ''
  command?.run()
}
</script>

<template>
  <Dialog :open="view.paletteOpen" aria-label="Find" class="relative z-40" @close="view.paletteOpen = false">
    <div class="fixed inset-0 bg-black/30" aria-hidden="true" />
    <div class="fixed inset-x-0 top-24 flex justify-center p-4">
      <DialogPanel class="w-[440px] rounded border border-rule bg-paper shadow-xl">
        <Combobox @update:model-value="run">
          <ComboboxInput
            class="w-full border-b border-rule bg-transparent px-4 py-3 text-[15px] outline-none"
            placeholder="Find an action, joint, landmark or take"
            @change="query = ($event.target as HTMLInputElement).value"
          />
          <ComboboxOptions static class="max-h-80 overflow-y-auto py-1">
            <ComboboxOption v-for="c in found" :key="c.name" v-slot="{ active }" :value="c">
              <div class="flex cursor-pointer justify-between px-4 py-1.5" :class="active ? 'bg-paper-2' : ''">
                <span>{{ c.name }}</span><span class="num quiet text-xs">{{ c.key }}</span>
              </div>
            </ComboboxOption>
            <li v-if="found.length === 0" class="quiet px-4 py-2">Nothing by that name.</li>
          </ComboboxOptions>
        </Combobox>
      </DialogPanel>
    </div>
  </Dialog>
</template>
