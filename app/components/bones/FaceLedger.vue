<script setup lang="ts">
import { sideOf } from '@chiraxis/core/body'
import { faceLabel, FACE_LANDMARKS, type FaceLandmarkId } from '@chiraxis/core/face'
import { capital } from '@chiraxis/core/words'

/** Places of the face by part, with how sure each is. */
const props = defineProps<{ query: string }>()
const face = useFace()
const GROUPS: readonly [string, RegExp][] = [
  ['Eyes', /Eye|Lid/],
  ['Brows', /Brow/],
  ['Nose and mouth', /nose|Lip|Mouth|chin/],
  ['Ears and jaw', /Ear|Jaw/],
]
const groups = computed(() =>
  GROUPS.map(([name, of]) => ({
    name,
    list: FACE_LANDMARKS.filter(id => of.test(id))
      .filter(id => !props.query || faceLabel(id).toLowerCase().includes(props.query.toLowerCase()))
      .map(id => ({ id, confidence: face.places.value.find(p => p.id === id)?.confidence })),
  })).filter(g => g.list.length > 0),
)
const bare = (id: FaceLandmarkId): string => capital(faceLabel(id).replace(/^(Left|Right) /, ''))
</script>

<template>
  <div v-for="g in groups" :key="g.name">
    <h2 class="px-3.5 pb-0.5 pt-2 font-semibold">{{ g.name }}</h2>
    <LedgerRow
      v-for="l in g.list"
      :key="l.id"
      class="gap-2 py-[2px] pl-3 pr-3.5"
      :data-face-row="l.id"
      :chosen="face.chosen.value === l.id"
      @click="face.chosen.value = l.id"
    >
      <SideIcon :side="sideOf(l.id)" /><span class="flex-1">{{ bare(l.id) }}</span>
      <span
        class="num text-xs"
        :class="l.confidence !== undefined && l.confidence < 0.6 ? 'font-semibold text-madder' : 'quiet'"
        >{{ l.confidence === undefined ? '…' : l.confidence >= 1 ? 'hand' : l.confidence.toFixed(2) }}</span
      >
    </LedgerRow>
  </div>
</template>
