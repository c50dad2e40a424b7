<script setup lang="ts">
import type { MenuEntry } from '~/composables/rowMenu'
const derived = useDerived()
const project = useProject()
const own = computed(() =>
  (derived.rig?.takes ?? []).filter(t => !props.query || t.name.toLowerCase().includes(props.query.toLowerCase())),
)
const props = defineProps<{ query: string }>()
const files = useFiles()
const view = useView()
const list = useTakeList()
const menuOf = (id: string): MenuEntry[] => [
  {
    label: 'Tune it',
    run: () => {
      void derived.showTake(id)
      view.go('tune')
    },
  },
  { label: 'Earlier in the list', run: () => list.move(id, -1), disabled: !list.canMove(id, -1) },
  { label: 'Later in the list', run: () => list.move(id, 1), disabled: !list.canMove(id, 1) },
  { label: 'Remove from the list', run: () => list.remove(id) },
]
/** Takes that come with the program carry words. */
const hasRepertoire = computed(() => project.recipe.takes.some(t => t.tags?.length))
const { groups, unfitWords, others } = useTakeGroups(() => props.query)
</script>

<template>
  <div v-if="own.length > 0">
    <h2 class="quiet px-3.5 pb-1 pt-2 text-xs font-semibold">Came with the body</h2>
    <LedgerRow
      v-for="t in own"
      :key="t.id"
      class="py-[3px] pl-3 pr-3"
      :data-take="`${t.name} own`"
      :chosen="derived.wantedTake === t.id"
      @click="derived.showTake(t.id)"
    >
      <span class="truncate">{{ t.name }}</span>
    </LedgerRow>
  </div>
  <p v-if="project.recipe.takes.length === 0 && own.length === 0" class="quiet px-3.5">
    No takes yet. Drop a BVH or GLB with a motion on the window.
  </p>
  <div v-if="!hasRepertoire" class="px-3.5 pt-2">
    <button class="press w-full" data-testid="add-repertoire" @click="files.addRepertoire()">Add the repertoire</button>
  </div>
  <div v-for="g in groups" :key="g.performer">
    <h2 class="quiet px-3.5 pb-1 pt-2 text-xs font-semibold">{{ g.label }}</h2>
    <VirtualRows v-slot="{ row: t }" :rows="g.takes" :size="26" :key-of="t => t.id">
      <LedgerRow
        class="py-[3px] pl-3 pr-3"
        :data-take="`${t.name} ${t.performer}`"
        :chosen="derived.wantedTake === t.id"
        @click="derived.showTake(t.id)"
        @contextmenu="openMenu($event, menuOf(t.id))"
      >
        <span class="truncate">{{ t.name }}</span><span
          v-if="t.adjust || t.layers"
          class="quiet ml-auto pl-1 text-xs"
          :title="t.layers ? 'Changed by hand' : 'Tuned'"
          >{{ t.layers ? 'layered' : 'tuned' }}</span
        >
      </LedgerRow>
    </VirtualRows>
  </div>
  <TakesForOthers v-model="others" :words="unfitWords" />
</template>
