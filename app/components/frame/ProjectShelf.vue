<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { Copy, FilePlus2, FolderOpen, Trash2, X } from '@lucide/vue'
import { emptyRecipe } from '@chiraxis/core/recipe'
import { db, type AsideRow, type StoredProject } from '~/keeping/db'

/** All projects the browser keeps, with what they take of its room. */
const view = useView()
const project = useProject()
const derived = useDerived()
const files = useFiles()
const openProject = useOpenProject()
const list = shallowRef<readonly StoredProject[]>([])
const aside = shallowRef<readonly AsideRow[]>([])
const room = shallowRef<{ used: number; whole: number; lasting: boolean }>()
const leaving = ref<string>()
const trouble = ref('')
/** Names are told once, so that a list of thousands stays quick to look through. */
const query = ref('')
const found = computed(() => {
  const words = query.value.trim().toLowerCase()
  return words ? list.value.filter(p => `${titleOf(p)} ${p.name}`.toLowerCase().includes(words)) : list.value
})

const titleOf = (p: StoredProject): string => p.title ?? p.name
const MB = (bytes: number): string =>
  bytes < 1e8 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e9).toFixed(2)} GB`
const date = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })

async function look(): Promise<void> {
  try {
    list.value = await project.list()
    aside.value = await db.aside.toArray()
    const told = await navigator.storage?.estimate?.()
    const lasting = (await navigator.storage?.persisted?.()) ?? false
    room.value = told && { used: told.usage ?? 0, whole: told.quota ?? 0, lasting }
  } catch (error) {
    trouble.value = `The browser does not let the projects be read (${error instanceof Error ? error.name : 'refused'}).`
  }
}
onMounted(look)
const close = (): void => {
  view.shelfOpen = false
}

async function open(id: string): Promise<void> {
  if (id !== project.id) {
    if (!(await openProject(id))) {
      trouble.value = 'This project could not be read. It was left as it is; what is kept of it is listed below.'
      return look()
    }
  }
  close()
}
async function begin(): Promise<void> {
  derived.wantedTake = undefined
  await project.open(emptyRecipe(), 'New project')
  view.go('straighten')
  close()
}
async function copy(p: StoredProject): Promise<void> {
  await project.duplicate(p.id, `${titleOf(p)} copy`)
  await look()
}
async function remove(p: StoredProject): Promise<void> {
  leaving.value = undefined
  await project.remove(p.id)
  if (p.id === project.id) {
    const next = (await project.list())[0]
    if (!next || !(await openProject(next.id))) await begin()
  }
  await look()
}
async function retitle(p: StoredProject, title: string): Promise<void> {
  await project.retitle(p.id, title.slice(0, 200))
  await look()
}
async function askToLast(): Promise<void> {
  await navigator.storage?.persist?.()
  await look()
}
function saveAside(row: AsideRow): void {
  const text = typeof row.data === 'string' ? row.data : JSON.stringify(row.data, null, 1)
  saveAs(`set-aside-${row.id}.json`, new TextEncoder().encode(text), 'application/json')
}
async function dropAside(row: AsideRow): Promise<void> {
  await db.aside.delete(row.id!)
  await look()
}
</script>

<template>
  <Dialog :open="view.shelfOpen" class="relative z-40" @close="close">
    <div class="fixed inset-0 bg-black/30" aria-hidden="true" />
    <div class="fixed inset-y-0 left-0 flex">
      <DialogPanel class="flex w-[430px] flex-col border-r border-rule bg-paper shadow-xl" data-testid="shelf">
        <div class="flex items-center justify-between border-b border-rule px-4 py-3">
          <DialogTitle class="text-[15px] font-bold">Projects</DialogTitle>
          <button class="press !px-1.5" aria-label="Close the list of projects" @click="close"><X :size="15" /></button>
        </div>
        <div class="flex items-center gap-2 border-b border-rule px-4 py-3">
          <button class="press" data-testid="new-project" @click="begin"><FilePlus2 :size="15" /> New</button>
          <button class="press" @click="files.pick()"><FolderOpen :size="15" /> Open a file</button>
          <input
            v-model="query"
            type="search"
            class="field ml-auto !w-[150px]"
            placeholder="Search"
            aria-label="Search projects"
          />
        </div>
        <p v-if="trouble" class="mx-4 mt-3 border-l-2 border-madder bg-paper-2 px-3 py-2" role="alert">{{ trouble }}</p>
        <ul class="min-h-0 flex-1 overflow-y-auto">
          <li v-if="found.length === 0" class="quiet p-4">
            {{
              query ? 'No project by that name.' : 'No project is kept yet. Bring in a body, or open the sample figure.'
            }}
          </li>
          <li
            v-for="p in found"
            :key="p.id"
            class="flex gap-3 border-b border-l-2 border-b-rule py-2.5 pl-3.5 pr-4"
            :class="p.id === project.id ? 'border-l-madder bg-paper-2' : 'border-l-transparent'"
            :data-project="titleOf(p)"
            style="content-visibility: auto; contain-intrinsic-size: 96px"
          >
            <button
              class="figure-ground flex h-[76px] w-[58px] shrink-0 items-end justify-center overflow-hidden rounded border border-rule"
              :aria-label="`Open ${titleOf(p)}`"
              @click="open(p.id)"
            >
              <img v-if="p.picture" :src="p.picture" alt="" class="h-full w-full object-contain" />
            </button>
            <div class="min-w-0 flex-1">
              <TextField
                class="w-full truncate rounded border border-transparent bg-transparent font-semibold outline-none hover:border-rule focus:border-ink-2"
                :value="titleOf(p)"
                aria-label="Project's title"
                @change="retitle(p, $event)"
              />
              <p class="quiet truncate text-xs">
                {{ p.name === titleOf(p) ? '' : `${p.name} · ` }}{{ date.format(p.savedAt) }} ·
                <span class="num">{{ MB(p.fileBytes) }}</span>
              </p>
              <div v-if="leaving === p.id" class="mt-1.5 flex items-center gap-2">
                <span class="text-xs">Delete it for good?</span>
                <button
                  class="press border-madder font-semibold text-madder"
                  data-testid="delete-surely"
                  @click="remove(p)"
                >
                  Delete
                </button>
                <button class="press" @click="leaving = undefined">Keep</button>
              </div>
              <div v-else class="mt-1.5 flex gap-2">
                <button
                  class="press"
                  :class="p.id === project.id ? '' : 'border-ink font-semibold'"
                  @click="open(p.id)"
                >
                  {{ p.id === project.id ? 'Open now' : 'Open' }}
                </button>
                <button class="press" title="Make a copy with its whole history" @click="copy(p)">
                  <Copy :size="14" /> Duplicate
                </button>
                <button class="press !px-2" :aria-label="`Delete ${titleOf(p)}`" title="Delete" @click="leaving = p.id">
                  <Trash2 :size="14" />
                </button>
              </div>
            </div>
          </li>
        </ul>
        <section v-if="aside.length > 0" class="max-h-44 overflow-y-auto border-t border-rule px-4 py-3">
          <h3 class="mb-1 font-semibold">Set aside, because it could not be read</h3>
          <div v-for="row in aside" :key="row.id" class="flex items-center gap-2 py-1">
            <span class="min-w-0 flex-1 truncate text-xs" :title="row.reason">{{ row.name }}: {{ row.reason }}</span>
            <button class="press" @click="saveAside(row)">Save to a file</button>
            <button class="press !px-2" aria-label="Throw away" title="Throw away" @click="dropAside(row)">
              <Trash2 :size="14" />
            </button>
          </div>
        </section>
        <div v-if="room" class="border-t border-rule px-4 py-3">
          <div class="flex justify-between text-xs">
            <span class="quiet">Room used in this browser</span>
            <span class="num">{{ MB(room.used) }} of {{ MB(room.whole) }}</span>
          </div>
          <div class="mt-1 h-1 overflow-hidden rounded bg-rule">
            <div class="h-full bg-ink-2" :style="{ width: `${Math.max(1, (100 * room.used) / (room.whole || 1))}%` }" />
          </div>
          <p v-if="room.lasting" class="quiet mt-2 text-xs">The browser has promised not to clear this by itself.</p>
          <div v-else class="mt-2 flex items-center justify-between gap-2">
            <span class="quiet text-xs">The browser may clear this when the disk is full.</span>
            <button class="press" @click="askToLast">Ask it to keep it</button>
          </div>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
