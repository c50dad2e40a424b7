<script setup lang="ts">
import { Download } from '@lucide/vue'
import { roleLabel } from '@chiraxis/core/body'
import type { Comparison } from '@chiraxis/core/perform'
import { fileStem, saveAs } from '~/composables/useFiles'
import { core, RefusedError, tell, unwrap } from '~/workers/client'

const view = useView()
const derived = useDerived()
const project = useProject()
const player = usePlayer()
const { take } = useTakeEdit()
const answer = computed(() => (derived.ownShown ? undefined : derived.performed?.answer))
const found = shallowRef<{ comparison: Comparison; page: string }>()
let asked = 0
async function compare(): Promise<void> {
  const turn = ++asked
  if (!take.value || !answer.value) {
    found.value = undefined
    return
  }
  try {
    const result = await unwrap(core().compare(tell(project.recipe), take.value.id))
    if (turn === asked) found.value = result
  } catch (error) {
    if (!(error instanceof RefusedError)) console.error(error)
  }
}
watch(
  () => derived.performed,
  () => void compare(),
  { immediate: true },
)

const what = ref<'turns' | 'hands' | 'height' | 'speed'>('turns')
const scaled = (values: Float32Array, k: number): Float32Array => values.map(v => v * k)
const c = computed(() => found.value?.comparison)
const lines = computed(() => {
  const f = c.value
  if (!f) return []
  const many = (tracks: Readonly<Record<string, Float32Array>>, k: number) =>
    Object.entries(tracks).map(([role, values]) => ({ name: roleLabel(role), values: scaled(values, k) }))
  if (what.value === 'hands') return many(f.ends, 100)
  if (what.value === 'height') return many(f.footHeight, 100)
  if (what.value === 'speed') return many(f.footSpeed, 100)
  const roles = [...new Set([view.role, ...f.summary.map(s => s.role)])].filter(r => f.turns[r]).slice(0, 4)
  return roles.map(r => ({ name: roleLabel(r), values: f.turns[r]! }))
})
const unit = computed(() => ({ turns: '°', hands: 'cm', height: 'cm', speed: 'cm/s' })[what.value])
const EXPLAINS = {
  turns: 'Turned away from what was recorded, by joint',
  hands: "Off the place the performer's have",
  height: 'Height of the balls of the feet',
  speed: 'Speed of the balls of the feet over the ground',
} as const
const closest = computed(() => c.value?.summary.filter(s => s.most >= 0.5) ?? [])
function go(frame: number, role: string): void {
  player.pause()
  player.seek(frame / player.fps)
  view.role = role
}
const save = (): void => {
  if (found.value && take.value)
    saveAs(
      `${fileStem(project.recipe.name)}-${fileStem(take.value.name)}-transfer.txt`,
      new TextEncoder().encode(found.value.page),
      'text/plain',
    )
}
</script>

<template>
  <BenchHead title="Compare" sentence="Performer and figure, frame by frame. Done when nothing that differs is seen." />
  <WorkProgress step="take" what="Carrying the take over" />
  <div v-if="!answer" class="card quiet">Choose a take that was recorded on somebody else.</div>
  <template v-else>
    <div class="card">
      <ChoiceRow
        v-model="view.performerShown"
        label="Performer"
        :options="[
          { value: 'beside', label: 'Beside' },
          { value: 'over', label: 'Over' },
          { value: 'hidden', label: 'Hidden' },
        ]"
      />
      <ChoiceRow
        v-if="!view.fourLegs"
        v-model="view.lookAt"
        label="Look at"
        :options="[
          { value: 'whole', label: 'Whole' },
          { value: 'left', label: 'Left hand' },
          { value: 'right', label: 'Right hand' },
        ]"
      />
      <SwitchRow v-model="view.ghost" label="Ghost: carried over exactly" />
      <SwitchRow v-model="view.bonesInMotion" label="Show the figure's skeleton" />
    </div>
    <div class="card">
      <ChoiceRow
        v-model="what"
        label="Over time"
        :options="[
          { value: 'turns', label: 'Turns' },
          { value: 'hands', label: 'Places' },
          { value: 'height', label: 'Height' },
          { value: 'speed', label: 'Speed' },
        ]"
      />
      <p class="quiet mb-1 text-xs">{{ EXPLAINS[what] }}, {{ unit }}</p>
      <LazyCompareChart
        v-if="lines.length > 0"
        :lines="lines"
        :fps="c!.fps"
        :unit="unit"
        :time="player.time"
        :label="EXPLAINS[what]"
        @seek="player.seek($event)"
      />
    </div>
    <div class="card">
      <h3>Differs most at</h3>
      <p v-if="c && c.worst.length === 0" class="quiet">Every joint turns as recorded, to half a degree.</p>
      <button
        v-for="w in c?.worst ?? []"
        :key="w.frame"
        class="flex w-full items-center gap-2 border-l-2 border-transparent py-[2px] pl-2 text-left hover:bg-paper-2"
        data-testid="worst-moment"
        @click="go(w.frame, w.role)"
      >
        <span class="num quiet w-14">{{ (w.frame / player.fps).toFixed(2) }} s</span
        ><span class="truncate">{{ roleLabel(w.role) }}</span
        ><span class="num ml-auto">{{ w.degrees.toFixed(1) }}°</span>
      </button>
    </div>
    <div v-if="closest.length > 0" class="card">
      <h3>By joint <span class="quiet font-normal">· mean and most</span></h3>
      <button
        v-for="s in closest.slice(0, 12)"
        :key="s.role"
        class="flex w-full items-center gap-2 py-[1px] text-left hover:bg-paper-2"
        :class="view.role === s.role ? 'font-semibold' : ''"
        @click="view.role = s.role"
      >
        <span class="truncate">{{ roleLabel(s.role) }}</span><span class="num quiet ml-auto"
          >{{ s.mean.toFixed(1) }}°</span
        ><span class="num w-14 text-right">{{ s.most.toFixed(1) }}°</span>
      </button>
    </div>
    <div class="card">
      <button class="press" :disabled="!found" data-testid="save-page" @click="save">
        <Download :size="14" />Save the page of numbers
      </button>
    </div>
  </template>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!derived.skin" @click="view.go('batch')">Go on to the batch</button>
  </div>
</template>
