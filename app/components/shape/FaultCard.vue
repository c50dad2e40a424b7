<script setup lang="ts">
import { ChevronLeft, ChevronRight } from '@lucide/vue'
import type { FaultKind } from '~/composables/useFaults'

/** What is wrong with the surface, stepped through place by place, and mended one by one. */
const project = useProject()
const { byKind, kinds, kind, list, at, fault, step, surface, mend } = useFaults()
/** Rims of this many edges and fewer are small holes. */
const SMALL = 40
const small = computed(() => byKind.value.rim.filter(r => r.mends && r.count <= SMALL).length)
const WORDS: Record<FaultKind, { kind: string; count: string; mend: string; cannot: string; done: string }> = {
  rim: {
    kind: 'Rims',
    count: 'Edges around it',
    mend: 'Fill this one',
    cannot: 'A cut or an open end: too long, or of several pieces, to be filled.',
    done: 'Fill a hole',
  },
  turned: {
    kind: 'Turned',
    count: 'Faces that look the other way',
    mend: 'Turn these',
    cannot: '',
    done: 'Turn faces round',
  },
  empty: {
    kind: 'Empty',
    count: 'Faces without area',
    mend: 'Remove it',
    cannot: '',
    done: 'Remove an empty face',
  },
  crowded: {
    kind: 'Crowded',
    count: 'Faces that lie there twice',
    mend: 'Remove the doubles',
    cannot: 'Surfaces meet here, or cloth has two sides. Nothing lies there twice, so nothing is removed.',
    done: 'Remove doubled faces',
  },
}
const options = computed(() =>
  kinds.value.map(k => ({ value: k, label: `${WORDS[k].kind} ${byKind.value[k].length}` })),
)
const words = computed(() => WORDS[kind.value])
const mendable = computed(() => list.value.filter(f => f.mends))
</script>

<template>
  <div v-if="fault || project.recipe.surface.length > 0" class="card" data-testid="faults">
    <h3>Place by place</h3>
    <template v-if="fault">
      <ChoiceRow v-if="kinds.length > 1" v-model="kind" label="What to step through" :options="options" />
      <p v-else class="quiet mb-1">{{ options[0]?.label }}</p>
      <div class="my-2 flex items-center gap-2">
        <button class="press !px-1.5" aria-label="The place before" @click="step(-1)">
          <ChevronLeft :size="14" />
        </button>
        <span class="num flex-1 text-center" data-testid="fault-at"
          >{{ at + 1 }} <span class="quiet">of {{ list.length }}</span></span
        >
        <button class="press !px-1.5" aria-label="The next place" data-testid="next-fault" @click="step(1)">
          <ChevronRight :size="14" />
        </button>
      </div>
      <div v-if="kind !== 'crowded' || fault.mends" class="flex justify-between py-0.5">
        <span class="quiet">{{ words.count }}</span><span class="num">{{ fault.count }}</span>
      </div>
      <div v-if="fault.length !== undefined" class="flex justify-between py-0.5">
        <span class="quiet">Length around it</span><span class="num">{{ (fault.length * 100).toFixed(1) }} cm</span>
      </div>
      <p v-if="!fault.mends" class="quiet mt-1 text-xs">{{ words.cannot }}</p>
      <div class="mt-2 flex flex-wrap gap-2">
        <button class="press" :disabled="!fault.mends" data-testid="mend-fault" @click="mend(words.done, [fault])">
          {{ words.mend }}
        </button>
        <template v-if="kind === 'rim'">
          <button
            class="press"
            :disabled="small === 0"
            :title="`Those of at most ${SMALL} edges`"
            data-testid="fill-small"
            @click="surface(`Fill ${small} small holes`, [{ kind: 'fill-small', edges: SMALL }])"
          >
            Fill {{ small }} small ones
          </button>
          <button
            class="press"
            title="Vertices on rims nearer than a thousandth of the body come to one place"
            data-testid="weld-rims"
            @click="surface('Bring near rims together', [{ kind: 'weld', within: 0.001 }])"
          >
            Close seams
          </button>
        </template>
        <button v-else-if="mendable.length > 1" class="press" @click="mend(`${words.done}, all`, mendable)">
          All {{ mendable.length }}
        </button>
      </div>
    </template>
    <p v-if="project.recipe.surface.length > 0" class="quiet mt-2 flex items-center justify-between text-xs">
      <span>{{ project.recipe.surface.length }} mended by hand</span
      ><button
        class="press !min-h-[22px] !px-1.5 text-xs"
        @click="project.change('Leave the surface as it came', { ...project.recipe, surface: [] })"
      >
        Leave as it came
      </button>
    </p>
  </div>
</template>
