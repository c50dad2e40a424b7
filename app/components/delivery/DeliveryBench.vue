<script setup lang="ts">
import { RefusedError } from '~/workers/client'
import type { DeliveryAnswer } from '~/workers/core-api'

/** The way out: what goes along, how the receiver wants it, and the proof of what was written. */
const derived = useDerived()
const project = useProject()
const files = useFiles()
const carried = useProps()
const delivery = useDelivery()
const written = shallowRef<DeliveryAnswer>()
watch(
  () => project.recipe,
  () => {
    written.value = undefined
    keptBack.value = false
  },
)

/** What comes of the press at the foot is brought into sight. */
const outcome = ref<HTMLDivElement>()
watch(
  () => [derived.steps.deliver.state, written.value],
  () => outcome.value?.scrollIntoView({ block: 'nearest' }),
  { flush: 'post' },
)
/** Whether the last files were kept back because their proof failed. */
const keptBack = ref(false)
async function deliver(insist = false): Promise<void> {
  keptBack.value = false
  try {
    const profile = delivery.profile.value
    const moment = profile.format === 'obj' ? delivery.moment.value : undefined
    const takes = moment ? [moment.take] : [...delivery.chosen.value]
    const result = await derived.deliver(takes, profile, insist, moment?.at)
    written.value = result
    saveAs(result.name, result.bytes, 'application/octet-stream')
  } catch (error) {
    // the step tells its own refusal
    keptBack.value = error instanceof RefusedError && error.refusal.code === 'unproven'
  }
}
</script>

<template>
  <BenchHead
    title="Delivery"
    sentence="Writes the figure as its receiver wants it, and proves every file: read back, validated, compared."
  />
  <WorkProgress step="skin" what="Working out skin weights" />
  <ProfileCard />
  <DeliveredTakes />
  <div v-if="carried.list.value.length > 0" class="card" data-testid="delivered-props">
    <h3>Props</h3>
    <p v-for="p in carried.list.value" :key="p.id" class="flex justify-between py-0.5">
      <span>{{ p.name }}</span><span class="quiet">{{ carried.nameOf(p.carry.by).toLowerCase() }}</span>
    </p>
    <p class="quiet text-xs">
      Each goes along as a node of its own: on its joint, or moved by every take where it changes hands.
    </p>
  </div>
  <div ref="outcome" class="scroll-mb-20">
    <WorkProgress step="deliver" what="Writing and proving" />
    <div v-if="keptBack" class="mx-4 mb-3">
      <button class="press" data-testid="insist" @click="deliver(true)">Hand it over unproven</button>
      <p class="quiet mt-1 text-xs">What failed is told beside the file and in the manifest.</p>
    </div>
    <ProofCard v-if="written" :key="written.name" :files="written.files" :name="written.name" />
  </div>
  <div class="card">
    <h3>Project</h3>
    <p class="quiet mb-2">One open archive with the recipe and every file it names.</p>
    <div class="flex gap-2">
      <button class="press" data-testid="save-project" @click="files.saveProject()">Save project</button
      ><button class="press" @click="files.pick()">Open</button>
    </div>
  </div>
  <div class="bench-foot">
    <button
      class="press press-main"
      :disabled="!derived.skeleton || derived.steps.deliver.state === 'working'"
      data-testid="deliver"
      @click="deliver()"
    >
      Write the files
    </button>
  </div>
</template>
