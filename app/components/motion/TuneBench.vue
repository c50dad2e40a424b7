<script setup lang="ts">
import { ADJUST_LIMITS, FRAME_RATES } from '@chiraxis/core/adjust'

const view = useView()
const derived = useDerived()
const player = usePlayer()
const {
  take,
  adjust,
  setAdjust,
  spread,
  resetAdjust,
  corrections: transfer,
  alone,
  setAlone,
  setCorrection,
} = useTakeEdit()
const answer = computed(() => (derived.ownShown ? undefined : derived.performed?.answer))
const whole = computed(() => answer.value?.recorded.seconds ?? 0)
const mirror = computed({
  get: () => adjust.value.mirror,
  set: v => setAdjust(v ? 'Mirror' : 'Mirror no more', { mirror: v }),
})
const travel = useTravel()
const spot = computed({ get: () => travel.spot.value, set: travel.setSpot })
const ground = computed({
  get: () => transfer.value.ground,
  set: v => setCorrection(v ? 'Hold resting feet' : 'Let feet slide', { ground: v }),
})
const rate = computed({
  get: () => String(adjust.value.fps ?? ''),
  set: v => setAdjust('Frames a second', { fps: v === '' ? undefined : Number(v) }),
})
const girdle = computed({
  get: () => transfer.value.girdle,
  set: v => setCorrection(v ? 'Raised arms take the shoulders along' : 'Leave the shoulders as carried', { girdle: v }),
})
const limits = computed({
  get: () => transfer.value.limits,
  set: v => setCorrection(v ? 'Keep joints within limits' : 'Let joints turn freely', { limits: v }),
})
const asPerformed = computed({
  get: () => transfer.value.asPerformed,
  set: v =>
    setCorrection(v ? 'Correct only where the performer did otherwise' : 'Correct whatever the performer did', {
      asPerformed: v,
    }),
})
const room = computed({
  get: () => transfer.value.elbowRoom !== null,
  set: v => setCorrection(v ? 'Keep arms off the body' : 'Let arms be', { elbowRoom: v ? 0.005 : null }),
})
const own = computed({ get: () => alone.value, set: setAlone })
const stretch = useStretch()
/** What the corrections above are told of. */
const corrects = computed(() => {
  const { span } = stretch
  if (!span) return own.value ? 'of this take' : 'of every take'
  return `of ${player.toTake(span.from).toFixed(2)} to ${player.toTake(span.to).toFixed(2)} s`
})
const trim = computed(() => adjust.value.trim ?? ([0, whole.value] as const))
function cut(k: 0 | 1, value: number): void {
  const next = [...trim.value] as [number, number]
  next[k] = Math.max(0, Math.min(whole.value, value))
  if (next[1] - next[0] < 2 / (answer.value?.recorded.fps ?? 30)) return
  setAdjust('Trim', { trim: next[0] <= 0 && next[1] >= whole.value ? undefined : next })
}
const percent = (v: number): number => Math.round(v * 100)
const m = computed(() => answer.value?.measures)
const cm = (v: number | undefined): string =>
  v === undefined || !Number.isFinite(v) ? '–' : `${(100 * v).toFixed(1)} cm`
</script>

<template>
  <BenchHead
    title="Tune"
    sentence="How this take is played on this figure. Everything shows at once on the moving figure."
  />
  <WorkProgress step="take" what="Carrying the take over" />
  <div v-if="!take" class="card quiet">Choose a take that was recorded on somebody else.</div>
  <template v-else>
    <div class="card">
      <h3>
        {{ view.fourLegs ? 'Paws' : 'Arms and feet' }}
        <span class="quiet font-normal" data-testid="corrects">· {{ corrects }}</span>
      </h3>
      <template v-if="!view.fourLegs">
        <SwitchRow v-model="room" label="Elbow room" />
        <SliderRow
          v-if="room"
          label="Arms off the body by"
          :value="100 * (transfer.elbowRoom ?? 0)"
          :min="0"
          :max="20"
          :step="0.5"
          :digits="1"
          unit="cm"
          hint="0.5 cm just clears the body"
          @change="(v, joins) => setCorrection('Elbow room', { elbowRoom: v / 100 }, joins)"
        />
        <div v-if="room" class="flex justify-between py-0.5">
          <span class="quiet">Nearest to the body</span
          ><span class="num" data-testid="arm-room"
            ><span class="quiet">{{ cm(m?.armRoomBefore) }} →</span> {{ cm(m?.armRoom) }}</span
          >
        </div>
        <SliderRow
          label="Hands keep their place"
          :value="percent(transfer.hands)"
          :min="0"
          :max="100"
          :step="5"
          :digits="0"
          unit="%"
          hint="On each other and on the body, while the performer's do"
          @change="(v, joins) => setCorrection('Hands keep their place', { hands: v / 100 }, joins)"
        />
        <SwitchRow v-model="limits" label="Joints turn no farther than a body's" />
        <SwitchRow v-model="girdle" label="Raised arms take the shoulders along" />
      </template>
      <SwitchRow v-model="ground" label="Keep to the ground, feet in place" />
      <SwitchRow v-model="asPerformed" label="Only where the performer did otherwise" />
      <p class="quiet pt-0.5">
        {{
          answer?.asPerformed
            ? 'This take was made on this very skeleton: nothing is corrected.'
            : asPerformed
              ? 'Arms may lie where the performer had them, feet stir as the performer’s did.'
              : 'Limits, room and resting feet hold whatever the performer did.'
        }}
      </p>
      <SwitchRow v-if="!stretch.span" v-model="own" label="Set this for this take alone" />
      <StretchRows />
    </div>
    <ContactsCard />
    <div class="card">
      <h3>{{ take.name }}</h3>
      <SliderRow
        label="Step length"
        :value="percent(adjust.stepLength)"
        :min="30"
        :max="200"
        :step="1"
        :digits="0"
        unit="%"
        @change="(v, joins) => setAdjust('Step length', { stepLength: v / 100 }, joins)"
      />
      <SliderRow
        label="Swing"
        :value="percent(adjust.vigour)"
        :min="0"
        :max="300"
        :step="5"
        :digits="0"
        unit="%"
        :hint="view.fourLegs ? 'How far trunk, head and tail swing' : 'How far trunk, head and arms swing'"
        @change="(v, joins) => setAdjust('Swing', { vigour: v / 100 }, joins)"
      />
      <SliderRow
        label="Pace"
        :value="percent(adjust.pace)"
        :min="10"
        :max="300"
        :step="5"
        :digits="0"
        unit="%"
        @change="(v, joins) => setAdjust('Pace', { pace: v / 100 }, joins)"
      />
      <SwitchRow v-model="mirror" label="Mirror left and right" />
      <SwitchRow v-model="spot" label="On the spot" />
    </div>
    <div class="card">
      <h3>Time</h3>
      <NumberField label="Begins at" :value="trim[0]" unit="s" :step="0.05" :digits="2" @change="cut(0, $event)" />
      <NumberField label="Ends at" :value="trim[1]" unit="s" :step="0.05" :digits="2" @change="cut(1, $event)" />
      <SliderRow
        label="Loop seam blends over"
        :value="adjust.loopBlend"
        :min="0"
        :max="Math.min(ADJUST_LIMITS.loopBlend[1], whole / 3)"
        :step="0.05"
        unit="s"
        hint="The end is led into the beginning"
        @change="(v, joins) => setAdjust('Loop seam', { loopBlend: v }, joins)"
      />
      <label class="flex items-center justify-between py-1"
        ><span>Frames a second</span>
        <select v-model="rate" class="field num !w-[112px]" data-testid="fps">
          <option value="">as recorded</option>
          <option v-for="f in FRAME_RATES" :key="f" :value="String(f)">{{ f }}</option>
        </select></label
      >
    </div>
    <div class="card flex flex-wrap gap-2">
      <button class="press" :disabled="!take.adjust" data-testid="as-recorded" @click="resetAdjust()">
        As recorded
      </button>
      <button class="press" @click="spread()">All of {{ take.performer }} alike</button>
    </div>
  </template>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!take" @click="view.go('layer')">Go on to layers</button>
  </div>
</template>
