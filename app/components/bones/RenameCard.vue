<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import { NO_RENAME, renaming, type RenameRule } from '@chiraxis/core/skeleton'

/** The names of the chosen joints changed together: words exchanged, something before or after, or numbered. */
const derived = useDerived()
const chosen = useChosen()
const edit = useJointEdit()
const rule = reactive({ find: '', replace: '', exact: true, prefix: '', suffix: '' })
const numbered = ref(false)
const number = reactive({ name: '', from: 1, digits: 2 })
const full = computed<RenameRule>(() => ({ ...rule, ...(numbered.value && { number: { ...number } }) }))
const result = computed(() => (derived.skeleton ? renaming(derived.skeleton, chosen.joints, full.value) : undefined))
const asked = computed(() => numbered.value || rule.find !== '' || rule.prefix !== '' || rule.suffix !== '')
function apply(): void {
  const r = result.value
  if (!r || r.clash || r.changes.length === 0) return
  edit.add([{ kind: 'rename', names: r.names }], `Rename ${counted(r.changes.length, 'joint')}`)
  Object.assign(rule, NO_RENAME)
  numbered.value = false
}
</script>

<template>
  <div v-if="derived.skeleton" class="card" data-testid="rename-card">
    <h3>
      Rename together <span class="num quiet font-normal">{{ chosen.joints.length }}</span>
    </h3>
    <ChooseMore />
    <SwitchRow v-model="numbered" label="One name and numbers" />
    <template v-if="numbered">
      <label class="flex items-center justify-between gap-3 py-1"
        ><span>Name</span
        ><input v-model="number.name" class="field !w-[168px]" maxlength="120" aria-label="Common name"
      /></label>
      <NumberField
        label="From"
        :value="number.from"
        unit=""
        :digits="0"
        :step="1"
        @change="number.from = Math.max(0, Math.round($event))"
      />
      <NumberField
        label="Digits"
        :value="number.digits"
        unit=""
        :digits="0"
        :step="1"
        @change="number.digits = Math.max(1, Math.min(6, Math.round($event)))"
      />
    </template>
    <template v-else>
      <label class="flex items-center justify-between gap-3 py-1"
        ><span>Find</span
        ><input v-model="rule.find" class="field !w-[168px]" maxlength="120" aria-label="Find in names"
      /></label>
      <label class="flex items-center justify-between gap-3 py-1"
        ><span>Replace with</span
        ><input v-model="rule.replace" class="field !w-[168px]" maxlength="120" aria-label="Replace with"
      /></label>
      <SwitchRow v-model="rule.exact" label="Capitals matter" />
    </template>
    <label class="flex items-center justify-between gap-3 py-1"
      ><span>Before</span><input v-model="rule.prefix" class="field !w-[168px]" maxlength="60" aria-label="Put before"
    /></label>
    <label class="flex items-center justify-between gap-3 py-1"
      ><span>After</span><input v-model="rule.suffix" class="field !w-[168px]" maxlength="60" aria-label="Put after"
    /></label>
    <template v-if="asked && result">
      <p v-if="result.changes.length === 0" class="quiet py-1 text-xs">No name of these changes.</p>
      <div v-else class="mt-1 max-h-32 overflow-y-auto border-y border-rule py-1">
        <div v-for="c in result.changes" :key="c.joint" class="flex gap-2 py-[1px] text-xs">
          <span class="quiet w-1/2 truncate">{{ c.from }}</span><span class="w-1/2 truncate">{{ c.to }}</span>
        </div>
      </div>
      <p v-if="result.clash" class="mt-1 text-xs text-madder" data-testid="rename-clash">{{ result.clash }}</p>
    </template>
    <button
      class="press mt-2"
      :disabled="!asked || !result || !!result.clash || result.changes.length === 0"
      data-testid="rename-chosen"
      @click="apply"
    >
      Rename {{ counted(result?.changes.length ?? 0, 'joint') }}
    </button>
  </div>
</template>
