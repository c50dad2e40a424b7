<script setup lang="ts">
import { partnerOf, sideOf, roleLabel } from '@chiraxis/core/body'

const view = useView()
const derived = useDerived()
const player = usePlayer()
const { take, note, setNote, setTransfer, setTake } = useTakeEdit()
const project = useProject()
const answer = computed(() => (derived.ownShown ? undefined : derived.performed?.answer))
const rest = computed({
  get: () => project.recipe.transfer.rest,
  set: v => setTransfer(v === 'auto' ? 'Match rest poses' : 'Take rest poses as they are', { rest: v }),
})
const turn = computed(() => note.value.restTurns[view.role] ?? ([0, 0, 0] as [number, number, number]))
const AXES = [
  { k: 0, label: 'About left to right' },
  { k: 1, label: 'About up' },
  { k: 2, label: 'About ahead' },
] as const
function set(k: number, value: number, joins: boolean): void {
  const next = [...turn.value] as [number, number, number]
  next[k] = value
  setNote(
    `Match ${roleLabel(view.role).toLowerCase()} by hand`,
    { restTurns: { ...note.value.restTurns, [view.role]: next } },
    joins,
  )
}
const without = (role: string) => Object.fromEntries(Object.entries(note.value.restTurns).filter(([r]) => r !== role))
const mirrorRole = computed(() => (sideOf(view.role) === 'middle' ? '' : partnerOf(view.role)))
function mirror(): void {
  const [x, y, z] = turn.value
  setNote(`Match ${roleLabel(mirrorRole.value).toLowerCase()} alike`, {
    restTurns: { ...note.value.restTurns, [mirrorRole.value]: [x, -y, -z] },
  })
}
const byHand = computed(() => Object.keys(note.value.restTurns).length)
const from = computed(() =>
  answer.value?.restFrame === undefined
    ? "The file's rest pose is used."
    : `The file's rest pose shows no standing body; frame ${answer.value.restFrame} of the take stands in.`,
)
const source = computed<'auto' | 'file' | 'frame'>({
  get: () =>
    take.value?.restFrom !== undefined || typeof note.value.restFrom === 'number' ? 'frame' : note.value.restFrom,
  // a frame belongs to its take, all else to whoever performed it
  set: v => {
    if (v === 'frame') return setTake('Rest pose from a frame', { restFrom: player.frame })
    if (take.value?.restFrom !== undefined) setTake('Rest pose as of all takes', { restFrom: undefined })
    if (note.value.restFrom !== v) setNote('Rest pose of the performer', { restFrom: v }, true)
  },
})
</script>

<template>
  <BenchHead
    title="Rest match"
    sentence="The performer's rest pose brought onto the figure's. Done when its limbs lie in the figure's own."
  />
  <WorkProgress step="take" what="Carrying the take over" />
  <div v-if="!answer" class="card quiet">Choose a take that was recorded on somebody else.</div>
  <template v-else>
    <div class="card">
      <ChoiceRow
        v-model="view.performerShown"
        label="Performer"
        :options="[
          { value: 'beside', label: 'Beside' },
          { value: 'over', label: 'Over' },
        ]"
      />
      <ChoiceRow
        v-model="rest"
        label="Rest poses"
        :options="[
          { value: 'auto', label: 'Matched' },
          { value: 'none', label: 'As they are' },
        ]"
      />
    </div>
    <div class="card">
      <h3>
        {{ roleLabel(view.role) }}
        <span class="quiet font-normal"
          >· differed by <span class="num">{{ (answer.restMatch[view.role] ?? 0).toFixed(1) }}°</span></span
        >
      </h3>
      <SliderRow
        v-for="a in AXES"
        :key="a.k"
        :label="a.label"
        :value="turn[a.k]"
        :min="-180"
        :max="180"
        :step="1"
        :digits="1"
        unit="°"
        @change="(v, joins) => set(a.k, v, joins)"
      />
      <p class="quiet mb-2 text-xs">Or drag the light handle at the limb's end in any view.</p>
      <div class="flex gap-2">
        <button class="press" :disabled="!note.restTurns[view.role] || !mirrorRole" @click="mirror">
          Copy to the other side
        </button>
        <button
          class="press"
          :disabled="!note.restTurns[view.role]"
          data-testid="match-reset"
          @click="setNote('Limb as matched', { restTurns: without(view.role) })"
        >
          As matched
        </button>
      </div>
    </div>
    <div class="card">
      <h3>Performer's rest pose</h3>
      <ChoiceRow
        v-model="source"
        label="Taken from"
        :options="[
          { value: 'auto', label: 'Auto' },
          { value: 'file', label: 'The file' },
          { value: 'frame', label: 'This frame' },
        ]"
      />
      <p class="quiet mt-1 text-xs">
        {{ from }}
        <template v-if="source !== 'frame'"
          >Frame <span class="num">{{ player.frame }}</span> is at the playhead.</template
        >
      </p>
    </div>
    <div class="card">
      <h3>
        Kept with {{ take?.performer }} <span class="quiet font-normal">· {{ byHand }} by hand</span>
      </h3>
      <button class="press" :disabled="byHand === 0" @click="setNote('Rest match back to auto', { restTurns: {} })">
        Undo all corrections
      </button>
    </div>
  </template>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!answer" @click="view.go('tune')">Go on to tuning</button>
  </div>
</template>
