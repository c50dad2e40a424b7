<script setup lang="ts">
import { FolderOpen, Route } from '@lucide/vue'
import type { StoredProject } from '~/keeping/db'

/** What one sees who opens the program for the first time, or a project without a body. */
const project = useProject()
const files = useFiles()
const tour = useTour()
const openProject = useOpenProject()
const { samples } = useSamples()
const recent = shallowRef<readonly StoredProject[]>([])
onMounted(async () => {
  const list = await project.list().catch(() => [])
  recent.value = list.filter(p => p.id !== project.id).slice(0, 3)
})
const date = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' })
</script>

<template>
  <div class="absolute inset-0 overflow-y-auto" data-testid="opening">
    <div class="flex min-h-full items-center justify-center p-4">
      <div class="w-[520px] max-w-full rounded border border-rule bg-paper">
        <p class="border-b border-rule p-5 text-[15px] leading-6">
          Chiraxis builds skeleton and skin for a character’s body and carries recorded motion onto it, ready for games
          and films.
        </p>
        <section class="flex items-center gap-4 border-b border-rule px-5 py-4">
          <div class="flex-1">
            <h2 class="font-semibold">Your own file</h2>
            <p class="quiet">Dropped anywhere on the window, or chosen.</p>
          </div>
          <button class="press border-ink font-semibold" @click="files.pick()">
            <FolderOpen :size="14" />Bring in a file
          </button>
        </section>
        <section class="border-b border-rule px-5 py-4">
          <h2 class="mb-2 font-semibold">A sample figure</h2>
          <div class="flex flex-wrap gap-1.5">
            <button
              v-for="s in samples"
              :key="s.id"
              class="press"
              :title="s.what"
              :data-sample="s.id"
              @click="files.openSample(s.id)"
            >
              {{ s.name }}
            </button>
          </div>
        </section>
        <section v-if="recent.length > 0" class="border-b border-rule px-5 py-4">
          <h2 class="mb-2 font-semibold">A project you worked on</h2>
          <div class="flex gap-2">
            <button
              v-for="p in recent"
              :key="p.id"
              class="flex min-w-0 flex-1 items-center gap-2 rounded border border-rule p-1.5 text-left hover:bg-paper-2"
              @click="openProject(p.id)"
            >
              <span class="figure-ground flex h-14 w-11 shrink-0 items-end justify-center overflow-hidden rounded">
                <img v-if="p.picture" :src="p.picture" alt="" class="h-full w-full object-contain" />
              </span>
              <span class="min-w-0"
                ><span class="block truncate">{{ p.title ?? p.name }}</span
                ><span class="quiet text-xs">{{ date.format(p.savedAt) }}</span></span
              >
            </button>
          </div>
        </section>
        <section class="flex items-center gap-4 px-5 py-4">
          <div class="flex-1">
            <h2 class="font-semibold">A short tour</h2>
            <p class="quiet">Six stops with Oda, from her body to the files. Left at any time.</p>
          </div>
          <button class="press" data-testid="begin-tour" @click="tour.begin()"><Route :size="14" />Show me</button>
        </section>
      </div>
    </div>
  </div>
</template>
