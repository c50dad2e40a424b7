<script setup lang="ts">
import { roleLabel, type Side } from '@chiraxis/core/body'
import { X } from '@lucide/vue'
import { posePictures } from '~/composables/usePosePictures'

/** The figure posed by its handles, with what is held while something is pulled. */
const view = useView()
const derived = useDerived()
const handles = useHandles()
const posing = useHandlePose()
const REACH = [
  { value: 'limb', label: 'Limb' },
  { value: 'whole', label: 'Whole figure' },
] as const
const TURNS = [
  ['About its left', 0],
  ['About up', 1],
  ['About ahead', 2],
] as const
const MOVES = [
  ['To its left', 0],
  ['Up', 1],
  ['Ahead', 2],
] as const
const joint = computed(() => posing.joint.value)
const hold = computed(() => (joint.value === undefined ? undefined : posing.holdOf(joint.value)))
const moves = computed(() => handles.one.value?.kind === 'move')
const side = ref<Side>('left')
watch(handles.one, h => {
  if (h && h.side !== 'middle') side.value = h.side
})
const fingers = computed(() => posing.fingersOf(side.value))
const finger = ref('')
const jointName = (ref: string): string => {
  const s = derived.skeleton
  const j = s?.roles.indexOf(ref) ?? -1
  return j >= 0 ? roleLabel(ref) : ref
}
const name = ref('')
function keep(): void {
  posing.keepPose(name.value)
  name.value = ''
}
const files = usePoseFiles()
const picker = ref<HTMLInputElement>()
</script>

<template>
  <BenchHead title="Pose" sentence="Pull a handle: the limb follows, or the whole figure while what is held stays." />
  <WorkProgress step="handles" what="Finding the handles" />
  <template v-if="handles.body.value">
    <div class="card" data-testid="reach">
      <ChoiceRow v-model="posing.reach.value" label="What follows" :options="REACH" />
      <SwitchRow v-model="posing.balanced.value" label="Keep the balance" />
      <p v-if="posing.balanced.value && posing.reach.value === 'limb'" class="quiet text-xs">
        It is kept where the whole figure follows.
      </p>
      <p v-if="posing.unmet.value.off > 0.002" class="text-xs text-madder" data-testid="out-of-reach">
        {{ (100 * posing.unmet.value.off).toFixed(1) }} cm out of reach
      </p>
      <p v-if="posing.unmet.value.loose.length > 0" class="text-xs text-madder" data-testid="not-held">
        Not held:
        {{
          posing.unmet.value.loose
            .map(l => `${derived.skeleton?.names[l.joint]} ${(100 * l.place).toFixed(1)} cm`)
            .join(', ')
        }}
      </p>
    </div>
    <div class="card" data-testid="handle-numbers">
      <h3>{{ handles.picked.value.length === 0 ? 'Handle' : handles.namesOf(handles.picked.value) }}</h3>
      <p v-if="handles.picked.value.length === 0" class="quiet">Press a handle on the figure.</p>
      <template v-if="joint !== undefined">
        <NumberField
          v-for="[text, k] in TURNS"
          :key="k"
          :label="text"
          :value="posing.angles.value[k]"
          unit="°"
          :step="1"
          @change="posing.setAngle(k, $event)"
        />
        <SwitchRow
          label="Hold its place"
          :model-value="hold?.place === true"
          data-testid="hold-place"
          @update:model-value="posing.setHold(joint!, $event, hold?.turn === true)"
        />
        <SwitchRow
          label="Hold its turn"
          :model-value="hold?.turn === true"
          data-testid="hold-turn"
          @update:model-value="posing.setHold(joint!, hold?.place === true, $event)"
        />
      </template>
      <template v-if="moves">
        <NumberField
          v-for="[text, k] in MOVES"
          :key="k"
          :label="text"
          :value="100 * posing.shift.value[k]"
          unit="cm"
          :step="0.5"
          @change="posing.setShift(k, $event / 100)"
        />
      </template>
      <div class="flex flex-wrap gap-2 pt-1.5">
        <button class="press" :disabled="handles.picked.value.length === 0" @click="posing.rest('chosen')">
          To rest
        </button>
        <button class="press" :disabled="!posing.isPosed.value" data-testid="all-to-rest" @click="posing.rest('all')">
          All to rest
        </button>
        <button class="press" :disabled="!posing.isPosed.value" @click="posing.rest('appendages')">
          Appendages to rest
        </button>
      </div>
    </div>
    <FootCard />
    <div v-if="posing.holds.value.length > 0" class="card" data-testid="holds">
      <h3>Held</h3>
      <div v-for="h in posing.holds.value" :key="h.joint" class="flex items-center justify-between py-0.5">
        <span>{{ jointName(h.joint) }}</span>
        <span class="quiet">{{ h.place && h.turn ? 'place and turn' : h.place ? 'place' : 'turn' }}</span>
      </div>
      <button class="press mt-1" @click="posing.letAllGo()">Let everything go</button>
    </div>
    <div class="card">
      <h3>Sides and copies</h3>
      <div class="flex flex-wrap gap-2">
        <button class="press" :disabled="!posing.isPosed.value" data-testid="swap-sides" @click="posing.swapSides()">
          Swap left and right
        </button>
        <button class="press" :disabled="!posing.isPosed.value" @click="posing.copyAcross('left')">
          Copy left to right
        </button>
        <button class="press" :disabled="!posing.isPosed.value" @click="posing.copyAcross('right')">
          Copy right to left
        </button>
        <button class="press" :disabled="!posing.isPosed.value" @click="posing.copy()">Copy pose</button>
        <button class="press" :disabled="!posing.copied.value" @click="posing.paste()">Paste pose</button>
      </div>
    </div>
    <LimbCard />
    <div v-if="fingers.length > 0" class="card" data-testid="hand-shape">
      <div class="flex items-center justify-between">
        <h3>Hand</h3>
        <select v-model="side" class="field !w-20" aria-label="Which hand">
          <option value="left">left</option>
          <option value="right">right</option>
        </select>
      </div>
      <div class="flex items-center justify-between py-0.5">
        <span>Fingers</span>
        <select v-model="finger" class="field !w-28" aria-label="Which finger">
          <option value="">all</option>
          <option v-for="f in fingers" :key="f" :value="f">{{ f.toLowerCase() }}</option>
        </select>
      </div>
      <SliderRow
        v-for="[text, key, least] in [
          ['Curl', 'curl', 0],
          ['Spread', 'spread', -100],
          ['Relax', 'relax', 0],
        ] as const"
        :key="key"
        :label="text"
        :value="Math.round(100 * posing.handShape[key])"
        :min="least"
        :max="100"
        :step="1"
        :digits="0"
        unit="%"
        @change="(v, joins) => posing.setHand(side, { [key]: v / 100 }, finger || undefined, joins)"
      />
    </div>
    <div class="card" data-testid="pose-library">
      <h3>Poses</h3>
      <p v-if="posing.library.value.length === 0" class="quiet">
        None kept yet. Kept ones serve the skin check as well.
      </p>
      <div class="grid grid-cols-4 gap-1">
        <div v-for="p in posing.library.value" :key="p.id" class="relative">
          <button
            class="flex w-full flex-col items-center rounded border border-transparent bg-paper-2 hover:border-rule"
            :title="p.label"
            :data-pose="p.label"
            @click="posing.takePose(p)"
          >
            <span
              class="flex h-[70px] w-full items-center justify-center overflow-hidden rounded-t"
              style="background: var(--ground-a)"
              ><img v-if="posePictures()[p.id]" :src="posePictures()[p.id]" alt="" class="h-[70px]"
            /></span>
            <span class="w-full truncate px-1 text-xs">{{ p.label }}</span>
          </button>
          <button
            class="absolute right-0 top-0 rounded bg-paper p-0.5 text-ink-2 hover:text-ink"
            :aria-label="`Remove ${p.label}`"
            @click="posing.forgetPose(p)"
          >
            <X :size="12" />
          </button>
        </div>
      </div>
      <div class="flex gap-2 pt-1.5">
        <input
          v-model="name"
          class="field"
          maxlength="100"
          placeholder="Name"
          aria-label="Name of the pose"
          @keydown.enter="keep"
        />
        <button class="press" :disabled="!posing.isPosed.value" data-testid="keep-figure-pose" @click="keep">
          Keep
        </button>
      </div>
      <div class="flex gap-2 pt-1.5">
        <button class="press" :disabled="posing.library.value.length === 0" @click="files.save()">
          Save to a file
        </button>
        <button class="press" @click="picker?.click()">Open a file</button>
        <input ref="picker" type="file" accept=".json,application/json" class="hidden" @change="files.open($event)" />
      </div>
    </div>
  </template>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!handles.body.value" @click="view.go('mass')">Go on to the mass</button>
  </div>
</template>
