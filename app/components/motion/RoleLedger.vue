<script setup lang="ts">
import { sideOf } from '@chiraxis/core/body'
import { bareRole, LIMB_GROUPS } from './limbs'

/** The figure's roles limb by limb, each with the performer joint that plays it, or how far the rest poses differ. */
const props = defineProps<{ query: string; shows: 'map' | 'match' }>()
const view = useView()
const derived = useDerived()
const answer = computed(() => (derived.ownShown ? undefined : derived.performed?.answer))
const groups = computed(() => {
  const a = answer.value
  if (!a) return []
  const roles = Object.keys(a.figureJoints).filter(
    r =>
      (props.shows === 'map' || a.match[r] !== undefined) &&
      (!props.query || bareRole(r).toLowerCase().includes(props.query.toLowerCase())),
  )
  return LIMB_GROUPS.map(g => ({
    label: g.label,
    rows: roles.filter(g.holds).map(role => {
      const own = derived.skeleton?.names[a.figureJoints[role]!]
      return {
        role,
        name: bareRole(role),
        theirs: own === undefined ? undefined : a.roleMap[own],
        degrees: a.restMatch[role] ?? 0,
      }
    }),
  })).filter(g => g.rows.length > 0)
})
</script>

<template>
  <p v-if="groups.length === 0" class="quiet px-3.5">Choose a take in Takes first.</p>
  <div v-for="g in groups" :key="g.label">
    <h2 class="quiet px-3.5 pb-1 pt-2 text-xs font-semibold">{{ g.label }}</h2>
    <LedgerRow
      v-for="r in g.rows"
      :key="r.role"
      class="gap-1.5 py-[2px] pl-2.5 pr-3"
      :data-role="r.role"
      :chosen="view.role === r.role"
      @click="view.role = r.role"
    >
      <SideIcon :side="sideOf(r.role)" /><span class="truncate">{{ r.name }}</span>
      <span v-if="shows === 'match'" class="num ml-auto text-xs" :class="r.degrees > 25 ? '' : 'quiet'"
        >{{ r.degrees.toFixed(0) }}°</span
      >
      <span v-else-if="!r.theirs" class="ml-auto text-xs text-madder">nobody</span>
    </LedgerRow>
  </div>
</template>
