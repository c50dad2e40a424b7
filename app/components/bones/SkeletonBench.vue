<script setup lang="ts">
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
import { ChevronRight, X } from '@lucide/vue'
import type { Vec3 } from '@chiraxis/core/math'
import { jointSide } from '@chiraxis/core/skeleton'
import { planOfRecipe, type Recipe } from '@chiraxis/core/recipe'
import type { RigEdit } from '@chiraxis/core/rig'
import { core, tell, unwrap } from '~/workers/client'

const view = useView()
const derived = useDerived()
const project = useProject()
const edit = useJointEdit()
const files = useFiles()

const s = computed(() => edit.draft.value ?? derived.skeleton)
const j = computed(() => Math.min(derived.joint, (s.value?.names.length ?? 1) - 1))
const place = computed<Vec3 | undefined>(() => (s.value ? edit.placeOf(s.value, j.value) : undefined))
const isReceived = computed(() => derived.rig?.source === 'received')
watch([() => derived.joint, () => derived.skeleton], () => void edit.askSection(), { immediate: true })

function centre(): void {
  const c = edit.section.value?.centre
  if (c) edit.moveTo(j.value, c as Vec3)
}
/** A cut that runs into the trunk has no middle of the limb to go to. */
const opens = computed(() => (edit.section.value?.off ?? 0) > 0.05 * (derived.shape?.straightened.height ?? 1))
const edits = computed(() => project.recipe.bones.edits as readonly RigEdit[])
const lost = (e: RigEdit): string | undefined =>
  derived.rig?.lost.find(l => JSON.stringify(l.edit) === JSON.stringify(e))?.reason
type Source = 'received' | 'plan' | 'given'
const SOURCES: Record<Source, string> = {
  received: 'Keep the skeleton that came',
  plan: 'Build a skeleton on landmarks',
  given: 'Lay the given skeleton on the body',
}
/** The file whose skeleton is laid on the body, or was. */
const givenFile = computed(() => project.recipe.bones.given?.file.name)
const given = computed(() => project.recipe.bones.source === 'given' && givenFile.value !== undefined)
const sources = computed<{ value: Source; label: string }[]>(() => [
  ...(derived.shape?.joints ? [{ value: 'received' as const, label: 'As it came' }] : []),
  { value: 'plan', label: 'On landmarks' },
  ...(givenFile.value ? [{ value: 'given' as const, label: 'Of a file' }] : []),
])
const source = computed({
  get: (): Source => (isReceived.value ? 'received' : given.value ? 'given' : 'plan'),
  set: v =>
    project.change(SOURCES[v], {
      ...project.recipe,
      bones: { ...project.recipe.bones, source: v, edits: [] },
    }),
})
async function saveSkeleton(): Promise<void> {
  const bytes = await unwrap(core().skeletonFile(tell(project.recipe)))
  saveAs(`${fileStem(project.recipe.name)}.skeleton.glb`, bytes, 'model/gltf-binary')
}
function savePlan(): void {
  const own = planOfRecipe(project.recipe as Recipe, project.recipe.name)
  saveAs(
    `${fileStem(project.recipe.name)}.plan.json`,
    new TextEncoder().encode(JSON.stringify(own, null, 1)),
    'application/json',
  )
}
</script>

<template>
  <BenchHead
    title="Skeleton"
    sentence="Drag a joint in any view, or type its place. Every edit is kept and made again when landmarks or the body change."
  />
  <WorkProgress step="landmarks" what="Finding landmarks" />
  <WorkProgress step="rig" what="Building the skeleton" />
  <div v-if="derived.shape" class="card">
    <ChoiceRow v-if="sources.length > 1" v-model="source" label="Skeleton" :options="sources" />
    <p v-if="given" class="quiet mb-1 truncate text-xs" :title="givenFile">{{ givenFile }}, as it is</p>
    <button
      class="press"
      title="Joints, names and axes stay as they are in the file; only their places change"
      data-testid="lay-skeleton"
      @click="files.pickSkeleton()"
    >
      Lay a skeleton of a file on it
    </button>
  </div>
  <JointCard />
  <div v-if="edit.section.value" class="card flex gap-3">
    <SectionLens :section="edit.section.value" :side="s ? jointSide(s, j) : 'middle'" :point="place" :size="112" />
    <div class="flex min-w-0 flex-col items-start gap-1.5">
      <h3 class="!mb-0">Section</h3>
      <p class="num">
        {{
          !edit.section.value.centre
            ? 'nothing is cut here'
            : opens
              ? 'opens into the trunk'
              : `${(edit.section.value.off * 100).toFixed(1)} cm off centre`
        }}
      </p>
      <button
        class="press"
        :disabled="!edit.section.value.centre || opens || edit.section.value.off < 0.0005"
        data-testid="centre-joint"
        @click="centre"
      >
        Centre
      </button>
    </div>
  </div>
  <JointActions />
  <DrawCard />
  <PlanCard v-if="!isReceived && !given" />
  <div class="card flex flex-wrap gap-2">
    <button
      v-if="!given && !isReceived"
      class="press"
      title="What was chosen and drawn, to be built on other bodies"
      @click="savePlan"
    >
      Save as a plan</button
    ><button
      class="press"
      :disabled="!derived.skeleton"
      title="Joints, names and axes as they are, to be laid on other bodies"
      data-testid="save-skeleton"
      @click="saveSkeleton"
    >
      Save the skeleton</button
    ><button class="press" @click="files.pick()">Load a plan</button>
  </div>
  <Disclosure v-if="edits.length > 0" v-slot="{ open }" as="div" class="card">
    <DisclosureButton class="flex w-full items-center gap-1 font-semibold"
      ><ChevronRight :size="14" :class="open ? 'rotate-90' : ''" />Edits by hand
      <span class="num quiet ml-auto font-normal">{{ edits.length }}</span></DisclosureButton
    >
    <DisclosurePanel class="pt-2">
      <div v-for="(e, i) in edits" :key="i" class="flex items-center gap-2 py-[2px]">
        <span class="flex-1 truncate" :class="lost(e) ? 'text-madder' : ''" :title="lost(e)">{{
          edit.words(e)
        }}</span><button
          class="p-0.5 text-ink-2 hover:text-ink"
          :aria-label="`Take back: ${edit.words(e)}`"
          @click="edit.without(i)"
        >
          <X :size="13" />
        </button>
      </div>
    </DisclosurePanel>
  </Disclosure>
  <div class="card">
    <h3>Display</h3>
    <SwitchRow v-model="view.seeThrough" label="See through the body" />
    <NumberField
      label="Joint size"
      :value="view.jointSize"
      unit="×"
      :step="0.1"
      @change="view.jointSize = Math.min(3, Math.max(0.4, $event))"
    />
  </div>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!derived.skeleton" @click="view.go('axes')">Go on to the axes</button>
  </div>
</template>
