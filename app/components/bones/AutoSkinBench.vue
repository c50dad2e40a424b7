<script setup lang="ts">
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
import { ChevronRight } from '@lucide/vue'
import { roleLabel } from '@chiraxis/core/body'
import { jointWeights } from '@chiraxis/core/skin'
import { rampCss } from '~/stage/ramp'

const derived = useDerived()
const project = useProject()
const name = computed(() => {
  const s = derived.skeleton
  return s ? roleLabel(s.roles[derived.joint] ?? s.names[derived.joint] ?? '') : ''
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
const pieces = computed(() => derived.shape?.mesh.parts.map(p => p.name) ?? [])
const roleOf = (name: string): string => project.recipe.pieces[name]?.role ?? 'body'
const isShells = computed(() => pieces.value.length > 1 && pieces.value.every(p => roleOf(p) === 'rigid'))
function setAll(role: 'rigid' | 'body'): void {
  const next = { ...project.recipe.pieces }
  for (const p of pieces.value) next[p] = { ...next[p], role }
  project.change(role === 'rigid' ? 'Bind every piece rigidly' : 'Skin all pieces as one body', {
    ...project.recipe,
    pieces: next,
  })
}
const garment = (name: string): boolean => roleOf(name) === 'garment'
const setGarment = (name: string, on: boolean): void =>
  project.change(on ? `${name}: as a garment` : `${name}: as part of the body`, {
    ...project.recipe,
    pieces: { ...project.recipe.pieces, [name]: { ...project.recipe.pieces[name], role: on ? 'garment' : 'body' } },
  })
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
      label="Joints per vertex, at most"
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
      <label v-for="p in pieces" :key="p" class="flex items-center justify-between gap-2 py-0.5"
        ><span class="truncate">{{ project.recipe.pieces[p]?.label ?? p }}</span>
        <button
          v-if="roleOf(p) === 'body' || garment(p)"
          class="press !min-h-6"
          :class="garment(p) ? 'press-on' : ''"
          :aria-pressed="garment(p)"
          :title="garment(p) ? 'Takes its weights from the body beneath' : 'Skinned with the body as one solid'"
          :data-garment="p"
          @click="setGarment(p, !garment(p))"
        >
          {{ garment(p) ? 'garment' : 'body' }}
        </button>
        <span v-else class="quiet">{{ roleOf(p) }}</span>
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
