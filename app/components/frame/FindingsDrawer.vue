<script setup lang="ts">
import { capital } from '@chiraxis/core/words'
import { isFinger, sideOf } from '@chiraxis/core/body'
import { X } from '@lucide/vue'
import type { Finding } from '@chiraxis/core/findings'
import { findJoint } from '@chiraxis/core/skeleton'
import { core, tell, unwrap } from '~/workers/client'

const view = useView()
const derived = useDerived()
const project = useProject()
const groups = computed(() =>
  (['error', 'warning', 'note'] as const)
    .map(severity => ({
      severity,
      title: { error: 'Stands in the way', warning: 'Needs a look', note: 'Good to know' }[severity],
      list: derived.findings.filter(f => f.severity === severity),
    }))
    .filter(g => g.list.length > 0),
)

const AXES_RULES = /axes|hinge|bent|straight|root|rest/
const NAME_RULES = /prefix|names|role|idle/
const SKIN_RULES = /weights|influence|vertices/
function show(f: Finding): void {
  if (f.rule === 'states-mistake') return view.go('states')
  const take = project.recipe.takes.find(t => t.name === f.target)
  if (take) {
    view.go('takes')
    void derived.showTake(take.id)
  } else if (derived.landmarks?.some(l => l.id === f.target)) {
    view.go(isFinger(f.target!) ? 'hands' : 'landmarks')
    if (view.step === 'hands') view.hand = sideOf(f.target!) === 'left' ? 'left' : 'right'
    view.landmark = f.target
  } else if (derived.shape?.materials.some(m => m.name === f.target)) view.go('pieces')
  else if (derived.skeleton && f.target !== undefined) {
    const j = findJoint(derived.skeleton, f.target)
    view.go(
      AXES_RULES.test(f.rule)
        ? 'axes'
        : NAME_RULES.test(f.rule)
          ? 'names'
          : SKIN_RULES.test(f.rule)
            ? 'skin'
            : 'skeleton',
    )
    if (j >= 0) derived.joint = j
  } else
    view.go(
      /faces|surface|half|sided/.test(f.rule)
        ? 'check'
        : /axes|root/.test(f.rule)
          ? 'axes'
          : NAME_RULES.test(f.rule)
            ? 'names'
            : SKIN_RULES.test(f.rule)
              ? 'skin'
              : 'straighten',
    )
  view.findingsOpen = true
}
const closing = ref<HTMLElement>()
onMounted(() => closing.value?.focus())
const mendable = computed(() => derived.findings.filter(f => f.mendable).length)
const mending = computed(() => derived.steps.mend.state === 'working')
async function mend(f: Finding): Promise<void> {
  const remedy = await unwrap(
    core().remedy(tell(project.recipe), JSON.parse(JSON.stringify(f)) as Finding, derived.takesForRules()),
  )
  if (remedy) project.mend(`Mend: ${f.where}`, remedy)
}
</script>

<template>
  <aside
    class="absolute inset-y-0 right-0 z-20 flex w-80 flex-col border-l border-rule bg-paper shadow-xl"
    aria-label="Findings"
    data-testid="findings-drawer"
  >
    <div class="flex items-center justify-between border-b border-rule px-4 py-3">
      <h2 class="text-[15px] font-bold">Findings</h2>
      <button ref="closing" class="press !px-1.5" aria-label="Close findings" @click="view.findingsOpen = false">
        <X :size="15" />
      </button>
    </div>
    <div v-if="mendable > 1 || mending" class="border-b border-rule px-4 py-3">
      <button
        class="press w-full border-ink font-semibold"
        :disabled="mending"
        data-testid="mend-all"
        @click="derived.mendEverything()"
      >
        {{ mending ? 'Mending …' : `Mend all ${mendable} that can be mended` }}
      </button>
      <p class="quiet mt-1 text-xs">One change; undo takes it back whole.</p>
    </div>
    <div class="min-h-0 flex-1 overflow-y-auto">
      <p
        v-if="derived.steps.findings.state === 'refused'"
        class="m-4 border-l-2 border-madder bg-paper-2 px-3 py-2"
        role="alert"
      >
        The rules could not be gone through: {{ derived.steps.findings.message }}
      </p>
      <p v-else-if="derived.steps.findings.state === 'working'" class="quiet p-4" role="status">
        Going through the rules …
      </p>
      <p v-else-if="groups.length === 0" class="quiet p-4">
        Nothing found. Every rule that looks at this figure is content.
      </p>
      <section v-for="g in groups" :key="g.severity">
        <h3 class="quiet px-4 pb-1 pt-4 text-xs font-semibold">
          {{ g.title }} <span class="num">{{ g.list.length }}</span>
        </h3>
        <div v-for="(f, i) in g.list" :key="i" :data-rule="f.rule" class="border-b border-rule px-4 py-3">
          <div class="mb-0.5 flex items-baseline justify-between gap-2">
            <span class="truncate font-semibold">{{ f.target === undefined ? capital(f.where) : f.where }}</span>
            <span v-if="f.unit" class="num text-xs" :class="f.severity === 'note' ? 'quiet' : 'text-madder'"
              >{{ f.value }} {{ f.unit }}</span
            >
          </div>
          <p class="quiet">{{ f.message }}</p>
          <p v-if="f.mendable && f.remedy" class="mt-1 text-xs">{{ f.remedy }}</p>
          <div v-if="f.severity !== 'note' || f.target || f.mendable" class="mt-2 flex gap-2">
            <button class="press" @click="show(f)">Show</button>
            <button v-if="f.mendable" class="press border-ink font-semibold" @click="mend(f)">Mend</button>
          </div>
        </div>
      </section>
    </div>
  </aside>
</template>
