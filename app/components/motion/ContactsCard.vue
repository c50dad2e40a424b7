<script setup lang="ts">
import { capital } from '@chiraxis/core/words'
import { HAND_PLACES } from '@chiraxis/core/correct'
import { legsOf, partnerOf, SIDES } from '@chiraxis/core/body'
import { X } from '@lucide/vue'

/** Contacts by hand: the one chosen in the score, those that could be added over a stretch, and what was told before. */
const derived = useDerived()
const player = usePlayer()
const stretch = useStretch()
const {
  adjust,
  ownId,
  contacts: told,
  tellContact,
  removeContact,
  forgetContact,
  splitContact,
  joinContacts,
} = useTakeEdit()
const joints = computed(() => derived.performed?.answer.figureJoints ?? {})
const shown = (seconds: number): string => player.toTake(seconds).toFixed(2)
/** As it is seen on the figure: a mirrored take shows the other side. */
const seen = <T extends { part: string; onto: string }>(c: T): T =>
  !ownId.value && adjust.value.mirror ? { ...c, part: partnerOf(c.part), onto: partnerOf(c.onto) } : c
const gone = (from: number, to: number): boolean => player.toTake(to) < 0 || player.toTake(from) > player.length

const hands = computed(() => SIDES.every(s => joints.value[`${s}Hand`] !== undefined))
const CHOICES = computed(() => [
  ...legsOf(joints.value).flatMap(leg =>
    (derived.performed?.answer.heels?.[leg] ? ['Foot', 'Heel', 'Ball'] : ['Foot']).map(point => ({
      part: leg + point,
      onto: 'ground',
    })),
  ),
  ...LYING.filter(role => joints.value[role] !== undefined && hands.value).map(part => ({ part, onto: 'ground' })),
  ...(hands.value
    ? [
        { part: 'leftHand', onto: 'rightHand' },
        ...SIDES.map(s => ({ part: `${s}Hand`, onto: 'ground' })),
        ...SIDES.flatMap(s =>
          HAND_PLACES.filter(
            role => joints.value[role] !== undefined && !role.startsWith(`${s}U`) && !role.startsWith(`${s}LowerArm`),
          ).map(onto => ({ part: `${s}Hand`, onto })),
        ),
      ]
    : []),
])
/** Parts that may carry a lying body. */
const LYING = ['hips', 'spine', 'chest', 'upperChest', 'head', ...SIDES.flatMap(s => [`${s}UpperLeg`, `${s}LowerLeg`])]
const pick = ref(0)
watch(CHOICES, list => {
  if (pick.value >= list.length) pick.value = 0
})
function tell(holds: boolean): void {
  const chosen = CHOICES.value[pick.value]
  const { span } = stretch
  if (chosen && span) tellContact({ ...seen(chosen), ...span, holds })
}

/** As carried over and as it is now, against the ground as it moves under a take on the spot. */
const slides = computed(() => {
  const m = derived.performed?.answer.measures
  if (m?.slide === undefined || m.slideBefore === undefined) return ''
  const words = (v: number): string => (100 * v).toFixed(1)
  return `${words(m.slideBefore)} to ${words(m.slide)} cm/s`
})
/** Seconds a contact that is split lets go for. */
const GAP = 0.12
const { lanes } = useContactLanes()
/** The chosen contact may be split where the playhead is inside of it. */
const here = computed(() => player.toRecording(player.frame / player.fps))
const splits = computed(
  () => stretch.contact && here.value > stretch.contact.from + GAP && here.value < stretch.contact.to - GAP,
)
/** The same contact the next time. */
const next = computed(() => {
  const c = stretch.contact
  return (
    c &&
    lanes.value
      .flatMap(l => l.runs.map(r => r.contact))
      .filter(o => o.part === c.part && o.onto === c.onto && o.from > c.to)
      .sort((a, b) => a.from - b.from)[0]
  )
})
</script>

<template>
  <div class="card" data-testid="contacts">
    <h3>Contacts</h3>
    <p v-if="slides" class="flex justify-between py-0.5" data-testid="slides">
      <span class="quiet">Resting feet slide</span><span class="num">{{ slides }}</span>
    </p>
    <SwitchRow v-if="derived.performed?.answer.heels" v-model="stretch.apart" label="Every part apart" />
    <div v-if="stretch.contact" class="flex items-center justify-between gap-2 py-1" data-testid="chosen-contact">
      <span
        >{{ capital(contactWords(seen(stretch.contact))) }},
        <span class="num">{{ shown(stretch.contact.from) }} to {{ shown(stretch.contact.to) }} s</span></span
      >
      <button class="press" title="Delete" data-testid="remove-contact" @click="removeContact()">Remove</button>
    </div>
    <div v-if="stretch.contact" class="flex items-center gap-2 pb-1">
      <button
        class="press"
        :disabled="!splits"
        title="Where the playhead stands in it"
        data-testid="split-contact"
        @click="splitContact(stretch.contact!, here, GAP)"
      >
        Split
      </button>
      <button class="press" :disabled="!next" data-testid="join-contact" @click="joinContacts(stretch.contact!, next!)">
        Join with the next
      </button>
    </div>
    <template v-if="!stretch.contact && stretch.span">
      <label class="block py-1"
        ><span class="quiet mb-1 block text-xs"
          >From {{ shown(stretch.span.from) }} to {{ shown(stretch.span.to) }} s</span
        >
        <select v-model.number="pick" class="field" data-testid="contact-kind">
          <option v-for="(c, i) in CHOICES" :key="`${c.part} ${c.onto}`" :value="i">
            {{ capital(contactWords(c)) }}
          </option>
        </select></label
      >
      <div class="flex gap-2 py-1">
        <button class="press" data-testid="add-contact" @click="tell(true)">Add</button>
        <button class="press" @click="tell(false)">Remove</button>
      </div>
    </template>
    <p v-else-if="!stretch.contact" class="quiet py-0.5">
      Press a contact in the score to change it, or choose a stretch to add one.
    </p>
    <ul v-if="told.length > 0" class="mt-1 border-t border-rule pt-1">
      <li v-for="(c, i) in told" :key="i" class="flex items-center gap-2 py-0.5" data-testid="told-contact">
        <span class="min-w-0 flex-1"
          >{{ capital(contactWords(seen(c))) }}
          <span class="quiet num">{{ shown(c.from) }} to {{ shown(c.to) }} s</span>
          <span class="quiet">· {{ gone(c.from, c.to) ? 'cut away' : c.holds ? 'added' : 'removed' }}</span></span
        >
        <button class="press !px-1.5" aria-label="Back to auto" title="Back to auto" @click="forgetContact(i)">
          <X :size="13" />
        </button>
      </li>
    </ul>
  </div>
</template>
