<script setup lang="ts">
import { conjugate, fromEuler, multiply, quatAt, toEulerYXZ, type Quat, type Vec3 } from '@chiraxis/core/math'
import type { RigEdit } from '@chiraxis/core/rig'
import { jointRef, worldPose, type Skeleton } from '@chiraxis/core/skeleton'

/** How the chosen joints are turned, by numbers in three axes. Only their own axes turn: skin, takes and other joints stay. */
const view = useView()
const derived = useDerived()
const chosen = useChosen()
const edit = useJointEdit()
const s = computed(() => edit.draft.value ?? derived.skeleton)
const against = ref<'body' | 'parent'>('body')
const degrees = (v: number): number => (v * 180) / Math.PI

/** A joint's rotation against the body or against its parent. */
function rotationOf(k: Skeleton, j: number, { rotations } = worldPose(k)): Quat {
  const q = quatAt(rotations, j)
  const p = k.parents[j]!
  return against.value === 'body' || p < 0 ? q : multiply(conjugate(quatAt(rotations, p)), q)
}
const angles = computed<Vec3>(() => {
  const k = s.value
  return k && derived.joint < k.names.length
    ? (toEulerYXZ(rotationOf(k, derived.joint)).map(degrees) as Vec3)
    : [0, 0, 0]
})
/** Turns every chosen joint so that one of its angles is as told; the two others stay. */
function set(axis: 0 | 1 | 2, value: number): void {
  const k = derived.skeleton
  if (!k) return
  const world = worldPose(k)
  const edits = withoutMirrored(k, chosen.joints, view.mirror).map((j): RigEdit => {
    const now = rotationOf(k, j, world)
    const each = toEulerYXZ(now).map(degrees) as Vec3
    each[axis] = value
    const [x, y, z] = each.map(v => (v * Math.PI) / 180) as Vec3
    // from the joint's own axes now to those wished: the same against whatever both are told
    const by = multiply(conjugate(now), fromEuler(x, y, z, 'YXZ'))
    return { kind: 'turn', joint: jointRef(k, j), by, mirror: view.mirror }
  })
  edit.add(edits, edits.length > 1 ? `Turn the axes of ${edits.length} joints` : undefined)
}
const align = (to: 'body' | 'parent'): void => {
  const k = derived.skeleton
  if (!k) return
  const joints = withMirrored(k, chosen.joints, view.mirror).map(j => jointRef(k, j))
  edit.add([{ kind: 'align', joints, to }])
}
const label = computed(() => jointLabel(s.value, derived.joint))
const AXES = ['x', 'y', 'z'] as const
</script>

<template>
  <div v-if="s" class="card" data-testid="orient">
    <h3>{{ chosen.many ? `${chosen.joints.length} joints` : label }}</h3>
    <ChoiceRow
      v-model="against"
      label="Rotation against"
      :options="[
        { value: 'body', label: 'The body' },
        { value: 'parent', label: 'Its parent' },
      ]"
    />
    <NumberField
      v-for="(axis, k) in AXES"
      :key="axis"
      :label="`About ${axis}`"
      :value="angles[k]!"
      unit="°"
      :step="1"
      @change="set(k as 0 | 1 | 2, $event)"
    />
    <div class="mt-1 flex flex-wrap gap-2">
      <button class="press" data-testid="align-body" @click="align('body')">As the body</button
      ><button class="press" @click="align('parent')">As its parent</button>
    </div>
    <ChooseMore />
    <p class="quiet mt-2 text-xs">On the plate: pull the end of an axis to turn them freely.</p>
  </div>
</template>
