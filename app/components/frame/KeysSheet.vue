<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'

const view = useView()
const KEYS = [
  ['Space', 'play or pause'],
  ['← →', 'step a frame; nudge a number'],
  ['1 2 3 0', 'front, side, top, turn view'],
  ['4 to 9', 'choose a group of handles'],
  ['[ ]', 'previous and next step'],
  ['Ctrl or Shift press', 'choose joints together'],
  ['Shift drag', 'choose a stretch in the score'],
  ['Delete', 'remove the chosen contact or key; a handle to rest'],
  ['Enter ⌫ Esc', 'keep a drawn chain, one point back, give up'],
  ['arrows or W A S D', 'lead the figure in a trial; Shift hurries'],
  ['Ctrl+Z', 'undo'],
  ['Ctrl+Shift+Z', 'redo'],
  ['Ctrl+S', 'save the project to a file'],
  ['Ctrl+O', 'the list of projects'],
  ['Ctrl+K', 'find any action, joint or take'],
  ['M', 'mirror edits on or off'],
  [', .', 'smaller or larger brush'],
  ['?', 'this sheet'],
]
</script>

<template>
  <Dialog :open="view.keysOpen" class="relative z-40" @close="view.keysOpen = false">
    <div class="fixed inset-0 bg-black/30" aria-hidden="true" />
    <div class="fixed inset-0 flex items-center justify-center p-4">
      <DialogPanel class="w-96 rounded border border-rule bg-paper p-5 shadow-xl">
        <DialogTitle class="mb-3 text-[15px] font-bold">Keys</DialogTitle>
        <dl>
          <div v-for="[key, what] in KEYS" :key="key" class="flex justify-between border-t border-rule py-1.5">
            <dt class="num">{{ key }}</dt>
            <dd class="quiet">{{ what }}</dd>
          </div>
        </dl>
        <button class="press mt-4" @click="view.keysOpen = false">Close</button>
      </DialogPanel>
    </div>
  </Dialog>
</template>
