<script setup lang="ts">
import { LIGHT_LIMITS, LIGHT_PARTS } from '@chiraxis/core/light'
import { capital } from '@chiraxis/core/words'
import { rampCss } from '~/stage/ramp'

const view = useView()
const derived = useDerived()
const light = useLight()
const n = (v: number): string => v.toLocaleString('en').replaceAll(',', ' ')
const mm = (v: number): string => `${(1000 * v).toFixed(2)} mm`

/** Quads on a scale on which each step is as much finer as the one before. */
const SCALE = { min: Math.log2(LIGHT_LIMITS.fewest), max: Math.log2(LIGHT_LIMITS.most) }
const quads = computed(() => light.choices.value?.quads ?? LIGHT_LIMITS.usual)
/** What is dragged, until it is let go: the surface is made once. */
const sliding = ref<number>()
const wanted = computed(() => sliding.value ?? quads.value)
const rounded = (v: number): number => {
  const step = v < 2000 ? 50 : v < 10_000 ? 100 : 500
  return Math.min(LIGHT_LIMITS.most, Math.max(LIGHT_LIMITS.fewest, Math.round(v / step) * step))
}
const slide = (event: Event): void => {
  sliding.value = rounded(2 ** Number((event.target as HTMLInputElement).value))
}
function settle(): void {
  if (sliding.value !== undefined && sliding.value !== quads.value) light.setQuads(sliding.value)
  sliding.value = undefined
}
const wears = computed(() => light.made.value?.figure.mesh.parts.some(p => !p.paired) === true)
const report = computed(() => light.made.value?.report)
const rows = computed(() => {
  const r = report.value
  if (!r) return []
  return [
    { label: 'Quads', value: n(r.quads) },
    { label: 'Irregular vertices', value: `${r.irregular} of ${n(r.vertices)}` },
    {
      label: 'Passes through itself',
      value: r.crossings === 0 ? 'nowhere' : `at ${r.crossings} places`,
      look: r.crossings > 0,
    },
    { label: 'Off the body on average', value: mm(r.deviation.mean) },
    { label: '95 of 100 places within', value: mm(r.deviation.p95) },
    { label: 'At most', value: mm(r.deviation.worst) },
  ]
})
const bakes = [{ value: '0', label: 'None' }, ...[1024, 2048, 4096].map(b => ({ value: String(b), label: String(b) }))]
</script>

<template>
  <BenchHead
    title="Light body"
    sentence="A new surface of quads, drawn along the limbs: rings lie where joints bend, and it is bound at once."
  />
  <WorkProgress step="light" what="Drawing the new surface" />
  <div v-if="!light.choices.value" class="card">
    <p class="quiet mb-2">
      For sculpts and scans with more triangles than bend well. The body that came stays as it is; the light one is made
      beside it from its landmarks, skeleton and skin.
    </p>
    <button
      class="press press-main w-full"
      :disabled="!derived.skin"
      data-testid="make-light"
      @click="light.make(true)"
    >
      Make a light body
    </button>
    <p v-if="!derived.skin" class="quiet mt-1">It needs a skeleton and a skin, which are not there yet.</p>
  </div>
  <template v-else>
    <div class="card">
      <h3>How fine</h3>
      <NumberField
        label="Quads"
        :value="wanted"
        unit=""
        :step="100"
        :digits="0"
        @change="light.setQuads(rounded($event))"
      />
      <input
        type="range"
        class="w-full cursor-ew-resize accent-ink"
        aria-label="Quads, from few to many"
        :min="SCALE.min"
        :max="SCALE.max"
        step="0.02"
        :value="Math.log2(wanted)"
        @input="slide"
        @change="settle"
      />
      <details class="mt-1">
        <summary class="cursor-pointer">Finer or coarser parts</summary>
        <SliderRow
          v-for="part in LIGHT_PARTS"
          :key="part"
          :label="capital(part)"
          :value="light.choices.value.density?.[part] ?? 1"
          :min="LIGHT_LIMITS.coarsest"
          :max="LIGHT_LIMITS.finest"
          :step="0.05"
          unit="×"
          @change="(v, joins) => light.setDensity(part, v, joins)"
        />
      </details>
    </div>
    <div class="card">
      <h3>On the plate</h3>
      <ChoiceRow
        v-model="light.shown.value"
        label="Surface that is shown"
        :options="[
          { value: 'new', label: 'New surface' },
          { value: 'body', label: 'Body it is made from' },
        ]"
      />
      <SwitchRow v-if="wears" v-model="light.dressed.value" label="What it wears and carries" />
      <SwitchRow v-model="light.heated.value" label="How far it is from the body" />
      <template v-if="light.heated.value">
        <div class="mb-1 mt-1 h-3 rounded" :style="{ background: rampCss }" role="img" aria-label="From near to far" />
        <div class="num quiet flex justify-between text-xs">
          <span>0</span><span>mm</span><span>{{ (1000 * light.scale.value).toFixed(1) }}</span>
        </div>
      </template>
    </div>
    <div v-if="rows.length > 0" class="card" data-testid="light-report">
      <h3>How it came out</h3>
      <div v-for="r in rows" :key="r.label" class="flex justify-between py-0.5">
        <span class="quiet">{{ r.label }}</span><span class="num" :class="r.look ? 'font-semibold text-madder' : ''">{{
          r.value
        }}</span>
      </div>
      <p v-for="t in report?.told" :key="t" class="mt-1 border-l-2 border-madder pl-2">{{ capital(t) }}.</p>
    </div>
    <div class="card">
      <SwitchRow
        :model-value="light.choices.value.deliver === true"
        label="Use it in place of the body"
        @update:model-value="light.setDelivered($event)"
      />
      <ChoiceRow
        :model-value="String(light.choices.value.bake ?? 0)"
        label="Colour and relief baked into images, pixels"
        :options="bakes"
        @update:model-value="light.setBake(Number($event))"
      />
      <p class="quiet mt-1">
        Images are baked when files are written. Garments go along, thinned; hair in strips stays as it is.
      </p>
      <button class="press mt-2 w-full" @click="light.make(false)">Make no light body</button>
    </div>
  </template>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!derived.shape" @click="view.go('landmarks')">
      Go on to the landmarks
    </button>
  </div>
</template>
