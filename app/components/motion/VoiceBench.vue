<script setup lang="ts">
import { FACE_PARTS, type FacePart } from '@chiraxis/core/face'
import { VOWELS, type MouthShape } from '@chiraxis/core/voice'

/** The voice of a take: its sound, what is said, and how strongly each part of the face takes part. */
const view = useView()
const derived = useDerived()
const voice = useVoice()
const face = useFace()
const { take } = useTakeEdit()
const input = ref<HTMLInputElement>()
const files = useFiles()
async function sample(): Promise<void> {
  const bytes = (await files.demoFile('boarding-call.wav')) as Uint8Array<ArrayBuffer>
  await voice.bring(new File([bytes], 'boarding-call.wav'))
}
async function picked(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const [file] = field.files ?? []
  field.value = ''
  if (file) await voice.bring(file)
}
watch(
  () => voice.voice.value?.sound.hash,
  () => void voice.listen(),
  { immediate: true },
)
const SHAPE_WORDS: Readonly<Record<MouthShape, string>> = {
  aa: 'aa',
  ih: 'ih',
  ou: 'ou',
  ee: 'ee',
  oh: 'oh',
  closed: 'Lips shut',
  breath: 'Breath',
  rest: 'Rest',
}
const SHAPES = [...VOWELS, 'closed', 'breath', 'rest'] as const
const chosen = computed(() => (voice.chosen.value === undefined ? undefined : voice.said.value[voice.chosen.value]))
const shape = computed({
  get: () => chosen.value?.shape ?? 'rest',
  set: s => {
    if (voice.chosen.value !== undefined)
      voice.change(voice.chosen.value, {
        shape: s,
        strength: s === 'rest' ? 0 : s === 'closed' ? 1 : Math.max(0.5, chosen.value?.strength ?? 1),
      })
  },
})
const PART_WORDS: Readonly<Record<FacePart, string>> = { mouth: 'Mouth', mood: 'Mood', lids: 'Lids', gaze: 'Gaze' }
const strengthOf = (part: FacePart): number => voice.told.value.strength?.[part] ?? 1
function strengthen(part: FacePart, value: number, joins: boolean): void {
  const { [part]: _, ...rest } = voice.told.value.strength ?? {}
  voice.keep(
    `How strongly the ${PART_WORDS[part].toLowerCase()} takes part`,
    { strength: value === 1 ? rest : { ...rest, [part]: value } },
    joins,
  )
}
/** Manners of speaking: how strongly each part takes part. */
const MANNERS: readonly { label: string; strength: Partial<Record<FacePart, number>> }[] = [
  { label: 'Whisper', strength: { mouth: 0.5, mood: 0.8 } },
  { label: 'Speak', strength: {} },
  { label: 'Shout', strength: { mouth: 1.6, mood: 1.4 } },
]
const mannerNow = computed(() => {
  const now = voice.told.value.strength ?? {}
  return MANNERS.find(m => FACE_PARTS.every(p => (m.strength[p] ?? 1) === (now[p] ?? 1)))?.label ?? ''
})
const speaks = computed(() => (['aa', 'ih', 'ou', 'ee', 'oh'] as const).filter(v => face.binds.value[v]?.length).length)
</script>

<template>
  <BenchHead title="Voice" sentence="What the face says in this take. Done when lips and sound agree." />
  <WorkProgress step="take" what="Carrying the take over" />
  <WorkProgress step="listen" what="Listening" />
  <p
    v-if="voice.refused.value"
    class="mx-4 mb-3 border-l-2 border-madder bg-paper-2 px-3 py-2"
    role="alert"
    data-testid="voice-refused"
  >
    {{ voice.refused.value }}
  </p>
  <div v-if="!take" class="card quiet">
    {{
      derived.ownShown
        ? 'Takes that came with the body keep their own face. Bake it to let it speak.'
        : 'Choose a take on the left.'
    }}
  </div>
  <template v-else>
    <div class="card">
      <h3>Sound</h3>
      <p v-if="!voice.voice.value" class="quiet mb-2">
        A WAV of up to ten minutes gives mouth shapes over time; weights or moving points of a face come as JSON or CSV.
      </p>
      <p v-else class="mb-1 truncate" :title="voice.voice.value.sound.name">
        {{ voice.voice.value.sound.name }} <span class="num quiet">{{ voice.seconds.value.toFixed(2) }} s</span>
      </p>
      <p v-if="voice.told.value.solution" class="mb-1 truncate" :title="voice.told.value.solution.file.name">
        {{ voice.told.value.solution.file.name }} <span class="quiet">weights</span>
      </p>
      <input
        ref="input"
        type="file"
        class="hidden"
        accept=".wav,.json,.csv,audio/wav"
        aria-label="A sound or weights of a face"
        data-testid="voice-file"
        @change="picked"
      />
      <div class="flex flex-wrap gap-2">
        <button class="press" data-testid="bring-voice" @click="input?.click()">
          {{ voice.voice.value || voice.told.value.solution ? 'Another file' : 'Bring a sound' }}
        </button>
        <button v-if="!voice.voice.value" class="press" data-testid="sample-voice" @click="sample">Sample voice</button>
        <button v-if="voice.voice.value" class="press" @click="voice.keep('Speak no more', { voice: undefined })">
          Remove the sound
        </button>
        <button
          v-if="voice.told.value.solution"
          class="press"
          @click="voice.keep('Leave out weights', { solution: undefined })"
        >
          Remove the weights
        </button>
      </div>
      <template v-if="voice.voice.value">
        <NumberField
          class="mt-2"
          label="Begins at"
          :value="voice.voice.value.at"
          unit="s"
          :step="0.05"
          :digits="2"
          @change="
            v =>
              voice.keep('When the voice begins', {
                voice: { ...voice.voice.value!, at: Math.min(3600, Math.max(-600, v)) },
              })
          "
        />
        <NumberField
          label="Mouth ahead by"
          :value="1000 * (voice.voice.value.lead ?? 0.02)"
          unit="ms"
          :step="5"
          :digits="0"
          @change="
            v =>
              voice.keep('How far the mouth goes ahead', {
                voice: { ...voice.voice.value!, lead: Math.min(0.2, Math.max(0, v / 1000)) },
              })
          "
        />
      </template>
    </div>
    <p
      v-if="voice.voice.value && speaks < 5"
      class="mx-4 mb-3 border-l-2 border-madder bg-paper-2 px-3 py-2"
      data-testid="no-mouth"
    >
      {{ speaks === 0 ? 'This figure has no mouth shapes yet.' : `Only ${speaks} of five mouth shapes are there.` }}
      <button class="press mt-1" @click="view.go('face')">Make them</button>
    </p>
    <div v-if="voice.voice.value" class="card">
      <h3 class="flex items-baseline">
        Mouth shapes<span class="num quiet ml-auto font-normal" data-testid="said-count">{{
          voice.said.value.length
        }}</span>
      </h3>
      <p v-if="!chosen" class="quiet">Press one under the wave to change it; drag its border to move it.</p>
      <template v-else>
        <label class="flex items-center justify-between gap-3"
          ><span>Shape</span>
          <select v-model="shape" class="field !w-[150px]" data-testid="said-shape">
            <option v-for="s in SHAPES" :key="s" :value="s">{{ SHAPE_WORDS[s] }}</option>
          </select>
        </label>
        <SliderRow
          v-if="shape !== 'rest' && shape !== 'closed'"
          label="Strength"
          :value="100 * chosen.strength"
          :min="0"
          :max="100"
          :step="1"
          unit="%"
          :digits="0"
          @change="(v, joins) => voice.change(voice.chosen.value!, { strength: v / 100 }, joins)"
        />
      </template>
      <button
        v-if="voice.voice.value.said"
        class="press mt-1"
        data-testid="hear-again"
        @click="voice.tell('Hear the voice again', undefined)"
      >
        Auto
      </button>
    </div>
    <div class="card">
      <h3>How strongly it speaks</h3>
      <div class="mb-1 flex gap-1.5">
        <button
          v-for="m in MANNERS"
          :key="m.label"
          class="press flex-1"
          :class="mannerNow === m.label ? 'press-on' : ''"
          :aria-pressed="mannerNow === m.label"
          @click="voice.keep(m.label, { strength: { ...m.strength } })"
        >
          {{ m.label }}
        </button>
      </div>
      <SliderRow
        v-for="p in FACE_PARTS"
        :key="p"
        :label="PART_WORDS[p]"
        :value="100 * strengthOf(p)"
        :min="0"
        :max="200"
        :step="5"
        unit="%"
        :digits="0"
        @change="(v, joins) => strengthen(p, v / 100, joins)"
      />
    </div>
  </template>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!derived.performed" @click="view.go('compare')">
      Go on to comparing
    </button>
  </div>
</template>
