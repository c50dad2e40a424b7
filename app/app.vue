<script setup lang="ts">
import { PanelLeftClose, PanelLeftOpen, X } from '@lucide/vue'
import { useDropZone, useMediaQuery } from '@vueuse/core'
import { SplitterGroup, SplitterPanel } from 'reka-ui'

import type { Notice } from '~/stores/project'
import type { StepId } from '~/stores/view'

const view = useView()
const project = useProject()
const derived = useDerived()
const files = useFiles()
useKeys()

const panes = usePanes()
/** Asked for anew when the usual widths are wished back. */
const layout = ref(0)
function resized(sizes: number[]): void {
  const [ledger, , bench] = view.ledgerFolded ? [panes.value.ledger, ...sizes] : sizes
  if (ledger && bench) Object.assign(panes.value, { ledger: Math.round(ledger), bench: Math.round(bench) })
}
function resetPanes(): void {
  const { ledger, bench } = USUAL_PANES
  Object.assign(panes.value, { ledger, bench })
  layout.value++
}
useReturnFocus(() => view.shelfOpen)
useReturnFocus(() => view.findingsOpen)
useReturnFocus(() => view.keysOpen)
useReturnFocus(() => view.paletteOpen)
// who goes on from a bench is on the next bench
watch(
  () => view.step,
  async () => {
    const bench = document.activeElement?.closest<HTMLElement>('[aria-label="Bench"]')
    if (!bench) return
    await nextTick()
    if (document.activeElement === document.body) bench.focus({ preventScroll: true })
  },
)
const { at: touring } = useTour()
// in a narrow window, or with large text, the ledger gives its room to the plate until there is more
const narrow = useMediaQuery('(max-width: 959px)')
watch(narrow, yes => {
  view.ledgerFolded = yes
})
onMounted(() => {
  if (narrow.value) view.ledgerFolded = true
})
const query = ref('')
watch(
  () => view.step,
  () => {
    query.value = ''
  },
)
// the preview of a drag gives way to what was worked out from it
watch([() => derived.landmarks, () => derived.skeleton], () => {
  settleLandmarkDrag()
  settleJointEdit()
})

// a body that turns out to stand otherwise begins with a take it can do
watch(
  () => derived.kind,
  () => {
    const wanted = project.recipe.takes.find(t => t.id === derived.wantedTake)
    if (wanted && !derived.fits(wanted)) void derived.showTake(derived.firstTake?.id)
  },
)

onMounted(async () => {
  view.restoreTheme()
  const kept = await project.restore()
  derived.start()
  // a link may name the sample to begin with
  const asked = new URLSearchParams(location.search).get('sample')
  if (kept) {
    void derived.showTake(derived.firstTake?.id)
    void files.fetchAhead()
  } else if (asked) await files.openSample(asked)
  project.ready = true
})
const rename = (name: string): void => project.change('Rename the figure', { ...project.recipe, name })
const workbench = ref<HTMLElement>()
// only files are dropped here; words and pictures dragged from elsewhere are not
const { isOverDropZone: over } = useDropZone(workbench, {
  checkValidity: items => items.length > 0 && [...items].every(i => i.kind === 'file'),
  onDrop: (_, event) => {
    if (event.dataTransfer?.files.length) void files.take(event.dataTransfer.files)
  },
})
/** What is told above the work: why a file was refused, or what became of the project's keeping. */
const message = computed<Notice | undefined>(() => {
  const refused = files.refusal.value
  if (refused) return { text: refused.unchanged ? `${refused.text} Your project is unchanged.` : refused.text }
  return project.notice
})
const unanswered = useLasting(() => derived.unheard, 1500)
/** What the window waits for, with a way to give it up. */
const wait = computed(() => {
  const what = files.receiving.value
  if (what)
    return { id: 'reading', text: `Reading ${what === 'sample' ? 'the sample figure' : what} …`, stop: files.stop }
  return unanswered.value ? { id: 'work', text: 'Waiting for the work to answer …', stop: derived.halt } : undefined
})
function dismiss(): void {
  if (files.refusal.value) files.refusal.value = undefined
  else project.notice = undefined
}
/** Steps beside which no list is long enough to be searched. */
const UNSEARCHED: readonly StepId[] = ['straighten', 'check', 'pieces', 'light', 'hands', 'walkabout', 'states', 'crowd', 'deliver'] // prettier-ignore
const searchable = computed(() => !UNSEARCHED.includes(view.step))
const JOINT_STEPS = ['skeleton', 'axes', 'names', 'rest']
useSkinHeat().start()
// handles are worked out once somebody looks for them
watch(
  () => view.phase,
  phase => void derived.look('handles', phase === 'handles'),
  { immediate: true },
)
</script>

<template>
  <div
    ref="workbench"
    class="flex h-full flex-col"
    :data-ready="project.ready && !derived.busy && !files.receiving.value"
    data-testid="workbench"
  >
    <RouteBar @rename="rename" />
    <div class="relative flex min-h-0 flex-1">
      <aside v-if="view.ledgerFolded" class="w-7 shrink-0 border-r border-rule" aria-label="Ledger">
        <button
          class="p-1.5 text-ink-2"
          title="Unfold the ledger"
          aria-label="Unfold the ledger"
          @click="view.ledgerFolded = false"
        >
          <PanelLeftOpen :size="15" />
        </button>
      </aside>
      <SplitterGroup :key="layout" direction="horizontal" class="min-w-0 flex-1" @layout="resized">
        <SplitterPanel
          v-if="!view.ledgerFolded"
          id="ledger"
          as="aside"
          :order="1"
          size-unit="px"
          :default-size="panes.ledger"
          :min-size="150"
          :max-size="420"
          class="relative flex flex-col bg-paper"
          aria-label="Ledger"
        >
          <PaneHandle class="!absolute inset-y-0 right-0" label="Width of the ledger" @reset="resetPanes" />
          <div class="flex items-center gap-1 p-2">
            <input
              v-if="searchable"
              v-model="query"
              type="search"
              class="field"
              placeholder="Search"
              aria-label="Search the ledger"
            />
            <button
              class="ml-auto p-1 text-ink-2 hover:text-ink"
              title="Fold the ledger"
              aria-label="Fold the ledger"
              @click="view.ledgerFolded = true"
            >
              <PanelLeftClose :size="15" />
            </button>
          </div>
          <div class="min-h-0 flex-1 overflow-y-auto pb-3">
            <ShapeLedger v-if="view.step === 'straighten' || view.step === 'check'" />
            <PieceLedger v-else-if="view.step === 'pieces'" />
            <LazyLightLedger v-else-if="view.step === 'light'" />
            <HandLedger v-else-if="view.step === 'hands'" />
            <LandmarkLedger v-else-if="view.step === 'landmarks'" :query="query" />
            <LazyPoseLedger v-else-if="view.step === 'skin' && view.skinMode === 'check'" :query="query" />
            <LazySkinLedger v-else-if="view.step === 'skin'" :query="query" />
            <LazyFaceLedger v-else-if="view.step === 'face'" :query="query" />
            <JointLedger v-else-if="JOINT_STEPS.includes(view.step)" :query="query" />
            <LazyRoleLedger
              v-else-if="view.step === 'map' || view.step === 'match'"
              :query="query"
              :shows="view.step"
            />
            <LazyHandleLedger v-else-if="view.phase === 'handles'" :query="query" />
            <LazyBatchLedger v-else-if="view.step === 'batch'" :query="query" />
            <TakeLedger v-else-if="view.phase === 'motion'" :query="query" />
            <LazyWalkLedger v-else-if="view.phase === 'trial'" />
            <DeliveryLedger v-else />
          </div>
        </SplitterPanel>
        <SplitterPanel
          id="middle"
          as="main"
          :order="2"
          :min-size="20"
          class="relative flex min-w-0 flex-col"
          aria-label="Plate"
        >
          <PaneHandle class="!absolute inset-y-0 right-0" label="Width of the bench" @reset="resetPanes" />
          <PlateView>
            <LazyOpeningCard v-if="!project.recipe.body && project.ready && !files.receiving.value" />
            <LazyTourCard v-if="touring !== undefined" />
            <div
              v-if="wait"
              class="absolute left-1/2 top-16 flex w-[360px] max-w-[90%] -translate-x-1/2 items-center justify-between gap-3 rounded border border-rule bg-paper py-1.5 pl-3 pr-2"
              role="status"
            >
              <span>{{ wait.text }}</span>
              <button class="press !min-h-6" :data-testid="`stop-${wait.id}`" @click="wait.stop()">Stop</button>
            </div>
          </PlateView>
          <LazyTakeScore v-if="view.phase === 'motion' && view.step !== 'batch'" />
          <LazyStatesTable v-if="view.step === 'states'" />
        </SplitterPanel>
        <SplitterPanel
          id="bench"
          as="aside"
          :order="3"
          size-unit="px"
          :default-size="panes.bench"
          :min-size="280"
          :max-size="620"
          class="flex flex-col !overflow-y-auto bg-paper"
          aria-label="Bench"
          tabindex="-1"
        >
          <ArrivalCard v-if="files.arrived.value" />
          <ShapeBench v-if="view.step === 'straighten'" />
          <LazyCheckBench v-else-if="view.step === 'check'" />
          <LazyPieceBench v-else-if="view.step === 'pieces'" />
          <LazyLightBench v-else-if="view.step === 'light'" />
          <LandmarkBench v-else-if="view.step === 'landmarks'" />
          <LazyHandBench v-else-if="view.step === 'hands'" />
          <LazySkeletonBench v-else-if="view.step === 'skeleton'" />
          <LazyAxesBench v-else-if="view.step === 'axes'" />
          <LazyNamesBench v-else-if="view.step === 'names'" />
          <LazyRestBench v-else-if="view.step === 'rest'" />
          <LazySkinBench v-else-if="view.step === 'skin'" />
          <LazyFaceBench v-else-if="view.step === 'face'" />
          <LazySetBench v-else-if="view.step === 'set'" />
          <LazyPoseBench v-else-if="view.step === 'pose'" />
          <LazyMassBench v-else-if="view.step === 'mass'" />
          <LazyPropBench v-else-if="view.step === 'props'" />
          <LazyMotionBench v-else-if="view.step === 'takes'" />
          <LazyMapBench v-else-if="view.step === 'map'" />
          <LazyMatchBench v-else-if="view.step === 'match'" />
          <LazyTuneBench v-else-if="view.step === 'tune'" />
          <LazyLayerBench v-else-if="view.step === 'layer'" />
          <LazyGroundBench v-else-if="view.step === 'ground'" />
          <LazyVoiceBench v-else-if="view.step === 'voice'" />
          <LazyCompareBench v-else-if="view.step === 'compare'" />
          <LazyBatchBench v-else-if="view.step === 'batch'" />
          <LazyWalkBench v-else-if="view.step === 'walkabout'" />
          <LazyStatesBench v-else-if="view.step === 'states'" />
          <LazyCrowdBench v-else-if="view.step === 'crowd'" />
          <LazyDeliveryBench v-else />
        </SplitterPanel>
      </SplitterGroup>
      <section aria-label="Messages">
        <div
          v-if="message"
          class="absolute left-1/2 top-2 z-30 flex w-max max-w-[min(680px,calc(100%-16px))] -translate-x-1/2 items-center justify-between gap-4 rounded border border-l-4 border-rule border-l-madder bg-paper py-1.5 pl-3 pr-2 shadow-xl"
          role="alert"
          data-testid="refusal"
        >
          <span>{{ message.text }}</span>
          <span class="flex shrink-0 items-center gap-2">
            <button
              v-if="message.action"
              class="press border-ink font-semibold"
              data-testid="notice-action"
              @click="message.action.run()"
            >
              {{ message.action.label }}
            </button>
            <button class="p-1" aria-label="Dismiss" data-testid="dismiss" @click="dismiss"><X :size="15" /></button>
          </span>
        </div>
      </section>
      <LazyFindingsDrawer v-if="view.findingsOpen" />
      <div
        v-if="over"
        class="pointer-events-none absolute inset-2 z-30 flex items-center justify-center rounded border-2 border-dashed border-madder bg-paper/80 text-[20px]"
      >
        Drop to bring it in
      </div>
    </div>
    <LazyCommandPalette v-if="view.paletteOpen" />
    <LazyRowMenu v-if="rowMenu" />
    <LazyKeysSheet v-if="view.keysOpen" />
    <LazyProjectShelf v-if="view.shelfOpen" />
  </div>
</template>
