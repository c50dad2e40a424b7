<script setup lang="ts">
const derived = useDerived()
const project = useProject()
const counts = computed(() => [
  [
    'Vertices',
    derived.shape ? `${(derived.shape.mesh.positions.length / 3).toLocaleString('en').replaceAll(',', ' ')}` : '–',
  ],
  ['Joints', derived.skeleton ? String(derived.skeleton.names.length) : '–'],
  ['Influences', String(project.recipe.skin.influences)],
  ['Takes', String(derived.fittingTakes.length)],
])
</script>

<template>
  <h2 class="quiet px-3.5 pb-1 text-xs font-semibold">What there is</h2>
  <div v-for="[label, value] in counts" :key="label" class="flex justify-between px-3.5 py-[3px]">
    <span>{{ label }}</span><span class="num quiet">{{ value }}</span>
  </div>
</template>
