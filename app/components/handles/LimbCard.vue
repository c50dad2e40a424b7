<script setup lang="ts">
import { FOLLOWED, type Followed } from '@chiraxis/core/handles'
import { roleLabel } from '@chiraxis/core/body'

/** How the limbs are driven; a switch leaves the pose as it is. */
const handles = useHandles()
const posing = useHandlePose()
const WAYS = [
  { value: 'joints', label: 'Joint by joint' },
  { value: 'end', label: 'By its end' },
] as const
const STAYS: Record<Followed, string> = { trunk: 'trunk', hips: 'hips', ground: 'ground' }
const rows = computed(() =>
  handles.limbs.value.map(limb => {
    const pose = posing.pose.value
    return {
      limb,
      label: roleLabel(limb.ref).replace(/hand$/, 'arm').replace(/foot$/, 'leg'),
      ...handles.driveOf(limb),
      off: pose && posing.poser.value ? posing.poser.value.reach.off(pose, limb) : undefined,
    }
  }),
)
</script>

<template>
  <div v-if="rows.length > 0" class="card" data-testid="limbs">
    <h3>Limbs</h3>
    <div v-for="r in rows" :key="r.limb.ref" class="border-t border-rule py-1.5 first-of-type:border-t-0">
      <div class="flex items-baseline justify-between">
        <span>{{ r.label }}</span>
        <span
          v-if="r.off !== undefined && r.off > 25"
          class="num text-xs text-madder"
          title="How far the bend lies from the plane of the joint's own hinge"
          >{{ r.off.toFixed(0) }}° off its hinge</span
        >
      </div>
      <div class="mt-1 flex gap-2">
        <div class="flex flex-1 overflow-hidden rounded border border-rule" role="group" :aria-label="r.label">
          <button
            v-for="w in WAYS"
            :key="w.value"
            class="min-h-[26px] flex-1 border-r border-rule px-1 text-xs last:border-r-0"
            :class="r.by === w.value ? 'bg-ink font-semibold text-paper' : 'bg-paper hover:bg-paper-2'"
            :aria-pressed="r.by === w.value"
            :data-drive="`${r.limb.ref} ${w.value}`"
            @click="handles.drive(r.limb, { by: w.value })"
          >
            {{ w.label }}
          </button>
        </div>
        <select
          class="field !w-[86px]"
          :disabled="r.by !== 'end'"
          :value="r.follows"
          :aria-label="`${r.label} stays with`"
          title="What its end stays with while the rest moves"
          @change="handles.drive(r.limb, { follows: ($event.target as HTMLSelectElement).value as Followed })"
        >
          <option v-for="f in FOLLOWED" :key="f" :value="f">{{ STAYS[f] }}</option>
        </select>
      </div>
      <template v-if="r.by === 'end'">
        <NumberField
          v-if="r.hinge !== undefined"
          label="Hinge turned by"
          :value="r.hinge"
          unit="°"
          :step="5"
          :digits="0"
          @change="handles.drive(r.limb, { hinge: Math.min(180, Math.max(-180, $event)) })"
        />
        <button
          class="press mt-1 text-xs"
          :data-hinge="r.limb.ref"
          :title="
            r.hinge === undefined
              ? 'Its middle points where it is told, and no mark aims it'
              : 'A mark aims its middle again'
          "
          @click="handles.drive(r.limb, { hinge: r.hinge === undefined ? 0 : undefined })"
        >
          {{ r.hinge === undefined ? 'Hinge by hand' : 'Aimed by its mark' }}
        </button>
      </template>
    </div>
  </div>
</template>
