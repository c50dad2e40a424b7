<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import { rootRecord, type RigEdit } from '@chiraxis/core/rig'
import { jointRef } from '@chiraxis/core/skeleton'

/** What is done to the joints that are chosen: divided, added to, removed; and the root above all of them. */
const view = useView()
const derived = useDerived()
const chosen = useChosen()
const edit = useJointEdit()
const s = computed(() => derived.skeleton)
const label = computed(() => jointLabel(s.value, derived.joint).toLowerCase())
/** The same edit for every joint that is chosen, as one change. */
function each(make: (ref: string, name: string) => RigEdit, name: (n: number) => string): void {
  const k = s.value
  if (!k) return
  const joints = withoutMirrored(k, chosen.joints, view.mirror)
  edit.add(
    joints.map(j => make(jointRef(k, j), k.names[j]!)),
    joints.length > 1 ? name(joints.length) : undefined,
  )
}
const parts = ref('2')
const split = (): void =>
  each(
    joint => ({ kind: 'split', joint, parts: Number(parts.value), mirror: view.mirror }),
    n => `Split ${counted(n, 'joint')} into ${parts.value}`,
  )
const insert = (): void =>
  each(
    (joint, name) => ({ kind: 'insert', joint, name: `${name} mid`, share: 0.5, mirror: view.mirror }),
    n => `Insert ${counted(n, 'joint')}`,
  )
const remove = (): void =>
  each(
    joint => ({ kind: 'remove', joint, mirror: view.mirror }),
    n => `Remove ${counted(n, 'joint')}`,
  )
const mount = (): void =>
  each(
    (parent, name) => ({
      kind: 'add',
      parent,
      name: `${name} mount`,
      at: [0, 0, 0],
      along: [0, 0, 0],
      joints: 1,
      mirror: view.mirror,
    }),
    n => `Add ${counted(n, 'mount')}`,
  )
const roots = computed(() => [...(s.value?.parents ?? [])].filter(p => p < 0).length)
/** A root that stands still on the ground and moves no skin of its own. */
const addRoot = (): void => {
  if (s.value) edit.add([rootRecord(s.value.names)])
}
</script>

<template>
  <div v-if="s" class="card">
    <h3>{{ chosen.many ? 'Change the joints' : `Change ${label}` }}</h3>
    <div class="flex flex-wrap gap-2">
      <span class="flex items-center"
        ><button class="press !rounded-r-none" data-testid="split" @click="split">Split into</button
        ><select v-model="parts" class="field num !w-12 !rounded-l-none !border-l-0" aria-label="Number of parts">
          <option v-for="n in 7" :key="n" :value="String(n + 1)">{{ n + 1 }}</option>
        </select></span
      >
      <button class="press" @click="insert">Insert one</button>
      <button class="press" data-testid="remove-joint" @click="remove">Remove</button>
      <button class="press" @click="mount">Add a mount</button>
      <button class="press" @click="edit.add([{ kind: 'match', from: 'left' }])">Copy left to right</button>
      <button
        class="press"
        :title="roots > 1 ? 'Becomes the parent of all roots' : 'Stands still on the ground; moves no skin'"
        data-testid="add-root"
        @click="addRoot"
      >
        Add a root{{ roots > 1 ? ` above ${roots}` : '' }}
      </button>
    </div>
  </div>
</template>
