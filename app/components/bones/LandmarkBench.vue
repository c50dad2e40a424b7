<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import { isFinger } from '@chiraxis/core/body'
import { landmarkKind, mostSettling } from '@chiraxis/core/landmarks'

const view = useView()
const derived = useDerived()
const project = useProject()
const drag = useLandmarkDrag()

const chosen = computed(() => derived.landmarks?.some(l => l.id === view.landmark) ?? false)
const guessed = computed(() => derived.findings.filter(f => f.rule === 'guessed-landmark').length)
const findAll = (): void =>
  project.change('Let all landmarks be found again', { ...project.recipe, landmarks: { edits: {} } })
/** The one whose placing would help most. */
const ask = computed(() =>
  drag.draft.value ? undefined : mostSettling((derived.landmarks ?? []).filter(l => !isFinger(l.id))),
)
const askKind = computed(() => (ask.value ? landmarkKind(ask.value.id) : undefined))
const refused = computed(() => derived.steps.landmarks.state === 'refused')
const kept = computed(() => derived.kept === true)
const planKind = computed({
  get: () => project.recipe.bones.plan.kind,
  set: v =>
    project.change(
      {
        auto: 'Let the body tell its plan',
        biped: 'Two legs and two arms',
        fourleg: 'Four legs',
        drawn: 'Draw the skeleton',
      }[v],
      {
        ...project.recipe,
        bones: { ...project.recipe.bones, plan: { ...project.recipe.bones.plan, kind: v } },
        landmarks: { edits: {} },
      },
    ),
})
const drawIt = (): void => {
  planKind.value = 'drawn'
  view.go('skeleton')
}
const byHandNow = (): void =>
  project.change('Place landmarks by hand', {
    ...project.recipe,
    landmarks: { ...project.recipe.landmarks, byHand: true },
  })
const buildOwn = (): void =>
  project.change('Build a skeleton on landmarks', {
    ...project.recipe,
    bones: { ...project.recipe.bones, source: 'plan', edits: [] },
  })
</script>

<template>
  <BenchHead
    title="Landmarks"
    sentence="Where the joints belong. Done when every mark sits in the middle of its limb."
  />
  <WorkProgress step="shape" what="Straightening the body" />
  <WorkProgress step="landmarks" what="Finding landmarks" />
  <div v-if="kept" class="card">
    <h3>This body brought its skeleton</h3>
    <p class="quiet mb-2">
      It is kept as it came, skin and takes included. Landmarks are only needed to build another one.
    </p>
    <div class="flex gap-2">
      <button class="press" @click="view.go('skeleton')">Look at it</button
      ><button class="press" @click="buildOwn">Build one on landmarks</button>
    </div>
  </div>
  <div v-else-if="refused" class="card">
    <h3>The search found no figure here</h3>
    <p class="quiet mb-2">
      Set axes and unit in Shape, choose a plan below, or start from usual proportions and drag every mark to its place.
      What stands neither on two nor on four legs is drawn.
    </p>
    <div class="flex flex-wrap gap-2">
      <button class="press border-ink font-semibold" data-testid="by-hand" @click="byHandNow">
        Place them by hand
      </button>
      <button class="press" data-testid="by-drawing" @click="drawIt">Draw its skeleton</button>
    </div>
  </div>
  <div v-else-if="derived.plan === 'drawn'" class="card">
    <h3>No landmarks here</h3>
    <p class="quiet mb-2">The skeleton of this body is drawn chain by chain, so nothing is searched for.</p>
    <button class="press" @click="view.go('skeleton')">Draw it</button>
  </div>
  <div v-else-if="ask && askKind" class="mx-4 mb-3 border-l-2 border-madder bg-paper-2 px-3 py-2">
    <p class="font-semibold">{{ counted(guessed, 'landmark needs', 'landmarks need') }} a look</p>
    <p class="quiet mt-0.5">{{ askKind.label }} would help most.</p>
    <div class="mt-2 flex gap-2">
      <button class="press" data-testid="ask" @click="view.landmark = ask.id">Place it</button
      ><button class="press" @click="view.findingsOpen = true">See all</button>
    </div>
  </div>
  <LandmarkCard v-if="chosen" :opens-at="0.06" opens-into="trunk" />
  <div v-else-if="derived.landmarks && derived.landmarks.length > 0" class="card quiet">
    Choose a landmark on the plate or in the list to see its place and the cut of the body there.
  </div>
  <div v-if="!kept" class="card">
    <ChoiceRow
      v-model="planKind"
      label="Plan"
      :options="[
        { value: 'auto', label: 'Auto' },
        { value: 'biped', label: 'Two legs' },
        { value: 'fourleg', label: 'Four legs' },
        { value: 'drawn', label: 'Drawn' },
      ]"
    />
  </div>
  <div class="card">
    <h3>Edits</h3>
    <SwitchRow v-model="view.mirror" label="Mirror to the other side" />
    <SwitchRow v-model="view.keepMiddle" label="Keep to the middle of the limb" />
    <SwitchRow v-model="view.seeThrough" label="See through the body" />
    <button
      v-if="Object.keys(project.recipe.landmarks.edits).length > 0 || project.recipe.landmarks.byHand"
      class="press mt-1"
      @click="findAll"
    >
      Find all again
    </button>
  </div>
  <div class="bench-foot">
    <button
      class="press press-main"
      :disabled="!derived.skeleton"
      @click="view.go(derived.plan === 'biped' ? 'hands' : 'skeleton')"
    >
      {{ derived.plan === 'biped' ? 'Go on to the hands' : 'Go on to the skeleton' }}
    </button>
  </div>
</template>
