<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle, Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/vue'

/** Help behind `?`: the keys, and what our own words mean. */
const view = useView()
const GROUPS: readonly { where: string; keys: readonly (readonly [string, string])[] }[] = [
  {
    where: 'Everywhere',
    keys: [
      ['Ctrl+K', 'find any action, joint or take'],
      ['Ctrl+Z', 'undo'],
      ['Ctrl+Shift+Z', 'redo'],
      ['Ctrl+S', 'save the project to a file'],
      ['Ctrl+O', 'the list of projects'],
      ['[ ]', 'previous and next step'],
      ['M', 'mirror edits on or off'],
      ['↑ ↓', 'nudge a number; with Shift by ten'],
      ['drag a name', 'change its number'],
      ['?', 'this help'],
    ],
  },
  {
    where: 'On the plate',
    keys: [
      ['1 2 3 0', 'front, side, top, turn view'],
      ['drag', 'turn the large view'],
      ['right drag', 'move it'],
      ['wheel', 'nearer and farther'],
      ['Alt arrows', 'turn it; + and − zoom'],
      ['arrows', 'from mark to mark; with Shift move the mark'],
      ['Shift or Ctrl press', 'choose joints, handles or marks together'],
    ],
  },
  {
    where: 'Bones and Handles',
    keys: [
      ['Enter ⌫ Esc', 'keep a drawn chain, one point back, give up'],
      ['J', 'in Repair: choose a joint on the body'],
      ['L', 'in Repair: list the weights of a place'],
      [', .', 'smaller or larger brush'],
      ['4 to 9', 'choose a group of handles'],
      ['Delete', 'chosen handles back to rest'],
    ],
  },
  {
    where: 'Motion and Trial',
    keys: [
      ['Space', 'play or pause'],
      ['← →', 'a frame back or on'],
      ['wheel', 'zoom the score; with Shift move along'],
      ['Shift drag', 'choose a stretch in the score'],
      ['Alt drag', 'place a key or a contact freely'],
      ['Delete', 'remove the chosen contact or key'],
      ['arrows or W A S D', 'lead the figure in a trial; Shift hurries'],
    ],
  },
]
/** The first table of the glossary, read when it is asked for. */
const words = shallowRef<readonly { word: string; means: string }[]>([])
onMounted(async () => {
  const text = (await import('~~/docs/glossary.md?raw')).default
  words.value = text
    .split('In the code:')[0]!
    .split('\n')
    .flatMap(line => {
      const cells = line.split('|').map(c => c.trim().replaceAll('`', ''))
      return cells.length === 4 && cells[1] !== 'word' && !/^-+$/.test(cells[1]!)
        ? [{ word: cells[1]!, means: cells[2]! }]
        : []
    })
    .sort((a, b) => a.word.localeCompare(b.word))
})
const TABS = ['Keys', 'Words']
</script>

<template>
  <Dialog :open="view.keysOpen" class="relative z-40" @close="view.keysOpen = false">
    <div class="fixed inset-0 bg-black/30" aria-hidden="true" />
    <div class="fixed inset-0 flex items-center justify-center p-4">
      <DialogPanel
        class="flex max-h-full w-[760px] max-w-full flex-col rounded border border-rule bg-paper p-5 shadow-xl"
      >
        <TabGroup>
          <div class="mb-3 flex items-baseline gap-4">
            <DialogTitle class="text-[15px] font-bold">Help</DialogTitle>
            <TabList class="flex gap-1">
              <Tab v-for="t in TABS" :key="t" v-slot="{ selected }" as="template"
                ><button class="press" :class="selected ? 'press-on' : ''">{{ t }}</button></Tab
              >
            </TabList>
            <button class="press ml-auto" @click="view.keysOpen = false">Close</button>
          </div>
          <TabPanels class="min-h-0 overflow-y-auto" tabindex="-1">
            <TabPanel class="columns-2 gap-8 max-[720px]:columns-1">
              <section v-for="g in GROUPS" :key="g.where" class="mb-4 break-inside-avoid">
                <h3 class="mb-1 font-semibold">{{ g.where }}</h3>
                <dl>
                  <div v-for="[key, what] in g.keys" :key="key" class="flex gap-3 border-t border-rule py-1">
                    <dt class="num w-32 shrink-0">{{ key }}</dt>
                    <dd class="quiet">{{ what }}</dd>
                  </div>
                </dl>
              </section>
            </TabPanel>
            <TabPanel>
              <dl class="columns-2 gap-8 max-[720px]:columns-1">
                <div v-for="w in words" :key="w.word" class="break-inside-avoid border-t border-rule py-1">
                  <dt class="inline font-semibold">{{ w.word }}</dt>
                  <dd class="quiet ml-2 inline">{{ w.means }}</dd>
                </div>
              </dl>
            </TabPanel>
          </TabPanels>
        </TabGroup>
      </DialogPanel>
    </div>
  </Dialog>
</template>
