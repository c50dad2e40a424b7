<script setup lang="ts">
import type { Clip } from '@chiraxis/core/trial'

/** Who is tried out, the takes it may be led with, by who performed them, and what it goes on. */
const trial = useTrial()
const project = useProject()
const WORDS: Record<Clip['kind'], string> = { steps: 'goes', stand: 'stands', once: 'once' }
const choice = computed(() => trial.other.value)
function swap(event: Event): void {
  const to = (event.target as HTMLSelectElement).value
  if (to === 'file') {
    ;(event.target as HTMLSelectElement).value = choice.value
    bodyFile.value?.click()
  } else void trial.swap(to)
}
const bodyFile = ref<HTMLInputElement>()
const floorFile = ref<HTMLInputElement>()
function picked(event: Event, run: (f: File) => Promise<void>): void {
  const input = event.target as HTMLInputElement
  const [file] = input.files ?? []
  if (file) void run(file)
  input.value = ''
}
</script>

<template>
  <div class="px-3 pb-3">
    <label class="block"
      ><span class="quiet mb-1 block text-xs">Figure</span
      ><select class="field" aria-label="Figure" :value="choice" @change="swap">
        <option value="">{{ project.recipe.name }}</option>
        <option v-for="o in trial.others.value" :key="o.id" :value="o.id">{{ o.name }}</option>
        <option value="file">A body from a file …</option>
      </select></label
    >
    <label v-if="trial.performers.value.length > 1" class="mt-2 block"
      ><span class="quiet mb-1 block text-xs">Takes of</span
      ><select
        class="field"
        aria-label="Takes of"
        :value="trial.by.value"
        @change="trial.choosePerformer(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="p in trial.performers.value" :key="p" :value="p">{{ p }}</option>
      </select></label
    >
  </div>
  <label
    v-for="t in trial.takes.value"
    :key="t.id"
    class="flex cursor-pointer items-center gap-2 px-3 py-[2px] hover:bg-paper-2"
    ><input
      type="checkbox"
      class="accent-[var(--madder)]"
      :checked="trial.wanted.value.includes(t.id)"
      :data-led="t.name"
      @change="trial.choose(t.id, ($event.target as HTMLInputElement).checked)"
    /><span class="flex-1 truncate" :class="trial.kindOf(t.id) ? '' : 'text-ink-2'">{{ t.name }}</span
    ><span v-if="trial.kindOf(t.id)" class="quiet text-[11px]">{{ WORDS[trial.kindOf(t.id)!] }}</span></label
  >
  <div class="mt-3 border-t border-rule px-3 py-3">
    <span class="quiet mb-1 block text-xs">Ground</span>
    <p class="truncate">{{ trial.told.value?.floor?.name ?? 'The quay' }}</p>
    <div class="mt-1 flex flex-wrap gap-1">
      <button class="press" @click="floorFile?.click()">A mesh …</button>
      <button
        v-if="trial.told.value?.floor"
        class="press"
        @click="trial.change('Walk on the quay', { floor: undefined })"
      >
        The quay
      </button>
    </div>
  </div>
  <input
    ref="bodyFile"
    type="file"
    accept=".glb,.gltf,.obj,.vrm"
    class="hidden"
    data-testid="guest-file"
    @change="picked($event, trial.swapFile)"
  />
  <input
    ref="floorFile"
    type="file"
    accept=".glb,.gltf,.obj"
    class="hidden"
    data-testid="floor-file"
    @change="picked($event, trial.bringFloor)"
  />
</template>
