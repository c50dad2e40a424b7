<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import { maxOf } from '@chiraxis/core/math'
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
import { ChevronRight, X } from '@lucide/vue'
import { skinEditLabel, type SkinEdit } from '@chiraxis/core/paint'
import { jointRef } from '@chiraxis/core/skeleton'
import { roleLabel } from '@chiraxis/core/body'
import { core, RefusedError, tell, unwrap } from '~/workers/client'
import { isPointing, type BrushSettings } from '~/stores/view'

const view = useView()
const derived = useDerived()
const project = useProject()
const brush = useWeightBrush()
const marked = useMarkedArea()
const files = useFiles()
const { poses } = usePosePlayer()

const TOOLS: readonly { value: BrushSettings['tool']; label: string; hint: string }[] = [
  { value: 'add', label: 'Add', hint: 'gives the joint more of what is under the brush' },
  { value: 'take', label: 'Subtract', hint: 'gives the joint less; those beside it make up for it' },
  { value: 'smooth', label: 'Smooth', hint: 'evens out all joints under the brush' },
  { value: 'sharpen', label: 'Sharpen', hint: 'makes borders between joints crisper' },
  { value: 'replace', label: 'Replace', hint: 'brings the joint to the value below' },
  { value: 'fill', label: 'Fill', hint: 'gives the whole connected part the value below' },
  { value: 'mark', label: 'Mark', hint: 'marks an area; what is done with it stands below' },
  { value: 'joint', label: 'Joint', hint: 'chooses the joint that holds a place most, then gives the brush back (J)' },
  { value: 'place', label: 'Place', hint: 'lists the weights of a place, to be typed or copied (L)' },
]
const name = computed(() => {
  const s = derived.skeleton
  return jointLabel(s, derived.joint)
})
const points = computed(() => isPointing(view.brush.tool))
const paints = computed(() => !points.value && view.brush.tool !== 'fill' && view.brush.tool !== 'mark')
const pruned = ref(2)
const clamp = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v))
const edits = computed(() => project.recipe.skin.edits as readonly SkinEdit[])
const reason = (e: SkinEdit): string | undefined =>
  derived.lostSkin.find(l => JSON.stringify(l.edit) === JSON.stringify(e))?.reason

// --- influences of one place, typed ---
const rows = computed(() => {
  const s = derived.skeleton,
    c = brush.canvas.value
  void brush.touched.value
  if (!s || !c || view.vertex === undefined || view.vertex >= c.weld.of.length) return []
  const k = c.skin.influences,
    at = c.weld.of[view.vertex]! * k
  return Array.from({ length: k }, (_, i) => ({ joint: c.skin.joints[at + i]!, weight: c.skin.weights[at + i]! }))
    .filter(r => r.weight > 0.0005)
    .map(r => ({ ...r, label: jointLabel(s, r.joint) }))
})
function typeWeight(joint: number, percent: number): void {
  const s = derived.skeleton,
    c = brush.canvas.value
  if (!s || !c || view.vertex === undefined) return
  const share = clamp(percent / 100, 0, 1)
  const others = rows.value.filter(r => r.joint !== joint)
  const rest = others.reduce((sum, r) => sum + r.weight, 0)
  const weights = [
    { joint: jointRef(s, joint), weight: share },
    ...others.map(r => ({ joint: jointRef(s, r.joint), weight: rest > 0 ? (r.weight * (1 - share)) / rest : 0 })),
  ].filter(r => r.weight > 0)
  if (weights.length === 0) return
  const w = c.weld.of[view.vertex]!
  const size = brush.size()
  brush.add([
    {
      kind: 'set',
      at: [0, 1, 2].map(i => c.positions[3 * w + i]! / size) as [number, number, number],
      radius: 0,
      weights,
    },
  ])
}
const newJoint = ref('')
function addJoint(): void {
  if (newJoint.value === '') return
  typeWeight(Number(newJoint.value), 25)
  newJoint.value = ''
}

// --- how many joints vertices have ---
const histogram = computed(() => {
  const skin = derived.skin
  if (!skin) return []
  const counts = new Array<number>(skin.influences).fill(0)
  for (let v = 0; v < skin.joints.length; v += skin.influences) {
    let n = 0
    for (let i = v; i < v + skin.influences; i++) if (skin.weights[i]! > 0) n++
    if (n > 0) counts[n - 1]!++
  }
  const most = maxOf(counts, 1)
  return counts.map((count, i) => ({ n: i + 1, count, share: count / most }))
})
const n = (v: number): string => v.toLocaleString('en').replaceAll(',', ' ')

async function save(): Promise<void> {
  saveAs(
    `${fileStem(project.recipe.name)}.weights.json`,
    await unwrap(core().saveWeights(tell(project.recipe))),
    'application/json',
  )
}
function load(): void {
  const input = document.createElement('input')
  input.type = 'file'
  input.accept = '.json,.glb,.gltf'
  input.onchange = async () => {
    const file = input.files?.[0]
    if (file) await bringIn(file)
  }
  input.click()
}
const told = ref('')
async function bringIn(file: File): Promise<void> {
  told.value = ''
  try {
    const ref_ = await unwrap(core().keep(file.name, new Uint8Array(await file.arrayBuffer())))
    const { missing, byPlace } = await unwrap(core().tryWeights(tell(project.recipe), ref_))
    told.value = `${byPlace ? 'Matched by place on the surface.' : 'Matched vertex by vertex.'}${missing.length > 0 ? ` ${counted(missing.length, 'joint')} of the file ${missing.length === 1 ? 'is' : 'are'} not here; the weights went to the others.` : ''}`
    brush.add([{ kind: 'load', file: ref_ }])
  } catch (error) {
    files.refusal.value = {
      text: error instanceof RefusedError ? error.message : 'The weights could not be read.',
      unchanged: true,
    }
  }
}
const poseChoice = computed({
  get: () => view.pose ?? '',
  set: v => {
    view.pose = v || undefined
    view.poseShare = 1
  },
})
</script>

<template>
  <div class="card">
    <h3>{{ name }}</h3>
    <BrushCard
      v-model:tool="view.brush.tool"
      v-model:radius="view.brush.radius"
      v-model:strength="view.brush.strength"
      v-model:falloff="view.brush.falloff"
      :tools="TOOLS"
      name="tool"
      :sized="!points && view.brush.tool !== 'fill'"
      :graded="paints"
    >
      <NumberField
        v-if="view.brush.tool === 'replace' || view.brush.tool === 'fill'"
        label="Value"
        :value="view.brush.value * 100"
        unit="%"
        :step="5"
        :digits="0"
        @change="view.brush.value = clamp($event / 100, 0, 1)"
      />
    </BrushCard>
    <SwitchRow v-model="view.mirror" label="Mirror to the other side" />
    <SwitchRow
      v-if="!points && view.brush.tool !== 'fill'"
      v-model="view.brush.through"
      label="Through to the far side"
    />
  </div>
  <div class="card">
    <label class="flex items-center justify-between gap-3"
      ><span>Shown in</span>
      <select v-model="poseChoice" class="field !w-[180px]" data-testid="repair-pose">
        <option value="">rest</option>
        <option v-for="p in poses" :key="p.id" :value="p.id">{{ p.label }}</option>
      </select>
    </label>
    <SwitchRow v-model="view.solo" label="Only this joint's weights" />
  </div>
  <div class="card">
    <h3>One place</h3>
    <p v-if="rows.length === 0" class="quiet">
      Take Place above and press on the body to list and type the weights there.
    </p>
    <template v-for="r in rows" :key="r.joint">
      <NumberField :label="r.label" :value="r.weight * 100" unit="%" :step="1" @change="typeWeight(r.joint, $event)" />
    </template>
    <button v-if="rows.length > 0" class="press mt-1" data-testid="copy-place" @click="marked.copyPlace(view.vertex!)">
      Copy these weights
    </button>
    <select
      v-if="rows.length > 0"
      v-model="newJoint"
      class="field mt-1"
      aria-label="Add a joint here"
      @change="addJoint"
    >
      <option value="">Add a joint here …</option>
      <option v-for="(x, i) in derived.skeleton?.names" :key="i" :value="String(i)">
        {{ derived.skeleton?.roles[i] ? roleLabel(derived.skeleton.roles[i]!) : x }}
      </option>
    </select>
  </div>
  <MarkedArea />
  <PaintedPieces />
  <div class="card">
    <h3>The whole skin</h3>
    <div class="flex flex-wrap gap-2">
      <button class="press" @click="brush.add([{ kind: 'mirror', from: 'left' }])">Copy left to right</button>
      <button class="press" @click="brush.add([{ kind: 'mirror', from: 'right' }])">Copy right to left</button>
      <button
        class="press"
        @click="
          brush.add([
            { kind: 'soften', joint: brush.joint(), rounds: 2, locked: [...view.locked], pieces: brush.onPieces() },
          ])
        "
      >
        Smooth this joint
      </button>
      <button
        class="press"
        @click="
          brush.add([{ kind: 'soften', joint: null, rounds: 1, locked: [...view.locked], pieces: brush.onPieces() }])
        "
      >
        Smooth all
      </button>
      <button class="press" data-testid="unbleed" @click="brush.add([{ kind: 'unbleed' }])">Remove across gaps</button>
      <button class="press" data-testid="save-weights" @click="save">Save weights</button>
      <button class="press" data-testid="load-weights" @click="load">Load weights</button>
    </div>
    <div class="mt-2 flex items-end gap-2">
      <div class="flex-1">
        <NumberField
          label="Prune weights below"
          :value="pruned"
          unit="%"
          :step="0.5"
          @change="pruned = clamp($event, 0, 50)"
        />
      </div>
      <button
        class="press mb-[3px]"
        data-testid="prune"
        @click="brush.add([{ kind: 'prune', below: pruned / 100, pieces: brush.onPieces() }])"
      >
        Prune
      </button>
    </div>
    <p v-if="told" class="quiet mt-2 text-xs" role="status">{{ told }}</p>
  </div>
  <div class="card">
    <h3>Joints a vertex</h3>
    <div v-for="h in histogram" :key="h.n" class="flex items-center gap-2 py-[2px]">
      <span class="num w-3 text-right">{{ h.n }}</span><span class="h-2.5 flex-1 bg-paper-2"
        ><span class="block h-full bg-ink-2" :style="{ width: `${h.share * 100}%` }" /></span
      ><span class="num quiet w-14 text-right text-xs">{{ n(h.count) }}</span>
    </div>
  </div>
  <Disclosure v-if="edits.length > 0" v-slot="{ open }" as="div" class="card" default-open>
    <DisclosureButton class="flex w-full items-center gap-1 font-semibold"
      ><ChevronRight :size="14" :class="open ? 'rotate-90' : ''" />Repairs
      <span class="num quiet ml-auto font-normal" data-testid="repair-count">{{ edits.length }}</span></DisclosureButton
    >
    <DisclosurePanel class="pt-2">
      <div v-for="(e, i) in edits" :key="i" class="flex items-center gap-2 py-[2px]">
        <span class="flex-1 truncate" :class="reason(e) ? 'text-madder' : ''" :title="reason(e)"
          >{{ skinEditLabel(e, brush.nameOf)
          }}<span v-if="'mirror' in e && e.mirror" class="quiet"> · mirrored</span></span
        ><button
          class="p-0.5 text-ink-2 hover:text-ink"
          :aria-label="`Take back: ${skinEditLabel(e, brush.nameOf)}`"
          @click="brush.without(i)"
        >
          <X :size="13" />
        </button>
      </div>
    </DisclosurePanel>
  </Disclosure>
</template>
