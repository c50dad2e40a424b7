<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import { NAME_PARTS } from '@chiraxis/core/delivery'
import { Download, Plus, X } from '@lucide/vue'

const view = useView()
const {
  figures,
  rows,
  pattern,
  setPattern,
  clash,
  profile,
  profiles,
  known,
  chooseProfile,
  where,
  named,
  running,
  refused,
  done,
  failed,
  addFigure,
  forget,
  start,
  anew,
  stop,
  save,
} = useBatch()
const props = useProps()
const MARKS = { waiting: '○', running: '◐', done: '●', failed: '✕', stopped: '○' } as const
const part = (p: string): string => `{${p}}`
const holds = computed(() => (profile.value.content === 'motion' ? 'Skeleton and take' : 'Body and take'))
const left = computed(() => rows.value.filter(r => r.name !== undefined && r.outcome.state !== 'done').length)
function pick(event: Event): void {
  const input = event.target as HTMLInputElement
  void addFigure([...(input.files ?? [])]).then(() => {
    input.value = ''
  })
}
</script>

<template>
  <BenchHead
    title="Batch"
    sentence="The takes marked in the list, carried onto every figure here. Done when all have their file."
  />
  <p v-if="props.list.value.length > 0" class="card quiet text-xs">
    Every figure holds what this one carries; files with a body carry it along.
  </p>
  <div class="card">
    <h3>Figures</h3>
    <div v-for="f in figures" :key="f.file?.hash ?? 'own'" class="flex items-center py-0.5">
      <span class="truncate">{{ f.name }}</span><span v-if="!f.file" class="quiet ml-1.5">this figure</span
      ><button v-else class="ml-auto p-0.5" :aria-label="`Leave out ${f.name}`" :disabled="running" @click="forget(f)">
        <X :size="14" />
      </button>
    </div>
    <label class="press mt-2"
      ><Plus :size="14" />Add rigged figures<input
        type="file"
        multiple
        accept=".glb,.gltf,.fbx,.dae"
        class="sr-only"
        data-testid="add-figures"
        @change="pick"
    /></label>
  </div>
  <div class="card">
    <h3>Files</h3>
    <label class="flex items-center gap-2 py-0.5">
      <span class="w-16">Profile</span>
      <select
        class="field min-w-0 flex-1"
        aria-label="Profile of the batch"
        :value="known ?? ''"
        :disabled="running"
        data-testid="batch-profile"
        @change="chooseProfile(($event.target as HTMLSelectElement).value)"
      >
        <option v-if="!known" value="">{{ profile.name }}</option>
        <option v-for="p in profiles" :key="p.name" :value="p.name">{{ p.name }}</option>
      </select>
    </label>
    <p class="quiet text-xs">{{ holds }}, a file for each take. Profiles of your own are made in Delivery.</p>
  </div>
  <div class="card">
    <h3>Names</h3>
    <TextField
      class="field num"
      aria-label="Name pattern"
      data-testid="pattern"
      :value="pattern"
      :disabled="running"
      @change="setPattern"
    />
    <p class="quiet mt-1 flex flex-wrap gap-x-2 text-xs">
      <button
        v-for="p in NAME_PARTS"
        :key="p"
        class="num hover:underline"
        :disabled="running"
        @click="setPattern(pattern + part(p))"
      >
        {{ part(p) }}
      </button>
    </p>
    <ChoiceRow
      v-model="clash"
      label="Where two would have one name"
      :options="[
        { value: 'number', label: 'Number them' },
        { value: 'skip', label: 'Keep one' },
        { value: 'refuse', label: 'Refuse' },
      ]"
    />
    <p v-if="named.refusal" class="mt-1 border-l-2 border-madder pl-2" role="alert">{{ named.refusal }}</p>
    <p v-else-if="named.clashes.length > 0" class="quiet mt-1 text-xs">
      {{ counted(named.clashes.length, 'name clashes', 'names clash') }}, as {{ named.clashes[0] }}.
    </p>
  </div>
  <div class="card">
    <ChoiceRow
      v-model="where"
      label="Worked out"
      :options="[
        { value: 'here', label: 'In this window' },
        { value: 'server', label: 'On the server' },
      ]"
    />
    <div class="mt-1 flex gap-2">
      <button
        v-if="!running"
        class="press border-ink font-semibold"
        :disabled="left === 0 || !!named.refusal"
        data-testid="batch-start"
        @click="start"
      >
        {{ done > 0 && left > 0 ? 'Resume' : 'Start' }}
      </button>
      <button v-else class="press" data-testid="batch-stop" @click="stop">Stop</button>
      <button class="press" :disabled="done === 0 || running" data-testid="batch-save" @click="save">
        <Download :size="14" />Save {{ counted(done, 'file') }}
      </button>
      <button v-if="done > 0 && !running" class="press" data-testid="batch-anew" @click="anew">Begin anew</button>
    </div>
    <div
      class="mt-2 h-1 overflow-hidden rounded bg-rule"
      role="progressbar"
      aria-label="Files of the batch"
      :aria-valuenow="done"
      :aria-valuemax="rows.length"
    >
      <div
        class="h-full bg-ink"
        :style="{ width: `${rows.length > 0 ? (100 * (done + failed)) / rows.length : 0}%` }"
      />
    </div>
    <p class="quiet mt-1 text-xs" data-testid="batch-state">
      <span class="num">{{ done }}</span> of <span class="num">{{ rows.length }}</span> done<template v-if="failed > 0"
        >, <span class="num font-semibold text-madder">{{ failed }} failed</span></template
      >
    </p>
    <p v-if="refused" class="mt-1 border-l-2 border-madder pl-2" role="alert">{{ refused }}</p>
  </div>
  <div class="card min-h-0 flex-1 overflow-y-auto">
    <p v-if="rows.length === 0" class="quiet">Mark takes in the list on the left.</p>
    <div
      v-for="r in rows.slice(0, 300)"
      :key="`${r.figure.file?.hash} ${r.take.id}`"
      class="flex gap-1.5 py-[1px]"
      :class="r.outcome.state === 'failed' ? 'text-madder' : ''"
      :title="r.outcome.message"
    >
      <span class="w-4 shrink-0 text-center" :aria-label="r.outcome.state">{{ MARKS[r.outcome.state] }}</span><span
        class="num truncate text-xs leading-5"
        >{{ r.name ?? `${r.take.name}: left out` }}</span
      >
      <span v-if="r.outcome.state === 'failed'" class="ml-auto truncate text-xs leading-5">{{
        r.outcome.message
      }}</span>
    </div>
    <p v-if="rows.length > 300" class="quiet">and {{ rows.length - 300 }} more</p>
  </div>
  <div class="p-4"><button class="press press-main" @click="view.go('deliver')">Go on to Delivery</button></div>
</template>
