<script setup lang="ts">
import { roleLabel } from '@chiraxis/core/body'
import { jsonOf } from '@chiraxis/core/math'
import { parsePerformerNote, writePerformerNote } from '@chiraxis/core/retarget'
import { Download, FolderOpen } from '@lucide/vue'
import { fileStem, saveAs } from '~/composables/useFiles'

const view = useView()
const derived = useDerived()
const { take, note, key, setNote } = useTakeEdit()
const answer = computed(() => (derived.ownShown ? undefined : derived.performed?.answer))
const by = computed(
  () =>
    ({ roles: 'told by the file', names: "read from the joints' names", structure: 'read from how the joints hang' })[
      answer.value?.by ?? ''
    ] ?? '',
)
const theirs = computed(() => {
  const a = answer.value
  const j = a?.performerJoints[view.role]
  return a && j !== undefined ? a.performer.names[j]! : ''
})
const chosen = computed({
  get: () => theirs.value,
  set: name =>
    setNote(
      name
        ? `Let ${name} play ${roleLabel(view.role).toLowerCase()}`
        : `Leave ${roleLabel(view.role).toLowerCase()} to nobody`,
      { map: { ...note.value.map, [view.role]: name } },
    ),
})
const byHand = computed(() => Object.keys(note.value.map).length)
const unplayed = computed(() => {
  const a = answer.value
  return a
    ? Object.keys(a.figureJoints).filter(
        r =>
          a.performerJoints[r] === undefined &&
          a.roleMap[derived.skeleton?.names[a.figureJoints[r]!] ?? ''] === undefined,
      )
    : []
})
const idle = computed(() => answer.value?.extra.map(j => answer.value!.performer.names[j]!) ?? [])
/** Spine and neck joints follow places between performer joints. */
const shared = computed(() => {
  const a = answer.value,
    s = derived.skeleton
  if (!a || !s) return ''
  const mine = ['spine', 'chest', 'upperChest'].filter(r => a.figureJoints[r] !== undefined).length
  let theirsCount = 0
  for (
    let j = a.performerJoints.neck ?? a.performerJoints.head ?? -1;
    j >= 0 && j !== a.performerJoints.hips;
    j = a.performer.parents[j]!
  )
    theirsCount++
  return `${mine} spine joints of the figure share the turns of ${Math.max(0, theirsCount - 1)} of the performer's along their length.`
})
function save(): void {
  if (key.value && take.value)
    saveAs(
      `${fileStem(take.value.performer)}.performer.json`,
      writePerformerNote(take.value.performer, note.value),
      'application/json',
    )
}
const refused = ref('')
async function load(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  try {
    setNote(`Load ${file.name}`, parsePerformerNote(jsonOf(await file.text(), file.name)))
    refused.value = ''
  } catch (error) {
    refused.value = (error as Error).message
  }
}
</script>

<template>
  <BenchHead
    title="Role map"
    sentence="Which joint of the performer each joint of this figure follows. Done when every part that should move has its joint."
  />
  <WorkProgress step="take" what="Carrying the take over" />
  <PerformerReading v-if="!derived.ownShown" />
  <div v-if="!answer && derived.steps.take.state !== 'refused'" class="card quiet">
    Choose a take that was recorded on somebody else.
  </div>
  <template v-else-if="answer">
    <div class="card">
      <h3>
        {{ take?.performer }} <span class="quiet font-normal">· {{ by }}</span>
      </h3>
      <div class="flex justify-between py-0.5">
        <span class="quiet">Roles mapped</span
        ><span class="num" data-testid="roles-played"
          >{{ Object.keys(answer.roleMap).length }} of {{ Object.keys(answer.figureJoints).length }}</span
        >
      </div>
      <p class="quiet mt-1 text-xs">{{ shared }}</p>
    </div>
    <div class="card">
      <h3>{{ roleLabel(view.role) }}</h3>
      <select v-model="chosen" class="field" aria-label="Mapped to" data-testid="played-by">
        <option value="">unmapped</option>
        <option v-for="(name, j) in answer.performer.names" :key="j" :value="name">{{ name }}</option>
      </select>
      <p class="quiet mt-2 text-xs">
        Or press a joint of the performer on the plate. Press a joint of the figure to choose its role.
      </p>
      <button
        v-if="note.map[view.role] !== undefined"
        class="press mt-2"
        @click="
          setNote('Role back to auto', {
            map: Object.fromEntries(Object.entries(note.map).filter(([r]) => r !== view.role)),
          })
        "
      >
        Back to auto
      </button>
    </div>
    <div v-if="unplayed.length > 0" class="card">
      <h3>
        Unmapped <span class="num quiet font-normal">{{ unplayed.length }}</span>
      </h3>
      <p class="quiet">
        {{
          unplayed
            .slice(0, 8)
            .map(r => roleLabel(r).toLowerCase())
            .join(', ')
        }}{{ unplayed.length > 8 ? ` and ${unplayed.length - 8} more` : '' }}. They keep their rest pose.
      </p>
    </div>
    <div v-if="idle.length > 0" class="card">
      <h3>
        Unmapped joints of the performer <span class="num quiet font-normal">{{ idle.length }}</span>
      </h3>
      <p class="quiet break-words">
        {{ idle.slice(0, 10).join(', ') }}{{ idle.length > 10 ? ` and ${idle.length - 10} more` : '' }}
      </p>
    </div>
    <div class="card">
      <h3>
        Kept with the performer <span class="quiet font-normal">· {{ byHand }} by hand</span>
      </h3>
      <p class="quiet mb-2 text-xs">Every take on the same skeleton uses this map.</p>
      <div class="flex gap-2">
        <button class="press" @click="save"><Download :size="14" />Save</button
        ><label class="press"
          ><FolderOpen :size="14" />Load<input
            type="file"
            accept=".json"
            class="sr-only"
            data-testid="load-performer"
            @change="load"
        /></label>
        <button class="press ml-auto" :disabled="byHand === 0" @click="setNote('Map back to auto', { map: {} })">
          Reset
        </button>
      </div>
      <p v-if="refused" class="mt-2 border-l-2 border-madder pl-2" role="alert">{{ refused }}</p>
    </div>
  </template>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!answer" @click="view.go('match')">Go on to the rest match</button>
  </div>
</template>
