<script setup lang="ts">
import { ChevronLeft, ChevronRight } from '@lucide/vue'
import { invertAffine, transformPoint } from '@chiraxis/core/math'
import type { Recipe } from '@chiraxis/core/recipe'
import type { SurfaceEdit } from '@chiraxis/core/shape'
import { rampCss } from '~/stage/ramp'

const view = useView()
const derived = useDerived()
const project = useProject()
const n = (v: number): string => v.toLocaleString('en').replaceAll(',', ' ')
watch(
  () => derived.shape?.mesh,
  () => {
    void derived.look('check')
    void derived.look('rims')
  },
  { immediate: true },
)
watch(
  [() => view.sidesShown, () => derived.shape?.mesh],
  () => {
    if (view.sidesShown) void derived.look('asymmetry')
  },
  { immediate: true },
)
const height = computed(() => derived.shape?.straightened.height ?? 1)
const rows = computed(() => {
  const c = derived.check
  if (!c) return []
  return [
    { label: 'Triangles', value: n(c.triangles) },
    { label: 'Vertices', value: n(c.vertices) },
    { label: 'Separate shells', value: n(c.pieces) },
    { label: 'Holes', value: c.holes === 0 ? 'none' : `${c.holes}, ${n(c.openEdges)} edges`, look: false },
    { label: 'Faces turned the wrong way', value: c.flipped === 0 ? 'none' : n(c.flipped), look: c.flipped > 0 },
    { label: 'Faces without area', value: c.degenerate === 0 ? 'none' : n(c.degenerate), look: c.degenerate > 0 },
    { label: 'Edges with over two faces', value: c.crowded === 0 ? 'none' : n(c.crowded), look: false },
  ]
})
const rims = computed(() => derived.rims)
watch(rims, list => {
  view.rim = Math.min(view.rim, Math.max(0, list.length - 1))
})
const rim = computed(() => rims.value[view.rim])
const step = (by: number): void => {
  view.rim = (view.rim + by + rims.value.length) % rims.value.length
}
/** Rims of this many edges and fewer are small holes. */
const SMALL = 40
const small = computed(() => rims.value.filter(r => r.fillable && r.corners.length <= SMALL).length)
const surface = (name: string, edit: SurfaceEdit): void =>
  project.change(name, { ...project.recipe, surface: [...project.recipe.surface, edit] as Recipe['surface'] })
function fillThis(): void {
  const matrix = derived.shape?.straightened.matrix
  const back = matrix && invertAffine(matrix)
  if (rim.value && back) surface('Fill a hole', { kind: 'fill', at: transformPoint(back, rim.value.centre) })
}
const half = computed(() => derived.findings.find(f => f.rule === 'half-body'))
const clean = computed({
  get: () => project.recipe.cleanFaces,
  set: v =>
    project.change(v ? 'Clean the faces' : 'Leave the faces as they came', { ...project.recipe, cleanFaces: v }),
})
const whole = computed({
  get: () => project.recipe.mirrorHalf !== null,
  set: v =>
    project.change(v ? 'Mirror the half whole' : 'Leave the half', {
      ...project.recipe,
      mirrorHalf: v ? 'left' : null,
    }),
})
const pose = computed(() => {
  const l = derived.landmarks
  const at = (id: string) => l?.find(x => x.id === id)?.position
  const a = at('leftShoulder'),
    b = at('leftWrist')
  if (derived.plan === 'fourleg' && l) return 'stands on four legs'
  if (!a || !b) return undefined
  const down = (Math.atan2(a[1] - b[1], Math.abs(b[0] - a[0])) * 180) / Math.PI
  return `arms ${down < 15 ? 'straight out' : down < 65 ? 'a little down' : 'hanging'}, ${down.toFixed(0)}°`
})
</script>

<template>
  <BenchHead
    title="Check"
    sentence="What the body is made of. Nothing here stops the work; it tells what a later program may stumble over."
  />
  <WorkProgress step="check" what="Looking the body over" />
  <div v-if="rows.length > 0" class="card">
    <h3>Surface</h3>
    <div v-for="r in rows" :key="r.label" class="flex justify-between py-0.5">
      <span class="quiet">{{ r.label }}</span><span class="num" :class="r.look ? 'font-semibold text-madder' : ''">{{
        r.value
      }}</span>
    </div>
    <SwitchRow
      v-if="clean || (derived.check && derived.check.flipped + derived.check.degenerate > 0)"
      v-model="clean"
      label="Turn faces out, drop empty ones"
    />
  </div>
  <div v-if="rim || project.recipe.surface.length > 0" class="card" data-testid="rims">
    <h3>
      Open rims <span class="num quiet font-normal">{{ rims.length }}</span>
    </h3>
    <template v-if="rim">
      <div class="mb-2 flex items-center gap-2">
        <button class="press !px-1.5" aria-label="The rim before" @click="step(-1)"><ChevronLeft :size="14" /></button>
        <span class="num flex-1 text-center"
          >{{ view.rim + 1 }} <span class="quiet">of {{ rims.length }}</span></span
        >
        <button class="press !px-1.5" aria-label="The next rim" data-testid="next-rim" @click="step(1)">
          <ChevronRight :size="14" />
        </button>
      </div>
      <div class="flex justify-between py-0.5">
        <span class="quiet">Edges around it</span><span class="num">{{ rim.corners.length }}</span>
      </div>
      <div class="flex justify-between py-0.5">
        <span class="quiet">Length around it</span><span class="num">{{ (rim.length * 100).toFixed(1) }} cm</span>
      </div>
      <p v-if="!rim.fillable" class="quiet mt-1 text-xs">
        A cut or an open end: too long, or of several pieces, to be filled.
      </p>
      <div class="mt-2 flex flex-wrap gap-2">
        <button class="press" :disabled="!rim.fillable" data-testid="fill-rim" @click="fillThis">Fill this one</button>
        <button
          class="press"
          :disabled="small === 0"
          :title="`Those of at most ${SMALL} edges`"
          data-testid="fill-small"
          @click="surface(`Fill ${small} small holes`, { kind: 'fill-small', edges: SMALL })"
        >
          Fill {{ small }} small ones
        </button>
        <button
          class="press"
          title="Vertices on rims nearer than a thousandth of the body come to one place"
          data-testid="weld-rims"
          @click="surface('Bring near rims together', { kind: 'weld', within: 0.001 })"
        >
          Close seams
        </button>
      </div>
    </template>
    <p v-if="project.recipe.surface.length > 0" class="quiet mt-2 flex items-center justify-between text-xs">
      <span>{{ project.recipe.surface.length }} mended by hand</span
      ><button
        class="press !min-h-[22px] !px-1.5 text-xs"
        @click="project.change('Leave the surface as it came', { ...project.recipe, surface: [] })"
      >
        Leave as it came
      </button>
    </p>
  </div>
  <div v-if="half || whole" class="card">
    <h3>Half a body</h3>
    <p v-if="half" class="quiet mb-1">{{ half.message }}</p>
    <SwitchRow v-model="whole" label="Mirror it whole" />
  </div>
  <div class="card">
    <h3>Left against right</h3>
    <SwitchRow v-model="view.sidesShown" label="Show on the body" />
    <template v-if="derived.asymmetry">
      <div class="mb-1 mt-1 h-3 rounded" :style="{ background: rampCss }" role="img" aria-label="From even to uneven" />
      <div class="num quiet mb-2 flex justify-between text-xs">
        <span>0</span><span>cm off its mirror image</span><span>{{ (2 * height).toFixed(1) }}</span>
      </div>
      <div class="flex justify-between py-0.5">
        <span class="quiet">On average</span
        ><span class="num">{{ (derived.asymmetry.mean * height * 100).toFixed(2) }} cm</span>
      </div>
      <div class="flex justify-between py-0.5">
        <span class="quiet">At most</span
        ><span class="num">{{ (derived.asymmetry.worst * height * 100).toFixed(2) }} cm</span>
      </div>
    </template>
  </div>
  <div v-if="pose" class="card">
    <h3>Pose</h3>
    <p class="quiet">{{ pose[0]!.toUpperCase() + pose.slice(1) }}.</p>
  </div>
  <div class="mt-auto p-4">
    <button class="press press-main" :disabled="!derived.shape" @click="view.go('pieces')">Go on to the pieces</button>
  </div>
</template>
