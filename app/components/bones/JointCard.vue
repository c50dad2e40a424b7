<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import type { Vec3 } from '@chiraxis/core/math'
import { applyMove, moveRecord, rigOf } from '@chiraxis/core/rig'
import { jointRef, jointSide } from '@chiraxis/core/skeleton'

/** The joint in play, or all that are chosen together: where they are and what they hang on. */
const view = useView()
const derived = useDerived()
const chosen = useChosen()
const edit = useJointEdit()
const s = computed(() => edit.draft.value ?? derived.skeleton)
const j = computed(() => Math.min(derived.joint, (s.value?.names.length ?? 1) - 1))
const label = (i: number): string => jointLabel(s.value, i)
const place = computed<Vec3 | undefined>(() => (s.value ? edit.placeOf(s.value, j.value) : undefined))
const parent = computed(() => s.value?.parents[j.value] ?? -1)

function setAxis(axis: 0 | 1 | 2, cm: number): void {
  const k = derived.skeleton
  if (!place.value || !k) return
  const size = derived.shape?.straightened.height ?? 1
  const mirror = view.mirror && !chosen.many
  // each is told on the skeleton as the ones before leave it
  let now = k
  const records = chosen.joints.map(i => {
    const to: Vec3 = [...edit.placeOf(now, i)]
    to[axis] = cm / 100
    const record = moveRecord(now, i, to, size, { children: view.withChildren && !chosen.many, mirror })
    now = applyMove(rigOf(now), record, size).skeleton
    return record
  })
  edit.add(records, chosen.many ? `Move ${chosen.joints.length} joints` : undefined)
}
const copied = shallowRef<Vec3>()
const copy = (): void => {
  if (place.value) copied.value = [...place.value]
}
const paste = (): void => {
  if (copied.value) edit.moveTo(j.value, copied.value)
}
function hangOn(event: Event): void {
  const to = Number((event.target as HTMLSelectElement).value)
  const k = derived.skeleton
  if (!k || to < 0) return
  const moved = withoutMirrored(k, chosen.joints, view.mirror).filter(
    i => i !== to && k.parents[i] !== to && k.parents[i]! >= 0,
  )
  edit.add(
    moved.map(i => ({ kind: 'reparent', joint: jointRef(k, i), parent: jointRef(k, to), mirror: view.mirror })),
    moved.length > 1 ? `${label(to)} becomes the parent of ${counted(moved.length, 'joint')}` : undefined,
  )
}
</script>

<template>
  <div v-if="s && place" class="card">
    <h3 class="flex items-center gap-2">
      <template v-if="chosen.many"
        ><span data-testid="chosen-count">{{ chosen.joints.length }} joints</span
        ><span class="quiet ml-auto truncate text-xs font-normal">{{ label(j) }} and others</span></template
      >
      <template v-else
        ><SideIcon :side="jointSide(s, j)" />{{ label(j)
        }}<span class="quiet ml-auto truncate text-xs font-normal">{{ s.names[j] }}</span></template
      >
    </h3>
    <NumberField label="Across" :value="place[0] * 100" unit="cm" @change="setAxis(0, $event)" />
    <NumberField label="Height" :value="place[1] * 100" unit="cm" @change="setAxis(1, $event)" />
    <NumberField label="Depth" :value="place[2] * 100" unit="cm" @change="setAxis(2, $event)" />
    <label class="flex items-center justify-between py-1"
      ><span>Parent</span>
      <select class="field !w-[168px]" :value="parent" :disabled="parent < 0" data-testid="parent" @change="hangOn">
        <option v-if="parent < 0" :value="-1">none: the root</option>
        <option v-for="(_, i) in s.names" :key="i" :value="i" :disabled="chosen.joints.includes(i)">
          {{ label(i) }}
        </option>
      </select>
    </label>
    <SwitchRow v-model="view.withChildren" label="Children go along" />
    <SwitchRow v-model="view.mirror" label="Mirror to the other side" />
    <ChooseMore />
    <div v-if="!chosen.many" class="mt-2 flex gap-2">
      <button class="press" @click="copy">Copy position</button
      ><button class="press" :disabled="!copied" @click="paste">Paste position</button>
    </div>
  </div>
</template>
