<script setup lang="ts">
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
import { ChevronRight } from '@lucide/vue'
import { jointWeights } from '@chiraxis/core/skin'
import type { ShownPiece } from '~/composables/usePieces'
import { rampCss } from '~/stage/ramp'

const derived = useDerived()
const project = useProject()
const name = computed(() => {
  const s = derived.skeleton
  return jointLabel(s, derived.joint)
})
const counts = computed(() => {
  if (!derived.skin) return undefined
  const w = jointWeights(derived.skin, derived.joint)
  let some = 0,
    mostly = 0
  for (const v of w) {
    if (v > 0) some++
    if (v > 0.5) mostly++
  }
  return { some, mostly, all: w.length }
})
const influences = computed({
  get: () => String(project.recipe.skin.influences) as '1' | '2' | '4' | '8',
  set: v =>
    project.change(`Limit influences to ${v}`, {
      ...project.recipe,
      skin: { ...project.recipe.skin, influences: Number(v) },
    }),
})
const setFirmness = (v: number): void =>
  project.change(
    'Set the firmness',
    { ...project.recipe, skin: { ...project.recipe.skin, firmness: Math.min(10, Math.max(0.1, v)) } },
    true,
  )
/** Pieces the body is made of, and how many of them are treated apart. */
const { pieces: all, tell } = usePieces()
const pieces = computed(() => all.value.filter(p => p.role !== 'left-out'))
const isShells = computed(() => pieces.value.length > 1 && pieces.value.every(p => p.role === 'rigid' && p.told))
const setAll = (role: 'rigid' | 'body'): void =>
  tell(
    role === 'rigid' ? 'Bind every piece rigidly' : 'Skin all pieces as one body',
    pieces.value.map(p => p.name),
    { role },
  )
const garment = (p: ShownPiece): boolean => p.role === 'garment'
const setGarment = (p: ShownPiece, on: boolean): void =>
  tell(on ? `${p.label}: as a garment` : `${p.label}: as part of the body`, [p.name], { role: on ? 'garment' : 'body' })
const n = (v: number): string => v.toLocaleString('en').replaceAll(',', ' ')
</script>

<template>
  <div class="card">
    <h3>{{ name }}</h3>
    <div class="mb-1 h-3 rounded" :style="{ background: rampCss }" role="img" aria-label="Weight from none to whole" />
    <div class="num quiet mb-2 flex justify-between text-xs"><span>0</span><span>weight</span><span>1</span></div>
    <template v-if="counts">
      <div class="flex justify-between py-0.5">
        <span class="quiet">Vertices it moves</span><span class="num">{{ n(counts.some) }}</span>
      </div>
      <div class="flex justify-between py-0.5">
        <span class="quiet">Mostly by it</span><span class="num">{{ n(counts.mostly) }}</span>
      </div>
      <div class="flex justify-between py-0.5">
        <span class="quiet">Of all</span><span class="num">{{ n(counts.all) }}</span>
      </div>
    </template>
    <p v-else class="quiet">The skin is not worked out yet.</p>
  </div>
  <div class="card">
    <ChoiceRow
      v-model="influences"
      label="Influences, at most"
      :options="[
        { value: '1', label: '1' },
        { value: '2', label: '2' },
        { value: '4', label: '4' },
        { value: '8', label: '8' },
      ]"
    />
  </div>
  <div v-if="pieces.length > 1" class="card">
    <h3>Pieces</h3>
    <div v-if="pieces.length <= 8">
      <label v-for="p in pieces" :key="p.name" class="flex items-center justify-between gap-2 py-0.5"
        ><span class="truncate">{{ p.label }}</span>
        <button
          v-if="p.role === undefined || p.role === 'body' || garment(p)"
          class="press !min-h-6"
          :class="garment(p) ? 'press-on' : ''"
          :aria-pressed="garment(p)"
          :title="garment(p) ? 'Takes its weights from the body beneath' : 'Skinned with the body as one solid'"
          :data-garment="p.name"
          @click="setGarment(p, !garment(p))"
        >
          {{ garment(p) ? 'garment' : p.role === undefined ? 'own skin' : 'body' }}
        </button>
        <span v-else class="quiet">{{ p.role }}</span>
      </label>
    </div>
    <p v-else class="quiet mb-2">{{ pieces.length }} separate pieces.</p>
    <button class="press mt-1" data-testid="all-rigid" @click="setAll(isShells ? 'body' : 'rigid')">
      {{ isShells ? 'Skin all as one body' : 'Every piece rigidly with one joint' }}
    </button>
  </div>
  <Disclosure v-slot="{ open }" as="div" class="card">
    <DisclosureButton class="flex w-full items-center gap-1 font-semibold"
      ><ChevronRight :size="14" :class="open ? 'rotate-90' : ''" />Fine settings</DisclosureButton
    >
    <DisclosurePanel class="pt-2">
      <NumberField label="Firmness" :value="project.recipe.skin.firmness" unit="×" :step="0.1" @change="setFirmness" />
      <p class="quiet mt-1 text-xs">Larger makes the blend at joints shorter.</p>
    </DisclosurePanel>
  </Disclosure>
</template>
