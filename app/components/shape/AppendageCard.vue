<script setup lang="ts">
import { fromEuler, toEulerYXZ, type Vec3 } from '@chiraxis/core/math'
import { jointRef } from '@chiraxis/core/skeleton'
import { ATTACH_DEFAULTS, attachmentOf, withoutAppendage, type AttachChoice, type Recipe } from '@chiraxis/core/recipe'

/** What came with joints of its own: where it hangs, how large it is and how it is put on. */
const derived = useDerived()
const project = useProject()
const files = useFiles()
const attached = computed(() => (project.recipe.added as Recipe['added']).filter(a => a.attached))
const joints = computed(() => {
  const s = derived.skeleton
  if (!s) return []
  const own = new Set(
    attached.value.flatMap(a => attachmentOf(project.recipe as Recipe, a.file.hash)?.joints.map(j => j.name) ?? []),
  )
  return s.names.flatMap((n, j) => (own.has(n) ? [] : [{ ref: jointRef(s, j), label: jointLabel(s, j) }]))
})
type Added = Recipe['added'][number]
/** How it is attached now; its root stays where it is. */
const choiceOf = (a: Added): AttachChoice => ({
  ...ATTACH_DEFAULTS,
  joint: a.attached!.joint,
  prefix: a.attached!.prefix,
  scale: a.place?.scale ?? 1,
  turn: a.place?.turn ?? [0, 0, 0, 1],
})
/** The place by hand so far, metres in the file's own axes. */
const shiftOf = (a: Added): Vec3 => (a.place?.at ?? [0, 0, 0]) as Vec3
const change = (a: Added, name: string, what: Partial<AttachChoice>): void =>
  void files.attach({ file: a.file, beside: a.beside }, { ...choiceOf(a), ...what }, name)
const angles = (a: Added): Vec3 => toEulerYXZ(choiceOf(a).turn).map(v => (v * 180) / Math.PI) as Vec3
function turn(a: Added, k: 0 | 1 | 2, degrees: number): void {
  const each = angles(a)
  each[k] = degrees
  const [x, y, z] = each.map(v => (v * Math.PI) / 180) as Vec3
  change(a, `Turn ${a.file.name}`, { turn: fromEuler(x, y, z, 'YXZ') })
}
function shift(a: Added, k: 0 | 1 | 2, cm: number): void {
  const at: Vec3 = [...shiftOf(a)]
  at[k] = cm / 100
  change(a, `Move ${a.file.name}`, { at })
}
const remove = (a: Added): void =>
  project.change(`Take off ${a.file.name}`, withoutAppendage(project.recipe as Recipe, a.file.hash))
const AXES = [
  ['Across', 0],
  ['Height', 1],
  ['Depth', 2],
] as const
</script>

<template>
  <div v-for="a in attached" :key="a.file.hash" class="card" data-testid="appendage">
    <h3 class="truncate" :title="a.file.name">{{ a.file.name }}</h3>
    <p class="quiet mb-1 text-xs">
      {{ attachmentOf(project.recipe as Recipe, a.file.hash)?.joints.length ?? 0 }} joints of its own, moved by its own
      skin
    </p>
    <label class="flex items-center justify-between gap-3 py-1"
      ><span>Attached to</span
      ><select
        class="field !w-[168px]"
        :value="a.attached!.joint"
        data-testid="attached-to"
        @change="change(a, `Attach ${a.file.name} elsewhere`, { joint: ($event.target as HTMLSelectElement).value })"
      >
        <option v-for="j in joints" :key="j.ref" :value="j.ref">{{ j.label }}</option>
      </select></label
    >
    <label class="flex items-center justify-between gap-3 py-1"
      ><span>Before its names</span
      ><TextField
        class="field !w-[112px]"
        :value="a.attached!.prefix"
        maxlength="40"
        aria-label="Put before its names"
        @change="change(a, `Rename the joints of ${a.file.name}`, { prefix: $event })"
    /></label>
    <NumberField
      label="Scale"
      :value="choiceOf(a).scale"
      unit="×"
      :digits="3"
      :step="0.01"
      @change="change(a, `Scale ${a.file.name}`, { scale: Math.max(1e-4, Math.min(1e4, $event)) })"
    />
    <NumberField
      v-for="[text, k] in AXES"
      :key="text"
      :label="text"
      :value="shiftOf(a)[k] * 100"
      unit="cm"
      @change="shift(a, k, $event)"
    />
    <NumberField
      v-for="(axis, k) in ['x', 'y', 'z']"
      :key="axis"
      :label="`About ${axis}`"
      :value="angles(a)[k]!"
      unit="°"
      :digits="0"
      :step="5"
      @change="turn(a, k as 0 | 1 | 2, $event)"
    />
    <div class="mt-1 flex flex-wrap gap-2">
      <button
        class="press"
        data-testid="onto-joint"
        @click="change(a, `Put ${a.file.name} on its joint`, { onJoint: true })"
      >
        Root onto the joint
      </button>
      <button class="press" data-testid="take-off" @click="remove(a)">Take it off</button>
    </div>
  </div>
</template>
