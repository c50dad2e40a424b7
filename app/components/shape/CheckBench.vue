<script setup lang="ts">
import { capital } from '@chiraxis/core/words'
import { rampCss } from '~/stage/ramp'

const view = useView()
const derived = useDerived()
const project = useProject()
const n = (v: number): string => v.toLocaleString('en').replaceAll(',', ' ')
watch(
  () => derived.shape?.mesh,
  () => {
    void derived.look('check')
    void derived.look('faults')
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
    {
      label: 'Holes',
      value: c.holes === 0 ? 'none' : `${c.holes}, ${n(c.openEdges)} ${c.openEdges === 1 ? 'edge' : 'edges'}`,
      look: false,
    },
    { label: 'Faces turned the wrong way', value: c.flipped === 0 ? 'none' : n(c.flipped), look: c.flipped > 0 },
    { label: 'Faces without area', value: c.degenerate === 0 ? 'none' : n(c.degenerate), look: c.degenerate > 0 },
    { label: 'Edges with over two faces', value: c.crowded === 0 ? 'none' : n(c.crowded), look: false },
  ]
})
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
  return `${down < 15 ? 'T-pose' : down < 65 ? 'A-pose' : 'arms hang'}, ${down.toFixed(0)}° down`
})
</script>

<template>
  <BenchHead title="Check" sentence="What the body is made of. Nothing here stops the work." />
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
  <FaultCard />
  <div v-if="half || whole" class="card">
    <h3>Half a body</h3>
    <p v-if="half" class="quiet mb-1">{{ half.message }}</p>
    <SwitchRow v-model="whole" label="Mirror it whole" />
  </div>
  <div class="card">
    <h3>Asymmetry</h3>
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
    <p class="quiet">{{ capital(pose) }}.</p>
  </div>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!derived.shape" @click="view.go('pieces')">Go on to the pieces</button>
  </div>
</template>
