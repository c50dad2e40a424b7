<script setup lang="ts">
import type { Proof } from '@chiraxis/core/formats'

const derived = useDerived()
const project = useProject()
const files = useFiles()
const carried = useProps()
const chosen = ref<string[]>([])
const proof = shallowRef<Proof>()
const written = ref('')
const listed = computed(() => derived.fittingTakes)
watch(
  listed,
  takes => {
    const known = new Set(takes.map(t => t.id))
    chosen.value = chosen.value.filter(id => known.has(id))
    if (chosen.value.length === 0) chosen.value = takes.filter(t => t.performer !== 'South').map(t => t.id)
  },
  { immediate: true },
)
watch(
  () => project.recipe,
  () => {
    proof.value = undefined
  },
)

/** What comes of the press at the foot is brought into sight. */
const outcome = ref<HTMLDivElement>()
watch(
  () => [derived.steps.deliver.state, proof.value],
  () => outcome.value?.scrollIntoView({ block: 'nearest' }),
  { flush: 'post' },
)
async function deliver(): Promise<void> {
  try {
    const result = await derived.deliver([...chosen.value])
    proof.value = result.proof
    written.value = `${fileStem(project.recipe.name)}.glb`
    saveAs(written.value, result.bytes, 'model/gltf-binary')
  } catch {
    // the step tells its own refusal
  }
}
const rows = computed(() => {
  const p = proof.value
  if (!p) return []
  return [
    { label: 'Validator errors', value: String(p.validatorErrors), good: p.validatorErrors === 0 },
    { label: 'Validator warnings', value: String(p.validatorWarnings), good: p.validatorWarnings === 0 },
    {
      label: 'Largest shift of a point',
      value: `${(p.maxPositionError * 1000).toFixed(4)} mm`,
      good: p.maxPositionErrorShare < 1e-5,
    },
    {
      label: 'Largest turn of a joint',
      value: `${p.maxRotationErrorDegrees.toFixed(4)}°`,
      good: p.maxRotationErrorDegrees < 0.01,
    },
    { label: 'Size', value: `${(p.bytes / 1e6).toFixed(2)} MB`, good: true },
  ]
})
</script>

<template>
  <BenchHead
    title="Deliver"
    sentence="Writes the figure for the next program and proves it: read back, validated, compared. Done when the proof is clean."
  />
  <WorkProgress step="skin" what="Working out skin weights" />
  <div class="card">
    <h3>GLB <span class="quiet font-normal">· metres, Y up, body, skeleton, skin</span></h3>
    <p class="quiet mb-1">Takes to include</p>
    <p v-for="t in derived.rig?.takes ?? []" :key="t.id" class="flex items-center gap-2 py-[2px]">
      <input type="checkbox" checked disabled class="accent-madder" />{{ t.name
      }}<span class="quiet ml-auto text-xs">came with the body</span>
    </p>
    <p v-if="listed.length === 0 && !derived.rig?.takes.length" class="quiet">
      None yet; the figure is delivered at rest.
    </p>
    <label v-for="t in listed" :key="t.id" class="flex items-center gap-2 py-[2px]"
      ><input v-model="chosen" type="checkbox" :value="t.id" class="accent-madder" />{{ t.name
      }}<span class="quiet ml-auto text-xs">{{ t.performer }}</span></label
    >
  </div>
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
    <div v-if="proof" class="card" data-testid="proof">
      <h3>
        Proof <span class="quiet font-normal">· {{ written }}</span>
      </h3>
      <div v-for="r in rows" :key="r.label" class="flex justify-between py-0.5">
        <span class="quiet">{{ r.label }}</span><span class="num" :class="r.good ? '' : 'font-semibold text-madder'">{{
          r.value
        }}</span>
      </div>
      <p v-if="proof.sameAsSource" class="mt-1">
        Same as the file it came in, but for what was asked: nodes, materials, images, attributes, extras.
      </p>
      <p v-for="m in proof.inherited ?? []" :key="m" class="mt-1 text-xs">Came so in the file: {{ m }}</p>
      <p v-for="m in proof.messages" :key="m" class="mt-1 text-xs text-madder">{{ m }}</p>
    </div>
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
      @click="deliver"
    >
      Deliver GLB
    </button>
  </div>
</template>
