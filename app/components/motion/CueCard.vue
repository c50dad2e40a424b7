<script setup lang="ts">
import { FOUND_CUES, type CueData } from '@chiraxis/core/cues'
import { X } from '@lucide/vue'
import { CUE_WORDS } from '~/composables/useCues'

/** Moments of the take: which are found, the chosen one, and what goes along with it. */
const cues = useCues()
const player = usePlayer()
const { chosen, settings } = cues
const data = computed(() => Object.entries(chosen.value?.event.data ?? {}))
/** Numbers and switches are told as such. */
const valueOf = (text: string): string | number | boolean =>
  text === 'yes' || text === 'true'
    ? true
    : text === 'no' || text === 'false'
      ? false
      : text.trim() !== '' && Number.isFinite(Number(text))
        ? Number(text)
        : text
const textOf = (v: string | number | boolean): string => (v === true ? 'yes' : v === false ? 'no' : String(v))
function setValue(key: string, text: string): void {
  if (chosen.value) cues.setData(chosen.value, { ...chosen.value.event.data, [key]: valueOf(text) })
}
function drop(key: string): void {
  const { [key]: _, ...others } = chosen.value?.event.data ?? {}
  if (chosen.value) cues.setData(chosen.value, others as CueData)
}
const fresh = ref('')
function addData(): void {
  const key = fresh.value.trim()
  if (!key || !chosen.value) return
  cues.setData(chosen.value, { ...chosen.value.event.data, [key]: '' })
  fresh.value = ''
}
</script>

<template>
  <div class="card" data-testid="cues">
    <div class="flex items-center justify-between">
      <h3>Moments</h3>
      <button class="press" title="At the playhead" data-testid="add-cue" @click="cues.add()">Add one</button>
    </div>
    <div v-if="chosen" class="my-1 border-l-2 border-madder pl-2" data-testid="chosen-cue">
      <div class="flex items-center gap-2">
        <TextField
          class="field min-w-0 flex-1"
          aria-label="Name of the moment"
          :value="chosen.event.name"
          @change="cues.rename(chosen, $event)"
        />
        <span class="num quiet">{{ chosen.event.time.toFixed(2) }} s</span>
      </div>
      <div v-for="[key, v] in data" :key="key" class="flex items-center gap-2 py-0.5">
        <span class="w-16 truncate">{{ key }}</span>
        <TextField class="field min-w-0 flex-1" :aria-label="key" :value="textOf(v)" @change="setValue(key, $event)" />
        <button class="press !px-1.5" :aria-label="`Remove ${key}`" :title="`Remove ${key}`" @click="drop(key)">
          <X :size="13" />
        </button>
      </div>
      <div class="flex items-center gap-2 py-0.5">
        <input
          v-model="fresh"
          class="field min-w-0 flex-1"
          placeholder="goes along with it"
          aria-label="Something more"
          @keydown.enter="addData"
        />
        <button class="press" :disabled="!fresh.trim()" @click="addData">Add</button>
      </div>
      <div class="flex gap-2 py-1">
        <button
          class="press"
          data-testid="cue-here"
          title="To the playhead"
          @click="cues.move(chosen, player.frame / player.fps)"
        >
          To the playhead
        </button>
        <button class="press" data-testid="remove-cue" @click="cues.remove(chosen)">Remove</button>
      </div>
    </div>
    <p v-else class="quiet py-0.5">Press a moment in the score to change it, drag it to another time.</p>
    <SwitchRow
      v-for="kind in FOUND_CUES"
      :key="kind"
      :model-value="cues.finds(kind)"
      :label="CUE_WORDS[kind]"
      @update:model-value="cues.setFind(kind, $event)"
    />
    <label class="flex items-center justify-between py-0.5"
      ><span>Feet step on</span
      ><TextField
        class="field !w-36"
        aria-label="Feet step on"
        :value="settings.surface ?? ''"
        placeholder="not told"
        @change="cues.setSurface($event)"
    /></label>
    <ul v-if="cues.removed.value.length > 0" class="mt-1 border-t border-rule pt-1">
      <li v-for="c in cues.removed.value" :key="c.id" class="flex items-center gap-2 py-0.5">
        <span class="min-w-0 flex-1 truncate"
          >{{ c.name }} <span class="quiet num">{{ player.toTake(c.at).toFixed(2) }} s · removed</span></span
        >
        <button class="press !px-1.5" aria-label="Back to auto" title="Back to auto" @click="cues.bringBack(c.id)">
          <X :size="13" />
        </button>
      </li>
    </ul>
  </div>
</template>
