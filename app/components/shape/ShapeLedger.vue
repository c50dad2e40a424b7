<script setup lang="ts">
import { triangleCount, vertexCount } from '@chiraxis/core/mesh'

const project = useProject()
const derived = useDerived()
const mesh = computed(() => derived.shape?.mesh)
const n = (v: number): string => v.toLocaleString('en').replaceAll(',', ' ')
</script>

<template>
  <h2 class="quiet px-3.5 pb-1 text-xs font-semibold">Body</h2>
  <p v-if="!mesh" class="quiet px-3.5">Nothing yet. Drop a body file on the window, or open a sample figure on the right.</p>
  <template v-else>
    <div class="truncate px-3.5 py-0.5 font-semibold" :title="project.recipe.body?.name">{{ project.recipe.body?.name }}</div>
    <dl class="mb-3 px-3.5">
      <div class="flex justify-between"><dt class="quiet">Triangles</dt><dd class="num">{{ n(triangleCount(mesh)) }}</dd></div>
      <div class="flex justify-between"><dt class="quiet">Vertices</dt><dd class="num">{{ n(vertexCount(mesh)) }}</dd></div>
      <div class="flex justify-between"><dt class="quiet">Shells</dt><dd class="num">{{ derived.shape?.pieces }}</dd></div>
    </dl>
    <h2 class="quiet px-3.5 pb-1 text-xs font-semibold">Pieces</h2>
    <ul>
      <li v-for="p in mesh.parts" :key="p.name + p.start" class="flex justify-between gap-2 px-3.5 py-[3px]"><span class="truncate">{{ p.name }}</span><span class="num quiet">{{ n(p.count / 3) }}</span></li>
    </ul>
  </template>
</template>
