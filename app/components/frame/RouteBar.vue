<script setup lang="ts">
import { CircleHelp, LibraryBig, Moon, Redo2, Sun, Undo2 } from '@lucide/vue'
import { useElementSize } from '@vueuse/core'
import { PHASES, type StepId } from '~/stores/view'

const view = useView()
const project = useProject()
const derived = useDerived()
const emit = defineEmits<{ rename: [name: string] }>()

const markOf = usePhaseMarks()
const stops = computed(() => PHASES.map(p => ({ ...p, mark: markOf(p.id), current: p.id === view.phase })))
const current = computed(() => stops.value.find(p => p.current))
// the steps of a stop stand below it, moved in where they would run over the edge
const route = ref<HTMLElement>()
const row = ref<HTMLElement>()
const { width: room } = useElementSize(route)
const { width: taken } = useElementSize(row)
/** Where there is no room for their names, stops but the current one are told by their marks alone. */
const compact = computed(() => room.value > 0 && room.value < 500)
const from = computed(() => {
  const i = stops.value.findIndex(p => p.current)
  const middle = ((i + 0.5) * room.value) / stops.value.length
  return Math.max(0, Math.min(room.value - taken.value, middle - taken.value / 2))
})
const graver = computed(() => derived.findings.filter(f => f.severity !== 'note').length)
const count = computed(() => graver.value || derived.findings.length)
const naming = ref(false)
const nameField = ref<{ select: () => void }>()
async function startNaming(): Promise<void> {
  naming.value = true
  await nextTick()
  nameField.value?.select()
}
function rename(name: string): void {
  if (name) emit('rename', name)
}
</script>

<template>
  <header class="flex h-14 shrink-0 items-center justify-between gap-4 border-b border-rule bg-paper px-4">
    <div class="flex shrink-0 items-center gap-4">
      <button
        class="press !px-2"
        title="Projects (Ctrl+O)"
        aria-label="Projects"
        data-testid="projects"
        @click="view.shelfOpen = true"
      >
        <LibraryBig :size="15" />
      </button>
      <div class="shrink-0" :class="compact ? 'w-[84px]' : 'w-[126px]'">
        <h1 class="text-[15px] font-bold leading-5">Chiraxis</h1>
        <TextField
          v-if="naming"
          ref="nameField"
          class="field h-5 !min-h-0 text-xs"
          :value="project.recipe.name"
          aria-label="Figure's name"
          maxlength="300"
          @change="rename"
          @leave="naming = false"
        />
        <button
          v-else
          class="quiet block max-w-full truncate text-xs hover:underline"
          title="Rename the figure"
          data-testid="figure-name"
          @click="startNaming"
        >
          {{ project.recipe.name }}
        </button>
      </div>
    </div>
    <nav ref="route" class="relative h-full min-w-0 max-w-[860px] flex-1" aria-label="Route">
      <span class="absolute left-[8.3%] right-[8.3%] top-[17px] h-px bg-rule" aria-hidden="true" />
      <ol class="relative grid h-[34px]" :class="compact ? 'grid-cols-[repeat(6,auto)]' : 'grid-cols-6'">
        <li v-for="p in stops" :key="p.id" class="flex justify-center">
          <button
            class="flex items-center gap-1.5 bg-paper px-1.5"
            :class="p.current ? 'font-bold' : 'text-ink-2'"
            :aria-current="p.current ? 'step' : undefined"
            :title="`${p.label}: ${MARK_WORDS[p.mark]}`"
            :data-mark-of="p.mark"
            @click="p.steps[0] && view.go(p.steps[0].id as StepId)"
          >
            <StopMark :mark="p.mark" :current="p.current" /><span :class="compact && !p.current ? 'sr-only' : ''">{{
              p.label
            }}</span>
          </button>
        </li>
      </ol>
      <ol
        v-if="current && current.steps.length > 1"
        ref="row"
        class="absolute top-[32px] flex"
        :style="{ left: `${from}px` }"
      >
        <li v-for="s in current.steps" :key="s.id">
          <button
            class="relative min-h-6 px-2 leading-[22px]"
            :class="view.step === s.id ? 'font-bold text-ink' : 'text-ink-2 hover:text-ink'"
            :aria-current="view.step === s.id ? 'step' : undefined"
            @click="view.go(s.id as StepId)"
          >
            {{ s.label
            }}<span
              class="absolute inset-x-2 bottom-0 h-[2px]"
              :class="view.step === s.id ? 'bg-madder' : ''"
              aria-hidden="true"
            />
          </button>
        </li>
      </ol>
    </nav>
    <div class="flex shrink-0 items-center gap-1.5">
      <button
        v-if="batchProgress"
        class="press num"
        title="The batch that is being written"
        data-testid="batch-progress"
        @click="view.go('batch')"
      >
        {{ batchProgress.ended }} of {{ batchProgress.whole }}
      </button>
      <span class="num quiet mr-1 text-xs" role="status" data-testid="saved">{{ project.saved }}</span>
      <button
        class="press !px-2"
        :disabled="!project.undoable"
        :title="project.undoable ? `Undo: ${project.undoable} (Ctrl+Z)` : 'Nothing to undo'"
        aria-label="Undo"
        data-testid="undo"
        @click="project.stepBack()"
      >
        <Undo2 :size="15" />
      </button>
      <button
        class="press !px-2"
        :disabled="!project.redoable"
        :title="project.redoable ? `Redo: ${project.redoable} (Ctrl+Shift+Z)` : 'Nothing to redo'"
        aria-label="Redo"
        data-testid="redo"
        @click="project.stepForward()"
      >
        <Redo2 :size="15" />
      </button>
      <HistoryList />
      <button
        class="press"
        :class="graver > 0 ? 'press-on' : ''"
        :aria-expanded="view.findingsOpen"
        data-testid="findings"
        @click="view.findingsOpen = !view.findingsOpen"
      >
        <span class="num">{{ count }}</span>
        {{ graver > 0 || count === 0 ? (count === 1 ? 'finding' : 'findings') : count === 1 ? 'note' : 'notes' }}
      </button>
      <button
        class="press !px-2"
        :title="view.theme === 'day' ? 'Night' : 'Day'"
        :aria-label="view.theme === 'day' ? 'Switch to Night' : 'Switch to Day'"
        data-testid="theme"
        @click="view.setTheme(view.theme === 'day' ? 'night' : 'day')"
      >
        <Moon v-if="view.theme === 'day'" :size="15" /><Sun v-else :size="15" />
      </button>
      <button class="press !px-2" title="Help (?)" aria-label="Help" @click="view.keysOpen = true">
        <CircleHelp :size="15" />
      </button>
    </div>
  </header>
</template>
