<script setup lang="ts">
import { EXPRESSION_KINDS, EXPRESSIONS, type Expression } from '@chiraxis/core/face'
import { counted } from '@chiraxis/core/words'

/** The face: its expressions as pictures of itself, the shapes that make them, and making those it lacks. */
const view = useView()
const derived = useDerived()
const project = useProject()
const face = useFace()
onMounted(() => void derived.look('face'))
onBeforeUnmount(() => {
  face.shown.value = undefined
  void derived.look('face', false)
})
const GROUPS = [
  ['mood', 'Moods'],
  ['mouth', 'Mouth'],
  ['lids', 'Lids'],
  ['gaze', 'Gaze'],
] as const
const groups = GROUPS.map(([kind, label]) => ({ label, list: EXPRESSIONS.filter(e => EXPRESSION_KINDS[e] === kind) }))
const pictures = computed(facePictures)
const shown = computed(() => face.shown.value)
const own = computed(() => (shown.value ? (face.binds.value[shown.value] ?? []) : []))
const toldByHand = computed(() => shown.value !== undefined && face.choices.value.binds?.[shown.value] !== undefined)
function look(e: Expression): void {
  face.shown.value = shown.value === e ? undefined : e
  face.strength.value = 1
}
const making = computed({ get: () => face.choices.value.make === true, set: face.make })
const others = computed(() => face.shapes.value.map(s => s.name).filter(n => !own.value.some(b => b.shape === n)))
const more = ref('')
watch(more, name => {
  if (!name || !shown.value) return
  face.setBind(shown.value, [...own.value, { shape: name, weight: 1 }])
  more.value = ''
})
const without = (name: string): void => {
  if (shown.value)
    face.setBind(
      shown.value,
      own.value.filter(b => b.shape !== name),
    )
}
const weigh = (name: string, weight: number): void => {
  if (shown.value)
    face.setBind(
      shown.value,
      own.value.map(b => (b.shape === name ? { ...b, weight } : b)),
    )
}
const unsure = computed(() => face.places.value.filter(p => p.confidence < 0.6).length)
</script>

<template>
  <BenchHead
    title="Face"
    sentence="What the face can show. Done when every expression that is needed has its picture."
  />
  <WorkProgress step="shape" what="Straightening the body" />
  <WorkProgress step="face" what="Finding the face" />
  <WorkProgress step="expressions" what="Making expressions" />
  <div v-if="derived.steps.face.state === 'done' && !derived.face" class="card quiet" data-testid="no-face">
    No face is to be seen on this body. Shapes it came with still play and are written.
  </div>
  <div v-for="g in groups" :key="g.label" class="card !pb-2">
    <h3>{{ g.label }}</h3>
    <div class="grid grid-cols-4 gap-1.5">
      <button
        v-for="e in g.list"
        :key="e"
        class="flex flex-col items-center rounded-sm border bg-paper-2 pb-0.5 text-xs"
        :class="shown === e ? 'border-madder font-semibold' : 'border-rule hover:border-ink-2'"
        :disabled="!face.binds.value[e]?.length && face.shapes.value.length === 0"
        :aria-pressed="shown === e"
        :data-expression="e"
        :data-has="face.binds.value[e]?.length ? '' : undefined"
        @click="look(e)"
      >
        <img
          v-if="pictures[e] && face.binds.value[e]?.length"
          :src="pictures[e]"
          class="h-[64px] w-full object-cover"
          alt=""
        />
        <span v-else class="quiet flex h-[64px] items-center" aria-hidden="true">{{
          face.binds.value[e]?.length ? '…' : '–'
        }}</span>
        {{ EXPRESSION_WORDS[e] }}
      </button>
    </div>
  </div>
  <div v-if="shown" class="card" data-testid="expression">
    <h3>{{ EXPRESSION_WORDS[shown] }}</h3>
    <SliderRow
      label="Shown"
      :value="100 * face.strength.value"
      :min="0"
      :max="100"
      :step="1"
      unit="%"
      :digits="0"
      @change="v => (face.strength.value = v / 100)"
    />
    <p v-if="own.length === 0" class="quiet text-xs">No shape makes it yet.</p>
    <div v-for="b in own" :key="b.shape" class="flex items-center gap-2 py-0.5">
      <span class="min-w-0 flex-1 truncate" :title="b.shape">{{ b.shape }}</span>
      <NumberField
        class="w-[92px]"
        label=""
        :aria-label="`How strongly ${b.shape} takes part`"
        :value="100 * b.weight"
        unit="%"
        :step="5"
        :digits="0"
        @change="v => weigh(b.shape, Math.min(1, Math.max(0, v / 100)))"
      />
      <button class="press !min-h-6 !px-2" :aria-label="`Remove ${b.shape}`" @click="without(b.shape)">Remove</button>
    </div>
    <select v-if="others.length > 0" v-model="more" class="field mt-1" aria-label="Add a shape" data-testid="add-shape">
      <option value="">Add a shape …</option>
      <option v-for="n in others" :key="n" :value="n">{{ n }}</option>
    </select>
    <button v-if="toldByHand" class="press mt-2" @click="face.setBind(shown!, undefined)">Auto</button>
  </div>
  <div class="card">
    <h3>Missing expressions</h3>
    <SwitchRow v-model="making" label="Make them from the places of the face" />
    <p class="quiet mt-1 text-xs" data-testid="missing">
      {{
        face.missing.value.length === 0
          ? 'None is missing.'
          : `${counted(face.missing.value.length, 'expression has', 'expressions have')} no shape yet.`
      }}
    </p>
    <p v-for="t in derived.expressions.told" :key="t" class="mt-1 text-xs">{{ t }}</p>
    <p v-if="unsure > 0" class="mt-1 text-xs text-madder">
      {{ counted(unsure, 'place of the face needs', 'places of the face need') }} a look.
    </p>
    <SwitchRow v-model="view.mirror" label="Mirror to the other side" />
    <button v-if="project.recipe.face?.places" class="press mt-1" @click="face.findAgain()">Find the face again</button>
  </div>
  <div class="bench-foot">
    <button class="press press-main" @click="view.go('set')">Go on to the handles</button>
  </div>
</template>
