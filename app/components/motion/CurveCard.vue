<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import { FOUND_CURVES } from '@chiraxis/core/cues'
import { X } from '@lucide/vue'

/** Numbers over time that go along with the take: the way gone, the speed, and curves of one's own, keyed at the playhead. */
const cues = useCues()
const { curve } = cues
const WORDS = { way: 'Way gone', speed: 'Speed' } as const
</script>

<template>
  <div class="card" data-testid="curves">
    <div class="flex items-center justify-between">
      <h3>Curves</h3>
      <button
        class="press"
        title="A curve of one’s own, with a key at the playhead"
        data-testid="add-curve"
        @click="cues.addCurve()"
      >
        Add one
      </button>
    </div>
    <SwitchRow
      v-for="c in FOUND_CURVES"
      :key="c"
      :model-value="cues.writes(c)"
      :label="`${WORDS[c]} written along`"
      @update:model-value="cues.setWrites(c, $event)"
    />
    <template v-if="curve">
      <SelectRow
        v-if="cues.curves.value.length > 1"
        :model-value="curve.name"
        label="Curve"
        :options="cues.curves.value.map(c => ({ value: c.name, label: c.name }))"
        @update:model-value="cues.chosenCurve.value = $event"
      />
      <div class="flex items-center gap-2 py-0.5">
        <TextField
          class="field min-w-0 flex-1"
          aria-label="Name of the curve"
          :value="curve.name"
          @change="cues.renameCurve($event)"
        />
        <button
          class="press !px-1.5"
          aria-label="Remove the curve"
          title="Remove the curve"
          @click="cues.removeCurve()"
        >
          <X :size="13" />
        </button>
      </div>
      <NumberField
        label="Here"
        :value="cues.curveValue.value"
        unit=""
        :step="0.1"
        :digits="2"
        @change="cues.setCurveKey($event)"
      />
      <div class="flex items-center justify-between py-0.5">
        <span class="quiet">{{ counted(curve.keys.length, 'key') }}</span>
        <button
          class="press"
          :disabled="!cues.keyed.value || curve.keys.length < 2"
          data-testid="remove-curve-key"
          @click="cues.removeCurveKey()"
        >
          Remove the key here
        </button>
      </div>
    </template>
  </div>
</template>
