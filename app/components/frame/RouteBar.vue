<script setup lang="ts">
import { CircleHelp, LibraryBig, Moon, Redo2, Sun, Undo2 } from '@lucide/vue'
import { PHASES, type PhaseId, type StepId } from '~/stores/view'

const view = useView()
const project = useProject()
const derived = useDerived()
const emit = defineEmits<{ rename: [name: string] }>()

type Mark = 'hollow' | 'ringed' | 'solid' | 'dashed'
/** A stop tells by its form how things stand there. */
function markOf(phase: PhaseId): Mark {
  const s = derived.steps
  if (phase === 'shape')
    return s.shape.state === 'working'
      ? 'dashed'
      : s.shape.state === 'refused'
        ? 'ringed'
        : derived.shape
          ? 'solid'
          : 'hollow'
  if (phase === 'bones') {
    if ([s.landmarks, s.rig, s.skin].some(x => x.state === 'working')) return 'dashed'
    if (
      [s.landmarks, s.rig, s.skin].some(x => x.state === 'refused' || x.state === 'stopped') ||
      derived.findings.some(f => f.severity !== 'note' && f.rule !== 'foot-skate')
    )
      return 'ringed'
    return derived.skin ? 'solid' : 'hollow'
  }
  if (phase === 'handles')
    return s.handles.state === 'working'
      ? 'dashed'
      : s.handles.state === 'refused'
        ? 'ringed'
        : derived.handles || project.recipe.handles
          ? 'solid'
          : 'hollow'
  if (phase === 'motion')
    return s.take.state === 'working'
      ? 'dashed'
      : s.take.state === 'refused'
        ? 'ringed'
        : derived.performed
          ? 'solid'
          : 'hollow'
  if (phase === 'trial')
    return s.trial.state === 'working' ? 'dashed' : s.trial.state === 'refused' ? 'ringed' : s.trial.state === 'done' ? 'solid' : 'hollow' // prettier-ignore
  if (phase === 'delivery')
    return s.deliver.state === 'working'
      ? 'dashed'
      : s.deliver.state === 'refused'
        ? 'ringed'
        : s.deliver.state === 'done'
          ? 'solid'
          : 'hollow'
  return 'hollow'
}
const WORDS: Record<Mark, string> = {
  hollow: 'not begun',
  ringed: 'needs a look',
  solid: 'settled',
  dashed: 'being worked out',
}
const stops = computed(() =>
  PHASES.map(p => ({ ...p, mark: markOf(p.id), current: p.id === view.phase, reachable: p.steps.length > 0 })),
)
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
  <header class="flex h-14 shrink-0 items-center gap-4 border-b border-rule bg-paper px-4">
    <button
      class="press !px-2"
      title="Projects (Ctrl+O)"
      aria-label="Projects"
      data-testid="projects"
      @click="view.shelfOpen = true"
    >
      <LibraryBig :size="15" />
    </button>
    <div class="w-[126px] shrink-0">
      <div class="text-[15px] font-bold leading-5">Chiraxis</div>
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
    <nav class="relative flex min-w-0 flex-1 justify-center" aria-label="Route">
      <ol class="relative flex items-start">
        <span class="absolute left-6 right-6 top-[8px] h-px bg-rule" aria-hidden="true" />
        <template v-for="p in stops" :key="p.id">
          <li class="relative flex">
            <button
              class="flex min-w-[70px] flex-col items-center gap-0.5 px-1.5 disabled:cursor-default"
              :class="p.current ? 'font-bold' : 'text-ink-2'"
              :disabled="!p.reachable"
              :aria-current="p.current ? 'step' : undefined"
              :title="p.reachable ? `${p.label}: ${WORDS[p.mark]}` : `${p.label} comes in a later version`"
              @click="p.steps[0] && view.go(p.steps[0].id as StepId)"
            >
              <svg width="17" height="17" viewBox="-8.5 -8.5 17 17" :class="p.reachable ? '' : 'opacity-40'">
                <circle r="7.5" fill="var(--paper)" />
                <circle v-if="p.mark === 'solid'" r="6" :fill="p.current ? 'var(--madder)' : 'var(--ink)'" />
                <circle
                  v-else
                  r="5.5"
                  fill="var(--paper)"
                  :stroke="p.current ? 'var(--madder)' : 'var(--ink)'"
                  :stroke-width="p.mark === 'ringed' ? 3 : 1.5"
                  :stroke-dasharray="p.mark === 'dashed' ? '3 2.4' : undefined"
                />
              </svg>
              <span class="text-[13px]" :class="p.reachable ? '' : 'opacity-50'">{{ p.label }}</span>
            </button>
            <template v-if="p.current && p.steps.length > 1">
              <button
                v-for="s in p.steps"
                :key="s.id"
                class="flex flex-col items-center gap-0.5 px-1.5"
                :class="view.step === s.id ? 'font-bold' : 'text-ink-2'"
                :aria-current="view.step === s.id ? 'step' : undefined"
                @click="view.go(s.id as StepId)"
              >
                <svg width="17" height="17" viewBox="-8.5 -8.5 17 17">
                  <circle r="5" fill="var(--paper)" />
                  <circle
                    r="3.4"
                    :fill="view.step === s.id ? 'var(--madder)' : 'var(--paper)'"
                    :stroke="view.step === s.id ? 'var(--madder)' : 'var(--ink-2)'"
                  />
                </svg>
                <span class="text-xs leading-[19px]">{{ s.label }}</span>
              </button>
            </template>
          </li>
        </template>
      </ol>
    </nav>
    <div class="flex shrink-0 items-center gap-1.5">
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
      <button class="press !px-2" title="Keys (?)" aria-label="Keys" @click="view.keysOpen = true">
        <CircleHelp :size="15" />
      </button>
    </div>
  </header>
</template>
