<script setup lang="ts">
import { hasMiddle, landmarkKind } from '@chiraxis/core/landmarks'
import type { Vec3 } from '@chiraxis/core/math'

/** The landmark in play: what it is, where it stands, and the cut of the body there. */
const props = defineProps<{
  /** Farther off the middle than this share of height, a cut runs into what the limb hangs on. */
  opensAt: number
  opensInto: string
}>()
const view = useView()
const derived = useDerived()
const project = useProject()
const drag = useLandmarkDrag()

const chosen = computed(() => (drag.draft.value ?? derived.landmarks ?? []).find(l => l.id === view.landmark))
const kind = computed(() => (view.landmark ? landmarkKind(view.landmark) : undefined))
const byHand = computed(() => (view.landmark ? project.recipe.landmarks.edits[view.landmark] !== undefined : false))
watch([() => view.landmark, () => derived.landmarks], () => void drag.askSection(), { immediate: true })
/** A cut that runs into the trunk or the palm has no middle of the limb to go to. */
const opens = computed(() => (drag.section.value?.off ?? 0) > props.opensAt * (derived.shape?.straightened.height ?? 1))

function setAxis(axis: 0 | 1 | 2, cm: number): void {
  if (!chosen.value || !kind.value) return
  const p: Vec3 = [...chosen.value.position]
  p[axis] = cm / 100
  drag.commit(chosen.value.id, p, `Place ${kind.value.label.toLowerCase()}`, true)
}
function centre(): void {
  const c = drag.section.value?.centre
  if (c && chosen.value && kind.value)
    drag.commit(chosen.value.id, c as Vec3, `Centre ${kind.value.label.toLowerCase()}`)
}
const menu = useLandmarkMenu()
</script>

<template>
  <template v-if="chosen && kind">
    <div class="card">
      <h3 class="flex items-center gap-2">
        <SideIcon :side="kind.side" />{{ kind.label
        }}<span class="num quiet ml-auto text-xs font-normal">{{
          chosen.confidence >= 1 ? 'placed by hand' : `confidence ${chosen.confidence.toFixed(2)}`
        }}</span>
      </h3>
      <div class="mb-2 flex gap-3">
        <p class="quiet flex-1">{{ kind.hint }}</p>
        <LandmarkHint :id="kind.id" :plan="derived.plan === 'fourleg' ? 'fourleg' : 'biped'" />
      </div>
      <NumberField
        label="Across"
        :value="chosen.position[0] * 100"
        unit="cm"
        :disabled="kind.side === 'middle' && view.mirror"
        @change="setAxis(0, $event)"
      />
      <NumberField label="Height" :value="chosen.position[1] * 100" unit="cm" @change="setAxis(1, $event)" />
      <NumberField label="Depth" :value="chosen.position[2] * 100" unit="cm" @change="setAxis(2, $event)" />
      <button v-if="byHand" class="press mt-2" @click="view.landmark && menu.release(view.landmark)">
        Find it again
      </button>
    </div>
    <div v-if="drag.section.value" class="card flex gap-3">
      <SectionLens :section="drag.section.value" :side="kind.side" :point="chosen.position" :size="140" />
      <div class="flex min-w-0 flex-col items-start gap-1.5">
        <h3 class="!mb-0">Section</h3>
        <p class="quiet">cut across the {{ kind.side === 'middle' ? 'body' : 'limb' }}</p>
        <p class="num">
          {{
            !drag.section.value.centre
              ? 'nothing is cut here'
              : opens
                ? `opens into the ${opensInto}`
                : `${(drag.section.value.off * 100).toFixed(1)} cm off centre`
          }}
        </p>
        <button
          v-if="hasMiddle(kind.id)"
          class="press"
          :disabled="!drag.section.value.centre || opens || drag.section.value.off < 0.0005"
          data-testid="centre"
          @click="centre"
        >
          Centre
        </button>
      </div>
    </div>
  </template>
</template>
