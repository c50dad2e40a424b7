<script setup lang="ts">
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
import { ChevronRight, FolderOpen, RotateCcw, RotateCw } from '@lucide/vue'
import type { AxisName } from '@chiraxis/core/math'
import type { Recipe } from '@chiraxis/core/recipe'
import type { UnitName } from '@chiraxis/core/shape'

const project = useProject()
const derived = useDerived()
const view = useView()
const files = useFiles()
const { samples } = useSamples()
const s = computed(() => derived.shape?.straightened)

const byHand = computed(() => project.recipe.straighten)

type Auto = 'auto'
const AXES = ['+x', '-x', '+y', '-y', '+z', '-z'] as const
const up = computed<AxisName | Auto>({
  get: () => project.recipe.straighten.up ?? 'auto',
  set: v => set('up axis', { up: v === 'auto' ? undefined : v }),
})
const facing = computed<AxisName | Auto>({
  get: () => project.recipe.straighten.facing ?? 'auto',
  set: v => set('facing', { facing: v === 'auto' ? undefined : v }),
})
/** Whether the size is told by a height or a factor, which no unit can change. */
const isFree = computed(() => byHand.value.height !== undefined || byHand.value.scale !== undefined)
const unit = computed<UnitName | Auto | 'free'>({
  get: () => (isFree.value ? 'free' : (project.recipe.straighten.unit ?? 'auto')),
  set: v => {
    if (v !== 'free') set('unit', { unit: v === 'auto' ? undefined : v, height: undefined, scale: undefined })
  },
})
function set(what: string, choice: Partial<Recipe['straighten']>): void {
  const straighten = Object.fromEntries(
    Object.entries({ ...project.recipe.straighten, ...choice }).filter(([, v]) => v !== undefined),
  )
  project.change(
    `Set the ${what}`,
    { ...project.recipe, straighten },
    ['turn', 'tilt', 'lean', 'ground', 'midline', 'height', 'scale'].includes(what),
  )
}
const wrap = (d: number): number | undefined => {
  const v = ((((d + 180) % 360) + 360) % 360) - 180
  return v === 0 ? undefined : v
}
const quarter = (way: number): void => set('turn', { turn: wrap((byHand.value.turn ?? 0) + 90 * way) })
const rows = computed(() =>
  s.value
    ? [
        ['Turned straight by', `${s.value.turn.toFixed(1)}°`],
        ['Off the midline', `${(Math.abs(s.value.offMidline) * 100).toFixed(1)} cm`],
        ['Off the ground', `${(s.value.offGround * 100).toFixed(1)} cm`],
        ['Asymmetry', `${(s.value.asymmetry * 100).toFixed(2)} %`],
      ]
    : [],
)
async function seeItMove(): Promise<void> {
  const player = usePlayer()
  view.go('takes')
  const take = project.recipe.takes.find(t => t.id === derived.wantedTake) ?? derived.firstTake
  if (take) await derived.showTake(take.id)
  player.play()
}
const sure = (v: number | undefined): string => (v === undefined ? '' : `${Math.round(100 * v)} %`)
</script>

<template>
  <BenchHead
    title="Straighten"
    sentence="Brings the body upright, facing you, on the ground, in metres. Done when it stands on the ground line and looks at you in Front."
  />
  <WorkProgress step="shape" what="Reading and straightening" />
  <WorkProgress v-if="derived.steps.landmarks.state !== 'refused'" step="landmarks" what="Finding landmarks" />
  <WorkProgress step="skin" what="Working out skin weights" />
  <template v-if="s">
    <div class="card">
      <h3>Axes and unit</h3>
      <label
        v-for="row in [
          { key: 'up' as const, label: 'Up in the file' },
          { key: 'facing' as const, label: 'Faces along' },
        ]"
        :key="row.key"
        class="flex items-center justify-between py-1"
      >
        <span>{{ row.label }}</span>
        <span class="flex items-center gap-2">
          <span class="num quiet text-xs">{{
            (row.key === 'up' ? up : facing) === 'auto' ? sure(s.confidence[row.key]) : 'by hand'
          }}</span>
          <select v-if="row.key === 'up'" v-model="up" class="field !w-[112px]" data-testid="up-axis">
            <option value="auto">auto: {{ s.up }}</option>
            <option v-for="a in AXES" :key="a" :value="a">{{ a }}</option>
          </select>
          <select v-else v-model="facing" class="field !w-[112px]">
            <option value="auto">auto: {{ s.facing }}</option>
            <option v-for="a in AXES" :key="a" :value="a">{{ a }}</option>
          </select>
        </span>
      </label>
      <label class="flex items-center justify-between py-1">
        <span>Unit of the file</span>
        <span class="flex items-center gap-2">
          <span class="num quiet text-xs">{{ unit === 'auto' ? sure(s.confidence.unit) : 'by hand' }}</span>
          <select v-model="unit" class="field !w-[112px]" data-testid="unit">
            <option v-if="isFree" value="free">free</option>
            <option value="auto">auto: {{ s.unit }}</option>
            <option value="m">m</option>
            <option value="cm">cm</option>
            <option value="mm">mm</option>
          </select>
        </span>
      </label>
    </div>
    <Disclosure v-slot="{ open }" as="div" class="card">
      <DisclosureButton class="flex w-full items-center gap-1 font-semibold"
        ><ChevronRight :size="14" :class="open ? 'rotate-90' : ''" />By hand
        <span class="quiet ml-auto font-normal">turn, tilt, ground, midline</span></DisclosureButton
      >
      <DisclosurePanel class="pt-2">
        <div class="mb-1 flex gap-2">
          <button class="press flex-1" @click="quarter(1)"><RotateCcw :size="13" />90°</button
          ><button class="press flex-1" @click="quarter(-1)"><RotateCw :size="13" />90°</button>
        </div>
        <NumberField label="Turn" :value="byHand.turn ?? 0" unit="°" @change="set('turn', { turn: wrap($event) })" />
        <NumberField
          label="Tilt forwards"
          :value="byHand.tilt ?? 0"
          unit="°"
          @change="set('tilt', { tilt: wrap($event) })"
        />
        <NumberField
          label="Lean to its left"
          :value="byHand.lean ?? 0"
          unit="°"
          @change="set('lean', { lean: wrap($event) })"
        />
        <NumberField
          label="Lift off the ground"
          :value="(byHand.lift ?? 0) * 100"
          unit="cm"
          @change="set('ground', { lift: $event === 0 ? undefined : $event / 100 })"
        />
        <NumberField
          label="Shift to its left"
          :value="(byHand.shift ?? 0) * 100"
          unit="cm"
          @change="set('midline', { shift: $event === 0 ? undefined : $event / 100 })"
        />
      </DisclosurePanel>
    </Disclosure>
    <div class="card">
      <h3>Measured</h3>
      <div class="flex items-baseline justify-between pb-1">
        <span>Height</span
        ><span class="num text-[20px] font-semibold"
          >{{ (s.height * 100).toFixed(1) }}<span class="quiet text-xs font-normal"> cm</span></span
        >
      </div>
      <NumberField
        label="Make it this tall"
        :value="s.height * 100"
        unit="cm"
        data-testid="target-height"
        @change="$event > 0 && set('height', { height: $event / 100, scale: undefined })"
      />
      <NumberField
        label="A unit of the file is"
        :value="s.scale"
        unit="m"
        :digits="4"
        :step="0.01"
        @change="$event > 0 && set('scale', { scale: $event, height: undefined })"
      />
      <div v-for="[label, value] in rows" :key="label" class="flex justify-between py-0.5">
        <span class="quiet">{{ label }}</span><span class="num">{{ value }}</span>
      </div>
    </div>
  </template>
  <div class="card">
    <h3>{{ project.recipe.body ? 'Another body' : 'What can be brought in' }}</h3>
    <div v-if="project.recipe.body" class="flex flex-wrap gap-2">
      <button class="press" data-testid="pick-file" @click="files.pick()">
        <FolderOpen :size="14" />Bring in a file
      </button>
      <button
        v-for="x in samples"
        :key="x.id"
        class="press"
        :title="x.what"
        :data-testid="`sample-${x.id}`"
        @click="files.openSample(x.id)"
      >
        {{ x.name }}
      </button>
    </div>
    <p class="quiet mt-2 text-xs">
      {{ project.recipe.body ? 'Or drop a' : 'A' }} GLB, glTF, OBJ, PLY, STL, FBX, COLLADA, BVH or project file, dropped
      anywhere on the window with its textures.
    </p>
  </div>
  <div class="bench-foot">
    <button
      class="press press-main"
      :disabled="!s || project.recipe.takes.length === 0"
      data-testid="see-it-move"
      @click="seeItMove"
    >
      See it move
    </button>
    <button class="press mt-2 w-full" :disabled="!s" @click="view.go('check')">Go on to the check</button>
  </div>
</template>
