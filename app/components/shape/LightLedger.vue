<script setup lang="ts">
import { roleLabel, sideOf } from '@chiraxis/core/body'
import { capital } from '@chiraxis/core/words'

/** Rings at every joint that bends; those of the one pointed at are marked on the plate. */
const light = useLight()
const JOINTS: Readonly<Record<string, readonly string[]>> = {
  Leg: ['hip', 'knee', 'ankle', 'ball'],
  Arm: ['shoulder', 'elbow', 'wrist', 'knuckles'],
  head: ['neck', 'head'],
}
const limbWords = (limb: string): string =>
  limb
    .replace(/^(left|right)/, '')
    .replace(/([A-Z])/g, ' $1')
    .trim()
    .toLowerCase()
const groups = computed(() => {
  const list = light.made.value?.report.loops ?? []
  const out = new Map<
    string,
    { key: string; limb: string; joint: number; label: string; side: ReturnType<typeof sideOf>; count: number }[]
  >()
  for (const { limb, joint, role, loops } of list) {
    const kind = Object.keys(JOINTS).find(k => limb.endsWith(k))
    const label =
      (kind && JOINTS[kind]?.[joint]) ??
      (role ? roleLabel(role).replace(/^(left|right) /i, '') : `${limbWords(limb)} ${joint + 1}`)
    const group =
      kind === 'Leg'
        ? 'Legs'
        : kind === 'Arm'
          ? 'Arms'
          : kind === 'head'
            ? 'Head'
            : limb === 'trunk'
              ? 'Trunk'
              : /Thumb|Index|Middle|Ring|Little/.test(limb)
                ? 'Fingers'
                : 'Others'
    const rows = out.get(group) ?? []
    rows.push({ key: `${limb} ${joint}`, limb, joint, label: capital(label), side: sideOf(limb), count: loops.length })
    out.set(group, rows)
  }
  return [...out]
})
const isPointed = (limb: string, joint: number): boolean =>
  light.pointed.value?.limb === limb && light.pointed.value.joint === joint
</script>

<template>
  <p v-if="groups.length === 0" class="quiet px-3.5">Rings at the joints are listed here once there is a light body.</p>
  <div v-for="[name, rows] in groups" :key="name">
    <h2 class="px-3.5 pb-0.5 pt-2 font-semibold">{{ name }}</h2>
    <LedgerRow
      v-for="r in rows"
      :key="r.key"
      class="gap-2 py-[2px] pl-3 pr-3.5"
      :data-light-row="r.key"
      :chosen="isPointed(r.limb, r.joint)"
      @click="light.pointed.value = isPointed(r.limb, r.joint) ? undefined : { limb: r.limb, joint: r.joint }"
    >
      <SideIcon :side="r.side" /><span class="flex-1">{{ r.label }}</span>
      <span class="num text-xs" :class="r.count < 3 ? 'font-semibold text-madder' : 'quiet'">{{ r.count }} rings</span>
    </LedgerRow>
  </div>
</template>
