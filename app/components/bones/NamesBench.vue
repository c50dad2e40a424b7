<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import { jointRef, namesByScheme, renamingTo, type NamingScheme } from '@chiraxis/core/skeleton'
import { BIPED_ROLES, REQUIRED_ROLES, roleLabel } from '@chiraxis/core/body'

const view = useView()
const derived = useDerived()
const edit = useJointEdit()
const s = computed(() => derived.skeleton)
const fourleg = computed(() => s.value?.roles.includes('leftHindUpperLeg') ?? false)
const FINGER_ROLES = ['left', 'right'].flatMap(side =>
  ['Thumb', 'Index', 'Middle', 'Ring', 'Little'].flatMap(f =>
    (f === 'Thumb' ? ['Metacarpal', 'Proximal', 'Distal'] : ['Proximal', 'Intermediate', 'Distal']).map(
      p => side + f + p,
    ),
  ),
)
const roles = computed<readonly string[]>(() => [
  ...new Set([...BIPED_ROLES, ...FINGER_ROLES, ...(s.value?.roles ?? []).filter((r): r is string => !!r)]),
])
const missing = computed(() => (fourleg.value ? [] : REQUIRED_ROLES.filter(r => !s.value?.roles.includes(r))))
const idle = computed(() => s.value?.names.flatMap((n, j) => (s.value!.roles[j] ? [] : [{ n, j }])) ?? [])
const scheme = reactive<{ -readonly [K in keyof NamingScheme]: NamingScheme[K] }>({
  style: 'camel',
  side: 'first',
  letter: false,
  prefix: '',
})
const preview = computed(() => (s.value ? namesByScheme(s.value, { ...scheme, others: others.value }) : undefined))
const others = ref(false)
const name = ref('')
watch(
  [() => derived.joint, s],
  () => {
    name.value = s.value?.names[derived.joint] ?? ''
  },
  { immediate: true },
)
function rename(): void {
  const old = s.value?.names[derived.joint]
  const next = name.value.trim()
  if (!s.value || old === undefined || next === old) return
  if (clash.value) name.value = old
  else edit.add([{ kind: 'rename', names: { [jointRef(s.value, derived.joint)]: next } }], `Rename ${old || 'a joint'}`)
}
const clash = computed(() => {
  if (!s.value || name.value.trim() === s.value.names[derived.joint]) return undefined
  return renamingTo(s.value, new Map([[derived.joint, name.value.trim()]])).clash
})
function setRole(event: Event): void {
  const role = (event.target as HTMLSelectElement).value
  const own = s.value?.names[derived.joint]
  if (!s.value || own === undefined) return
  // a role is played by one joint: whoever had it gives it up
  const before = s.value.roles.indexOf(role)
  const change: Record<string, string> = { [own]: role }
  if (role && before >= 0 && before !== derived.joint) change[s.value.names[before]!] = ''
  edit.add(
    [{ kind: 'roles', roles: change }],
    role ? `Let ${own} be ${roleLabel(role).toLowerCase()}` : `${own} plays no part`,
  )
}
const apply = (): void => {
  if (preview.value) edit.add([{ kind: 'rename', names: preview.value.names }], 'Rename by scheme')
}
</script>

<template>
  <BenchHead
    title="Names"
    sentence="What each joint is called, and which part of the body it stands for. Done when no part is missing."
  />
  <WorkProgress step="rig" what="Building the skeleton" />
  <div v-if="s" class="card">
    <h3>{{ s.names[derived.joint] }}</h3>
    <label class="flex items-center justify-between gap-3 py-1"
      ><span>Name</span
      ><input
        v-model="name"
        class="field !w-[180px]"
        maxlength="200"
        aria-label="Joint name"
        @change="rename"
        @keydown.enter="rename"
    /></label>
    <p v-if="clash" class="text-xs text-madder" data-testid="name-clash">{{ clash }}</p>
    <label class="flex items-center justify-between gap-3 py-1"
      ><span>Stands for</span>
      <select class="field !w-[180px]" :value="s.roles[derived.joint] ?? ''" data-testid="role" @change="setRole">
        <option value="">no part of the body</option>
        <option v-for="r in roles" :key="r" :value="r">{{ roleLabel(r) }}</option>
      </select>
    </label>
  </div>
  <RenameCard />
  <ReadingCard />
  <div class="card">
    <h3>Parts of the body</h3>
    <p v-if="missing.length === 0" class="quiet">All that motion needs are there.</p>
    <template v-else
      ><p class="mb-1 text-madder">{{ counted(missing.length, 'part is', 'parts are') }} missing</p>
      <p class="quiet">{{ missing.map(r => roleLabel(r).toLowerCase()).join(', ') }}</p></template
    >
    <template v-if="idle.length > 0">
      <p class="quiet mb-1 mt-2 text-xs">
        Joints that stand for none <span class="num">{{ idle.length }}</span>
      </p>
      <div class="flex flex-wrap gap-1">
        <button
          v-for="x in idle.slice(0, 24)"
          :key="x.j"
          class="press !min-h-[22px] !px-1.5 text-xs"
          :class="derived.joint === x.j ? 'border-madder font-semibold text-madder' : ''"
          @click="derived.joint = x.j"
        >
          {{ x.n }}
        </button>
      </div>
      <p v-if="idle.length > 24" class="quiet mt-1 text-xs">and {{ idle.length - 24 }} more in the list</p>
    </template>
  </div>
  <div class="card">
    <h3>Rename by scheme</h3>
    <ChoiceRow
      v-model="scheme.style"
      label="Style"
      :options="[
        { value: 'camel', label: 'upperArm' },
        { value: 'snake', label: 'upper_arm' },
        { value: 'words', label: 'Upper arm' },
      ]"
    />
    <ChoiceRow
      v-model="scheme.side"
      label="Side"
      :options="[
        { value: 'first', label: 'In front' },
        { value: 'last', label: 'At the end' },
      ]"
    />
    <SwitchRow v-model="scheme.letter" label="Side as a letter" />
    <label class="flex items-center justify-between gap-3 py-1"
      ><span>Prefix</span
      ><input v-model.trim="scheme.prefix" class="field !w-[112px]" maxlength="40" placeholder="none"
    /></label>
    <SwitchRow v-model="others" label="Joints that stand for no part too" />
    <p v-if="!preview || preview.changes.length === 0" class="quiet">All joints are named so already.</p>
    <template v-else>
      <div class="mt-1 max-h-40 overflow-y-auto border-y border-rule py-1">
        <div v-for="c in preview.changes" :key="c.joint" class="flex gap-2 py-[1px] text-xs">
          <span class="quiet w-1/2 truncate">{{ c.from }}</span><span class="w-1/2 truncate">{{ c.to }}</span>
        </div>
      </div>
      <p v-if="preview.clash" class="mt-1 text-xs text-madder">{{ preview.clash }}</p>
      <button class="press mt-2" :disabled="!!preview.clash" data-testid="rename-all" @click="apply">
        Rename {{ preview.changes.length }} joints
      </button>
    </template>
  </div>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!derived.skeleton" @click="view.go('rest')">
      Go on to the rest pose
    </button>
  </div>
</template>
