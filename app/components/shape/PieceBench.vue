<script setup lang="ts">
import { jointRef } from '@chiraxis/core/skeleton'
import type { MapKind } from '@chiraxis/core/mesh'
import type { PieceChoice } from '@chiraxis/core/recipe'

const view = useView()
const derived = useDerived()
const project = useProject()
const { piece: pieceOf, tell } = usePieces()
const piece = computed(() => pieceOf(view.piece))
const label = computed(() => piece.value?.label ?? '')
function set(name: string, change: Partial<PieceChoice>): void {
  if (piece.value) tell(name, [piece.value.name], change)
}
const ROLES = [
  { value: 'body', label: 'As part of the body', hint: 'Skinned with everything else.' },
  { value: 'rigid', label: 'Rigidly with one joint', hint: 'Rides on it without bending.' },
  { value: 'garment', label: 'As a garment', hint: 'Moves with the body beneath it.' },
  { value: 'strips', label: 'As loose strips', hint: 'Each strip follows the place it is fixed to: hair, tassels.' },
  { value: 'appendage', label: 'As an appendage', hint: 'Follows joints of its own: a tail, ears, a cable, a skirt.' },
  { value: 'left-out', label: 'Not at all: left out', hint: 'A stand, a helper: not looked at and not delivered.' },
] as const
const role = computed({
  get: () => piece.value?.role,
  set: v => {
    const told = ROLES.find(r => r.value === v)
    if (told) set(`${label.value}: ${told.label.toLowerCase()}`, { role: told.value })
  },
})
const joint = computed({
  get: () => piece.value?.joint ?? '',
  set: v =>
    role.value === 'appendage'
      ? set(`${label.value} is attached to ${v || 'the nearest chain'}`, { joint: v || undefined })
      : set(`${label.value} rides on ${v || 'what holds it most'}`, { role: 'rigid', joint: v || undefined }),
})
/** Why it moves as it does, in a sentence. */
const why = computed(() => {
  const p = piece.value
  if (!p) return ''
  if (p.told) return 'You chose this.'
  if (p.role === undefined) return 'As its own skin in the file tells, until you choose.'
  const g = p.guess
  if (!g || g.by === 'nothing') return 'Nothing tells it apart from the body.'
  const by = g.by === 'shape' ? 'its shape and place' : g.by === 'name' ? 'its name' : 'the name of its material'
  return `Auto: ${kindLabel(g)}, by ${by}; ${Math.round(100 * g.confidence)} %.`
})
const joints = computed(
  () =>
    derived.skeleton?.names.map((_, j) => ({
      ref: jointRef(derived.skeleton!, j),
      label: jointLabel(derived.skeleton, j),
    })) ?? [],
)
const n = (v: number): string => v.toLocaleString('en').replaceAll(',', ' ')

const materials = computed(() => derived.shape?.materials ?? [])
const images = computed(() => derived.shape?.images ?? [])
const urls = shallowRef<string[]>([])
watch(
  images,
  list => {
    urls.value.forEach(u => URL.revokeObjectURL(u))
    urls.value = list.map(i => URL.createObjectURL(new Blob([i.bytes as Uint8Array<ArrayBuffer>], { type: i.mime })))
  },
  { immediate: true },
)
onBeforeUnmount(() => urls.value.forEach(u => URL.revokeObjectURL(u)))
const KINDS: Readonly<Record<MapKind, string>> = {
  color: 'colour',
  normal: 'normal map',
  occlusion: 'occlusion',
  emission: 'glow',
  roughness: 'metal and roughness',
  alpha: 'opacity',
  bump: 'bumps',
  specular: 'shine',
  gloss: 'gloss',
  displacement: 'displacement',
  light: 'baked light',
  reflection: 'reflection',
  rough: 'roughness alone',
  metal: 'metal alone',
}
function extract(i: number): void {
  const image = images.value[i]
  if (!image) return
  const end = image.mime === 'image/png' ? 'png' : image.mime === 'image/jpeg' ? 'jpg' : 'webp'
  saveAs(`${fileStem(image.name.replace(/\.(png|jpe?g|webp)$/i, ''))}.${end}`, image.bytes, image.mime)
}
const isNormal = (name: string): boolean => project.recipe.normalMaps.includes(name)
const toggleNormal = (name: string): void =>
  project.change(isNormal(name) ? `Show the image of ${name} as colour` : `Use the image of ${name} as normal map`, {
    ...project.recipe,
    normalMaps: isNormal(name)
      ? project.recipe.normalMaps.filter(x => x !== name)
      : [...project.recipe.normalMaps, name],
  })
const css = (c: readonly number[]): string =>
  `rgb(${c.map(v => Math.round(255 * (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055))).join(' ')})`
</script>

<template>
  <BenchHead
    title="Pieces"
    sentence="What the body is put together from, and how each piece is to move. Done when nothing is in the way."
  />
  <div v-if="piece" class="card">
    <h3>{{ label }}</h3>
    <label class="flex items-center justify-between gap-3 py-1"
      ><span>Name</span
      ><TextField
        class="field !w-[180px]"
        :value="label"
        maxlength="120"
        aria-label="Name of the piece"
        @change="set(`Rename ${label}`, { label: $event || undefined })"
    /></label>
    <div class="flex justify-between py-0.5">
      <span class="quiet">Triangles</span><span class="num">{{ n(piece.triangles) }}</span>
    </div>
    <SwitchRow v-model="view.isolated" label="Show it alone" />
  </div>
  <div v-if="piece" class="card">
    <h3>How it moves</h3>
    <p class="quiet mb-1 flex items-baseline justify-between gap-2 text-xs" data-testid="piece-why">
      <span>{{ why }}</span><button
        v-if="piece.told"
        class="press !min-h-[22px] shrink-0 !px-1.5 text-xs"
        title="Let auto tell again"
        @click="set(`${label}: auto`, { role: undefined, joint: undefined })"
      >
        Forget
      </button>
    </p>
    <label v-for="r in ROLES" :key="r.value" class="flex gap-2 py-[3px]"
      ><input v-model="role" type="radio" name="piece-role" :value="r.value" class="mt-[3px] accent-madder" /><span
        ><span class="block">{{ r.label }}</span
        ><span class="quiet block text-xs">{{ r.hint }}</span></span
      ></label
    >
    <label v-if="role === 'rigid' || role === 'appendage'" class="flex items-center justify-between gap-3 pt-2"
      ><span>{{ role === 'rigid' ? 'Rides on' : 'Its joints are attached to' }}</span
      ><select v-model="joint" class="field !w-[180px]" data-testid="piece-joint">
        <option value="">{{ role === 'rigid' ? 'what holds it most' : 'the nearest chain' }}</option>
        <option v-for="x in joints" :key="x.ref" :value="x.ref">{{ x.label }}</option>
      </select></label
    >
    <p v-if="role === 'appendage'" class="quiet mt-2 text-xs">
      It follows that joint and the chains below it, and no other; the body follows none of them. Draw a chain in
      Skeleton, where it has none yet.
    </p>
  </div>
  <AppendageCard />
  <div class="card">
    <h3>
      Materials <span class="num quiet font-normal">{{ materials.length }}</span>
    </h3>
    <p v-if="materials.length === 0" class="quiet">The file tells none; plain colours are shown.</p>
    <div v-for="m in materials" :key="m.name" class="border-b border-rule py-2 last:border-b-0">
      <div class="flex items-center gap-2">
        <span class="h-3.5 w-3.5 rounded-sm border border-rule" :style="{ background: css(m.color) }" /><span
          class="flex-1 truncate"
          >{{ m.name }}</span
        >
      </div>
      <div v-for="(at, kind) in m.maps" :key="kind" class="mt-1.5 flex items-center gap-2">
        <img :src="urls[at!]" alt="" class="h-10 w-10 rounded-sm border border-rule object-cover" />
        <span class="min-w-0 flex-1"
          ><span class="block truncate text-xs">{{ images[at!]?.name }}</span
          ><span class="quiet block text-xs">{{
            kind === 'color' && isNormal(m.name) ? 'normal map, mended' : KINDS[kind]
          }}</span></span
        >
        <button class="press !min-h-[22px] !px-1.5 text-xs" @click="extract(at!)">Extract</button>
        <button
          v-if="kind === 'color'"
          class="press !min-h-[22px] !px-1.5 text-xs"
          :class="isNormal(m.name) ? 'press-on' : ''"
          title="Use this image as the normal map"
          @click="toggleNormal(m.name)"
        >
          Normals
        </button>
      </div>
    </div>
  </div>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!derived.shape" @click="view.go('landmarks')">
      Go on to landmarks
    </button>
  </div>
</template>
