<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import { roleLabel } from '@chiraxis/core/body'

const view = useView()
const derived = useDerived()
const marked = useMarkedArea()
const some = computed(() => marked.vertices.value.length > 0)
const taken = computed(() =>
  marked.copied.value
    ?.slice(0, 3)
    .map(
      r =>
        `${derived.skeleton?.roles.includes(r.joint) ? roleLabel(r.joint) : r.joint} ${Math.round(100 * r.weight)} %`,
    )
    .join(', '),
)
</script>

<template>
  <div class="card" data-testid="marked-area">
    <h3 class="flex items-baseline">
      Marked area
      <span v-if="some" class="num quiet ml-auto text-xs font-normal" data-testid="marked-count">{{
        counted(marked.vertices.value.length, 'vertex', 'vertices')
      }}</span>
    </h3>
    <p v-if="!some" class="quiet">
      Take Mark above and paint over the places that are to be averaged or to get copied weights.
    </p>
    <div v-else class="flex flex-wrap gap-2">
      <button class="press" data-testid="area-average" @click="marked.average()">Average</button>
      <button class="press" data-testid="area-copy" @click="marked.copyArea()">Copy</button>
      <button
        class="press"
        data-testid="area-paste"
        :disabled="!marked.copied.value"
        :title="marked.copied.value ? undefined : 'Copy weights from an area or a place first'"
        @click="marked.paste()"
      >
        Paste
      </button>
      <button class="press" data-testid="area-clear" @click="marked.clear()">Clear</button>
    </div>
    <p v-if="taken" class="quiet mt-2 text-xs" data-testid="copied-weights">Copied: {{ taken }}</p>
    <p v-if="some && view.mirror" class="quiet mt-1 text-xs">The other side is marked too and gets its own joints.</p>
  </div>
</template>
