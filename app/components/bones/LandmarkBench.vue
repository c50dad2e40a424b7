<script setup lang="ts">
import { landmarkKind, ON_SKIN } from '@chiraxis/core/landmarks'
import type { Vec3 } from '@chiraxis/core/math'

const view = useView()
const derived = useDerived()
const project = useProject()
const drag = useLandmarkDrag()

const shown = computed(() => drag.draft.value ?? derived.landmarks ?? [])
const chosen = computed(() => shown.value.find(l => l.id === view.landmark))
const kind = computed(() => (view.landmark ? landmarkKind(view.landmark) : undefined))
const byHand = computed(() => (view.landmark ? project.recipe.landmarks.edits[view.landmark] !== undefined : false))
const guessed = computed(() => derived.findings.filter(f => f.rule === 'guessed-landmark').length)
watch([() => view.landmark, () => derived.landmarks], () => void drag.askSection(), { immediate: true })

function setAxis(axis: 0 | 1 | 2, cm: number): void {
  if (!chosen.value || !kind.value) return
  const p: Vec3 = [...chosen.value.position]
  p[axis] = cm / 100
  drag.commit(chosen.value.id, p, `Place ${kind.value.label.toLowerCase()}`, true)
}
function centre(): void {
  const c = drag.section.value?.centre
  if (c && chosen.value && kind.value) drag.commit(chosen.value.id, c as Vec3, `Centre ${kind.value.label.toLowerCase()}`)
}
function release(all: boolean): void {
  const recipe = project.recipe
  const edits = all ? {} : Object.fromEntries(Object.entries(recipe.landmarks.edits).filter(([id]) => id !== view.landmark))
  project.change(all ? 'Let all landmarks be found again' : `Let ${kind.value?.label.toLowerCase()} be found again`, { ...recipe, landmarks: { edits } })
}
</script>

<template>
  <BenchHead title="Landmarks" sentence="Where the joints belong. Drag a mark in any view; done when every point sits in the middle of its limb." />
  <WorkProgress step="shape" what="Straightening the body" />
  <WorkProgress step="landmarks" what="Finding landmarks" />
  <div v-if="guessed > 0" class="mx-4 mb-3 border-l-2 border-madder bg-paper-2 px-3 py-2">
    <p class="font-semibold">{{ guessed }} {{ guessed === 1 ? 'landmark is a guess' : 'landmarks are guesses' }}</p>
    <button class="press mt-2" @click="view.findingsOpen = true">See which</button>
  </div>
  <template v-if="chosen && kind">
    <div class="card">
      <h3 class="flex items-center gap-2"><SideIcon :side="kind.side" />{{ kind.label }}<span class="num quiet ml-auto text-xs font-normal">{{ chosen.confidence >= 1 ? 'placed by hand' : `confidence ${chosen.confidence.toFixed(2)}` }}</span></h3>
      <p class="quiet mb-2">{{ kind.hint }}</p>
      <NumberField label="Across" :value="chosen.position[0] * 100" unit="cm" :disabled="kind.side === 'middle' && view.mirror" @change="setAxis(0, $event)" />
      <NumberField label="Height" :value="chosen.position[1] * 100" unit="cm" @change="setAxis(1, $event)" />
      <NumberField label="Depth" :value="chosen.position[2] * 100" unit="cm" @change="setAxis(2, $event)" />
      <button v-if="byHand" class="press mt-2" @click="release(false)">Find it again</button>
    </div>
    <div v-if="drag.section.value" class="card flex gap-3">
      <SectionLens :section="drag.section.value" :side="kind.side" :point="chosen.position" :size="140" />
      <div class="flex min-w-0 flex-col items-start gap-1.5">
        <h3 class="!mb-0">Section</h3>
        <p class="quiet">cut across the {{ kind.side === 'middle' ? 'body' : 'limb' }}</p>
        <p class="num">{{ drag.section.value.centre ? `${(drag.section.value.off * 100).toFixed(1)} cm off centre` : 'nothing is cut here' }}</p>
        <button v-if="!ON_SKIN.has(kind.id)" class="press" :disabled="!drag.section.value.centre || drag.section.value.off < 0.0005" data-testid="centre" @click="centre">Centre</button>
      </div>
    </div>
  </template>
  <div v-else-if="derived.landmarks" class="card quiet">Choose a landmark on the plate or in the list to see its place and the cut of the body there.</div>
  <div class="card">
    <h3>Edits</h3>
    <SwitchRow v-model="view.mirror" label="Mirror to the other side" />
    <SwitchRow v-model="view.seeThrough" label="See through the body" />
    <button v-if="Object.keys(project.recipe.landmarks.edits).length > 0" class="press mt-1" @click="release(true)">Find all again</button>
  </div>
  <div class="mt-auto p-4"><button class="press press-main" :disabled="!derived.skeleton" @click="view.go('skeleton')">Go on to the skeleton</button></div>
</template>
