<script setup lang="ts">
import { ANY, stateWord, TOLD_SECONDS, whenWords } from '@chiraxis/core/trial'

/** From–to: rows and columns are states, a filled cell tells when one follows the other; below, what played in the last ten seconds. */
const states = useStates()
const walk = useWalk()
const { table, rule, state, path } = states
const names = computed(() => table.value?.states.map(s => s.name) ?? [])
const rows = computed(() => [...names.value, ANY])
/** The state played now in the table that is shown. */
const current = computed(() => walk.now.value?.state[path.value.length])
const took = ref<string>()
watch(walk.now, w => {
  if (w?.took) took.value = `${w.took.from} ${w.took.to}`
})
const rulesOf = (from: string, to: string): { i: number; words: string; blend: number }[] =>
  (table.value?.rules ?? []).flatMap((r, i) =>
    r.from === from && r.to === to ? [{ i, words: whenWords(r), blend: r.blend }] : [],
  )
const strip = computed(() => {
  const { time, list } = walk.told.value
  const from = Math.max(0, time - TOLD_SECONDS)
  return list.map((t, i) => {
    const [a, b] = [Math.max(from, t.since), list[i + 1]?.since ?? time]
    return { name: t.state, left: (100 * (a - from)) / TOLD_SECONDS, width: (100 * (b - a)) / TOLD_SECONDS, i }
  })
})
const TONES = [
  'bg-ink text-paper',
  'bg-rule text-ink',
  'bg-ink-2 text-paper',
  'bg-paper text-ink ring-1 ring-inset ring-ink',
]
const toneOf = (name: string): string => TONES[Math.max(0, names.value.indexOf(name)) % TONES.length]!
</script>

<template>
  <section
    v-if="table"
    class="flex max-h-[46%] shrink-0 flex-col border-t border-rule bg-paper"
    aria-label="States"
    data-testid="states-table"
  >
    <div class="flex items-center gap-2 px-3 pt-2">
      <template v-if="path.length > 0">
        <button class="press !min-h-6" @click="states.enter(path.slice(0, -1))">All states</button>
        <span>{{ path.join(' · ') }}</span>
      </template>
      <span v-else class="quiet">A row's state is followed by a column's, where the cell says when.</span>
      <button class="press ml-auto !min-h-6" data-testid="add-state" @click="states.newState()">Add a state</button>
    </div>
    <div class="min-h-0 flex-1 overflow-auto px-3 py-2">
      <table class="w-full border-collapse text-xs">
        <thead>
          <tr>
            <th class="sticky left-0 z-10 bg-paper" />
            <th
              v-for="to in names"
              :key="to"
              class="border-b border-rule px-2 pb-1 text-left font-semibold"
              :class="state === to ? 'text-madder' : ''"
            >
              <span class="quiet font-normal">to </span>{{ to }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="from in rows" :key="from" :data-row="from" :data-lit="current === from || undefined">
            <th class="sticky left-0 z-10 border-b border-rule bg-paper p-0 text-left font-semibold">
              <button
                v-if="from !== ANY"
                class="block w-full whitespace-nowrap border-l-4 px-2 py-1.5 text-left hover:bg-paper-2"
                :class="[
                  current === from ? 'border-madder bg-paper-2' : 'border-transparent',
                  state === from ? 'text-madder' : '',
                ]"
                @click="states.pick(from)"
              >
                {{ from }}<span v-if="table.first === from" class="quiet font-normal"> · first</span>
              </button>
              <span v-else class="quiet block border-l-4 border-transparent px-2 py-1.5 font-normal">any state</span>
            </th>
            <td
              v-for="to in names"
              :key="to"
              class="group border-b border-l border-rule p-0 align-top"
              :class="current === from ? 'bg-paper-2' : ''"
            >
              <button
                v-for="r in rulesOf(from, to)"
                :key="r.i"
                class="block w-full border-l-2 px-2 py-1.5 text-left leading-tight hover:bg-paper-2"
                :class="
                  rule === r.i
                    ? 'border-madder font-semibold'
                    : took === `${from} ${to}`
                      ? 'border-ink'
                      : 'border-transparent'
                "
                :data-rule="`${from} > ${to}`"
                @click="states.choose(r.i)"
              >
                {{ r.words }}<span class="num quiet font-normal whitespace-nowrap"> · {{ r.blend }} s</span>
              </button>
              <button
                v-if="rulesOf(from, to).length === 0 && from !== to"
                class="quiet block w-full px-2 py-1.5 text-left opacity-0 focus-visible:opacity-100 group-hover:opacity-100"
                :aria-label="`Let ${to} follow ${stateWord(from)}`"
                :data-empty="`${from} > ${to}`"
                @click="states.newRule(from, to)"
              >
                +
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <div class="flex items-center gap-2 border-t border-rule px-3 py-1.5">
      <span class="quiet w-20 shrink-0 text-xs">Last ten s</span>
      <div class="relative h-5 flex-1 overflow-hidden bg-paper-2" data-testid="told-strip">
        <span
          v-for="s in strip"
          :key="`${s.i} ${s.name}`"
          class="absolute inset-y-0 truncate border-r border-paper px-1 text-[11px] leading-5"
          :class="toneOf(s.name)"
          :style="{ left: `${s.left}%`, width: `${s.width}%` }"
          :title="s.name"
          >{{ s.name }}</span
        >
      </div>
    </div>
  </section>
</template>
