<script setup lang="ts">
import { triangleCount, vertexCount } from '@chiraxis/core/mesh'

const project = useProject()
const derived = useDerived()
const { piece: pieceOf } = usePieces()
const view = useView()
const mesh = computed(() => derived.shape?.mesh)
const n = (v: number): string => v.toLocaleString('en').replaceAll(',', ' ')
function showPiece(name: string): void {
  view.piece = name
  view.go('pieces')
}
</script>

<template>
  <h2 class="quiet px-3.5 pb-1 text-xs font-semibold">Body</h2>
  <p v-if="!mesh" class="quiet px-3.5">Nothing yet.</p>
  <template v-else>
    <div class="truncate px-3.5 py-0.5 font-semibold" :title="project.recipe.body?.name">
      {{ project.recipe.body?.name }}
    </div>
    <dl class="mb-3 px-3.5">
      <div class="flex justify-between">
        <dt class="quiet">Triangles</dt>
        <dd class="num">{{ n(triangleCount(mesh)) }}</dd>
      </div>
      <div class="flex justify-between">
        <dt class="quiet">Vertices</dt>
        <dd class="num">{{ n(vertexCount(mesh)) }}</dd>
      </div>
    </dl>
    <h2 class="quiet px-3.5 pb-1 text-xs font-semibold">Pieces</h2>
    <ul>
      <li v-for="p in derived.shape?.pieces" :key="p.name">
        <button
          class="flex w-full justify-between gap-2 px-3.5 py-[3px] text-left hover:bg-paper-2"
          @click="showPiece(p.name)"
        >
          <span class="truncate">{{ pieceOf(p.name)?.label ?? p.name }}</span><span class="num quiet">{{
            n(p.triangles)
          }}</span>
        </button>
      </li>
    </ul>
  </template>
</template>
