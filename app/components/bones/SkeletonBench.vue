<script setup lang="ts">
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
import { ChevronRight, X } from '@lucide/vue'
import type { Vec3 } from '@chiraxis/core/math'
import { jointRef } from '@chiraxis/core/skeleton'
import { roleLabel, sideOf } from '@chiraxis/core/body'
import type { RigEdit } from '@chiraxis/core/rig'
import { core, tell, unwrap } from '~/workers/client'

const view = useView()
const derived = useDerived()
const project = useProject()
const edit = useJointEdit()
const files = useFiles()

const s = computed(() => edit.draft.value ?? derived.skeleton)
const j = computed(() => Math.min(derived.joint, (s.value?.names.length ?? 1) - 1))
const label = (i: number): string => (s.value?.roles[i] ? roleLabel(s.value.roles[i]!) : (s.value?.names[i] ?? ''))
const place = computed<Vec3 | undefined>(() => (s.value ? edit.placeOf(s.value, j.value) : undefined))
const parent = computed(() => s.value?.parents[j.value] ?? -1)
const isReceived = computed(() => derived.rig?.source === 'received')
watch([() => derived.joint, () => derived.skeleton], () => void edit.askSection(), { immediate: true })

function setAxis(axis: 0 | 1 | 2, cm: number): void {
  if (!place.value) return
  const to: Vec3 = [...place.value]
  to[axis] = cm / 100
  edit.moveTo(j.value, to)
}
function centre(): void {
  const c = edit.section.value?.centre
  if (c) edit.moveTo(j.value, c as Vec3)
}
const ref_ = computed(() => (s.value ? jointRef(s.value, j.value) : ''))
/** A cut that runs into the trunk has no middle of the limb to go to. */
const opens = computed(() => (edit.section.value?.off ?? 0) > 0.05 * (derived.shape?.straightened.height ?? 1))
const copied = shallowRef<Vec3>()
const parts = ref('2')
const split = (): void =>
  edit.add([{ kind: 'split', joint: ref_.value, parts: Number(parts.value), mirror: view.mirror }])
const insert = (): void =>
  edit.add([
    { kind: 'insert', joint: ref_.value, name: `${s.value!.names[j.value]} mid`, share: 0.5, mirror: view.mirror },
  ])
const remove = (): void => edit.add([{ kind: 'remove', joint: ref_.value, mirror: view.mirror }])
const mount = (): void =>
  edit.add(
    [
      {
        kind: 'add',
        parent: ref_.value,
        name: `${s.value!.names[j.value]} mount`,
        at: [0, 0, 0],
        along: [0, 0, 0],
        joints: 1,
        mirror: view.mirror,
      },
    ],
    `Add a mount on ${label(j.value).toLowerCase()}`,
  )
const chainJoints = ref('4')
const chain = (): void =>
  edit.add(
    [
      {
        kind: 'add',
        parent: ref_.value,
        name: `${s.value!.names[j.value]} chain`,
        at: [0, 0, -0.05],
        along: [0, -0.04, -0.03],
        joints: Number(chainJoints.value),
        mirror: view.mirror,
      },
    ],
    `Add a chain on ${label(j.value).toLowerCase()}`,
  )
function hangOn(event: Event): void {
  const to = Number((event.target as HTMLSelectElement).value)
  if (s.value && to >= 0 && to !== parent.value)
    edit.add([{ kind: 'reparent', joint: ref_.value, parent: jointRef(s.value, to), mirror: view.mirror }])
}
const plan = computed(() => project.recipe.bones.plan)
const setPlan = (name: string, change: Partial<typeof plan.value>): void =>
  project.change(name, { ...project.recipe, bones: { ...project.recipe.bones, plan: { ...plan.value, ...change } } })
const flex = computed({
  get: () => String(plan.value.flex),
  set: v => setPlan(v === '0' ? 'No flex joints' : `${v} flex joints a bone`, { flex: Number(v) }),
})
const edits = computed(() => project.recipe.bones.edits as readonly RigEdit[])
const lost = (e: RigEdit): string | undefined =>
  derived.rig?.lost.find(l => JSON.stringify(l.edit) === JSON.stringify(e))?.reason
type Source = 'received' | 'plan' | 'given'
const SOURCES: Record<Source, string> = {
  received: 'Keep the skeleton that came',
  plan: 'Build a skeleton on landmarks',
  given: 'Lay the given skeleton on the body',
}
/** The file whose skeleton is laid on the body, or was. */
const givenFile = computed(() => project.recipe.bones.given?.file.name)
const given = computed(() => project.recipe.bones.source === 'given' && givenFile.value !== undefined)
const sources = computed<{ value: Source; label: string }[]>(() => [
  ...(derived.shape?.joints ? [{ value: 'received' as const, label: 'As it came' }] : []),
  { value: 'plan', label: 'On landmarks' },
  ...(givenFile.value ? [{ value: 'given' as const, label: 'Of a file' }] : []),
])
const source = computed({
  get: (): Source => (isReceived.value ? 'received' : given.value ? 'given' : 'plan'),
  set: v =>
    project.change(SOURCES[v], {
      ...project.recipe,
      bones: { ...project.recipe.bones, source: v, edits: [] },
    }),
})
async function savePlan(): Promise<void> {
  const own = await unwrap(core().ownPlan(tell(project.recipe), project.recipe.name))
  saveAs(
    `${fileStem(project.recipe.name)}.plan.json`,
    new TextEncoder().encode(JSON.stringify(own, null, 1)),
    'application/json',
  )
}
const copy = (): void => {
  if (place.value) copied.value = [...place.value]
}
const paste = (): void => {
  if (copied.value) edit.moveTo(j.value, copied.value)
}
</script>

<template>
  <BenchHead
    title="Skeleton"
    sentence="Drag a joint in any view, or type its place. Every edit is kept and made again when landmarks or the body change."
  />
  <WorkProgress step="landmarks" what="Finding landmarks" />
  <WorkProgress step="rig" what="Building the skeleton" />
  <div v-if="derived.shape" class="card">
    <ChoiceRow v-if="sources.length > 1" v-model="source" label="Skeleton" :options="sources" />
    <p v-if="given" class="quiet mb-1 truncate text-xs" :title="givenFile">{{ givenFile }}, as it is</p>
    <button
      class="press"
      title="Joints, names and axes stay as they are in the file; only their places change"
      data-testid="lay-skeleton"
      @click="files.pickSkeleton()"
    >
      Lay a skeleton of a file on it
    </button>
  </div>
  <div v-if="s && place" class="card">
    <h3 class="flex items-center gap-2">
      <SideIcon :side="sideOf(s.roles[j] ?? s.names[j] ?? '')" />{{ label(j)
      }}<span class="quiet ml-auto truncate text-xs font-normal">{{ s.names[j] }}</span>
    </h3>
    <NumberField label="Across" :value="place[0] * 100" unit="cm" @change="setAxis(0, $event)" />
    <NumberField label="Height" :value="place[1] * 100" unit="cm" @change="setAxis(1, $event)" />
    <NumberField label="Depth" :value="place[2] * 100" unit="cm" @change="setAxis(2, $event)" />
    <label class="flex items-center justify-between py-1"
      ><span>Hangs on</span>
      <select class="field !w-[168px]" :value="parent" :disabled="parent < 0" @change="hangOn">
        <option v-if="parent < 0" :value="-1">nothing: the root</option>
        <option v-for="(_, i) in s.names" :key="i" :value="i" :disabled="i === j">{{ label(i) }}</option>
      </select>
    </label>
    <SwitchRow v-model="view.withChildren" label="Children go along" />
    <SwitchRow v-model="view.mirror" label="Mirror to the other side" />
    <div class="mt-1 flex gap-2">
      <button class="press" @click="copy">Copy place</button
      ><button class="press" :disabled="!copied" @click="paste">Paste place</button>
    </div>
  </div>
  <div v-if="edit.section.value" class="card flex gap-3">
    <SectionLens :section="edit.section.value" :side="sideOf(s?.roles[j] ?? '')" :point="place" :size="112" />
    <div class="flex min-w-0 flex-col items-start gap-1.5">
      <h3 class="!mb-0">Section</h3>
      <p class="num">
        {{
          !edit.section.value.centre
            ? 'nothing is cut here'
            : opens
              ? 'opens into the trunk'
              : `${(edit.section.value.off * 100).toFixed(1)} cm off centre`
        }}
      </p>
      <button
        class="press"
        :disabled="!edit.section.value.centre || opens || edit.section.value.off < 0.0005"
        data-testid="centre-joint"
        @click="centre"
      >
        Centre
      </button>
    </div>
  </div>
  <div class="card">
    <h3>Chain</h3>
    <div class="flex flex-wrap gap-2">
      <span class="flex items-center"
        ><button class="press !rounded-r-none" data-testid="split" @click="split">Split into</button
        ><select v-model="parts" class="field num !w-12 !rounded-l-none !border-l-0" aria-label="Number of parts">
          <option v-for="n in 7" :key="n" :value="String(n + 1)">{{ n + 1 }}</option>
        </select></span
      >
      <button class="press" @click="insert">Insert one</button>
      <button class="press" :disabled="parent < 0" @click="remove">Take out</button>
      <button class="press" @click="mount">Add a mount</button>
      <span class="flex items-center"
        ><button class="press !rounded-r-none" @click="chain">Add a chain of</button
        ><select
          v-model="chainJoints"
          class="field num !w-12 !rounded-l-none !border-l-0"
          aria-label="Joints of the chain"
        >
          <option v-for="n in 12" :key="n" :value="String(n)">{{ n }}</option>
        </select></span
      >
      <button class="press" @click="edit.add([{ kind: 'match', from: 'left' }])">Right as left</button>
    </div>
  </div>
  <div v-if="!isReceived && !given" class="card">
    <h3>
      Plan <span class="quiet font-normal">· {{ derived.plan === 'fourleg' ? 'four legs' : 'two legs' }}</span>
    </h3>
    <ChoiceRow
      v-model="flex"
      label="Flex joints on each long bone"
      :options="[
        { value: '0', label: 'None' },
        { value: '1', label: '1' },
        { value: '2', label: '2' },
        { value: '3', label: '3' },
      ]"
    />
    <NumberField
      v-if="derived.plan === 'fourleg'"
      label="Tail joints"
      :value="plan.tailJoints"
      unit=""
      :digits="0"
      :step="1"
      @change="setPlan('Set the tail joints', { tailJoints: Math.max(0, Math.min(24, Math.round($event))) })"
    />
  </div>
  <div class="card flex flex-wrap gap-2">
    <button v-if="!given" class="press" title="Saves this layout to use on other bodies" @click="savePlan">
      Save as a plan</button
    ><button class="press" @click="files.pick()">Load a plan</button>
  </div>
  <Disclosure v-if="edits.length > 0" v-slot="{ open }" as="div" class="card">
    <DisclosureButton class="flex w-full items-center gap-1 font-semibold"
      ><ChevronRight :size="14" :class="open ? 'rotate-90' : ''" />Edits by hand
      <span class="num quiet ml-auto font-normal">{{ edits.length }}</span></DisclosureButton
    >
    <DisclosurePanel class="pt-2">
      <div v-for="(e, i) in edits" :key="i" class="flex items-center gap-2 py-[2px]">
        <span class="flex-1 truncate" :class="lost(e) ? 'text-madder' : ''" :title="lost(e)">{{
          edit.words(e)
        }}</span><button
          class="p-0.5 text-ink-2 hover:text-ink"
          :aria-label="`Take back: ${edit.words(e)}`"
          @click="edit.without(i)"
        >
          <X :size="13" />
        </button>
      </div>
    </DisclosurePanel>
  </Disclosure>
  <div class="card">
    <h3>Display</h3>
    <SwitchRow v-model="view.seeThrough" label="See through the body" />
    <NumberField
      label="Joint size"
      :value="view.jointSize"
      unit="×"
      :step="0.1"
      @change="view.jointSize = Math.min(3, Math.max(0.4, $event))"
    />
  </div>
  <div class="mt-auto p-4">
    <button class="press press-main" :disabled="!derived.skeleton" @click="view.go('axes')">Go on to the axes</button>
  </div>
</template>
