<script setup lang="ts">
import {
  CONTENTS,
  NAME_PARTS,
  packingOf,
  PROFILE_LIMITS,
  UNITS,
  type DeliveryContent,
  type Profile,
  type UnitName,
} from '@chiraxis/core/delivery'
import { DELIVERY_FORMATS, FILE_AXES, FORMATS, type DeliveryFormat, type FileAxis } from '@chiraxis/core/formats'
import { FRAME_RATES } from '@chiraxis/core/adjust'
import type { ImagePlace, PackingKind } from '@chiraxis/core/packing'
import { PLAIN_SCHEME } from '@chiraxis/core/skeleton'

/** How the receiver wants the files: one of the profiles, and everything about it. */
const delivery = useDelivery()
const { profile } = delivery
const format = computed({ get: () => profile.value.format, set: (f: DeliveryFormat) => delivery.setFormat(f) })
const can = computed(() => FORMATS[profile.value.format])
const CONTENT_WORDS: Record<DeliveryContent, string> = {
  whole: 'Whole',
  motion: 'Motion',
  body: 'Body',
}
const contents = computed(() => {
  const holds: readonly string[] = can.value.holds
  return CONTENTS.filter(
    c => (c === 'motion' || holds.includes('body')) && (c === 'body' || holds.includes('motion')),
  ).map(value => ({ value, label: CONTENT_WORDS[value] }))
})
const content = computed({
  get: () => profile.value.content,
  set: v => delivery.set(`What goes along: ${CONTENT_WORDS[v].toLowerCase()}`, { content: v }),
})
const split = computed({
  get: () => profile.value.split,
  set: v =>
    delivery.set(v === 'one' ? 'All takes in one file' : 'A file for each take', {
      split: v,
      ...(v === 'each' && !profile.value.file.includes('{take}') && { file: '{figure}-{take}' }),
    }),
})
const axis = (a: FileAxis): string => `${a[0]}${a[1]!.toUpperCase()}`
const AXES = FILE_AXES.map(a => ({ value: a, label: axis(a) }))
const UNIT_WORDS: Record<UnitName, string> = { m: 'Metres', cm: 'Centimetres', mm: 'Millimetres', inch: 'Inches' }
const units = (Object.keys(UNITS) as UnitName[]).map(value => ({ value, label: UNIT_WORDS[value] }))
const rates = [
  { value: '', label: 'Each take’s own' },
  ...FRAME_RATES.map(f => ({ value: String(f), label: `${f} a second` })),
]
const moves = computed(
  () => profile.value.content !== 'body' && (can.value.holds as readonly string[]).includes('motion'),
)
const numbers = computed({
  get: () => packingOf(profile.value).numbers,
  set: v => delivery.set(`Packing: ${NUMBER_WORDS[v].toLowerCase()}`, { numbers: v }),
})
const NUMBER_WORDS: Record<PackingKind, string> = {
  plain: 'As they are',
  quantized: 'Whole numbers',
  meshopt: 'Compressed',
}
const images = computed({
  get: () => packingOf(profile.value).images,
  set: v => delivery.set(`Images: ${IMAGE_WORDS.value[v].toLowerCase()}`, { images: v }),
})
const IMAGE_WORDS = computed<Record<ImagePlace, string>>(() => ({
  with: can.value.document && profile.value.format !== 'gltf' ? 'In the file' : 'Beside it',
  beside: 'Beside it',
  none: 'Left out',
}))
const sizes = [
  { value: '', label: 'As they are' },
  ...[256, 512, 1024, 2048, 4096].map(n => ({ value: String(n), label: `${n} pixels` })),
]
/** How it rests, as one of a few; arms at an angle of choice. */
const rest = computed({
  get: () => (profile.value.rest === undefined ? '' : profile.value.rest === 'bound' ? 'bound' : 'arms'),
  set: v => delivery.set('How it rests', { rest: v === '' ? undefined : v === 'bound' ? 'bound' : { armsDown: 0 } }),
})
/** At rest, or in a moment of a take. */
const standings = computed(() => [
  { value: '', label: 'At rest' },
  ...delivery.groups.value.flatMap(g => g.takes.map(t => ({ value: t.id, label: `In ${t.name}, ${g.name}` }))),
])
const armsDown = computed(() => (typeof profile.value.rest === 'object' ? profile.value.rest.armsDown : undefined))
const bodied = computed(
  () => profile.value.content !== 'motion' && (can.value.holds as readonly string[]).includes('body'),
)
const glTF = computed(() => ['glb', 'gltf', 'vrm'].includes(profile.value.format))
const thin = computed({
  get: () => profile.value.thin !== undefined,
  set: on =>
    delivery.set(on ? 'Fewer keys' : 'Every frame', { thin: on ? { degrees: 0.1, millimetres: 0.5 } : undefined }),
})
const setThin = (change: Partial<NonNullable<Profile['thin']>>, joins: boolean): void =>
  delivery.set('How far keys may stray', { thin: { ...profile.value.thin!, ...change } }, joins)
const renames = computed({
  get: () => profile.value.names !== undefined,
  set: on =>
    delivery.set(on ? 'Joints by a scheme' : 'Joints as they are called', {
      names: on ? { ...PLAIN_SCHEME } : undefined,
    }),
})
/** The scheme joints are called by; nothing where a table tells. */
const scheme = computed(() => {
  const { names } = profile.value
  return names && !('table' in names) ? names : undefined
})
const table = computed(() => {
  const { names } = profile.value
  return names && 'table' in names ? Object.keys(names.table).length : 0
})
const setNames = (change: Partial<NonNullable<typeof scheme.value>>): void =>
  delivery.set('How joints are called', { names: { ...scheme.value!, ...change } })
const influences = [
  { value: '', label: 'As the skin has' },
  ...[1, 2, 4, 8].map(n => ({ value: String(n), label: `${n} at the most` })),
]
const ORDERS = ['XYZ', 'XZY', 'YXZ', 'YZX', 'ZXY', 'ZYX'].map(value => ({ value, label: value }))
const authors = computed(() => (profile.value.meta?.authors ?? []).join(', '))
const setMeta = (change: NonNullable<Profile['meta']>): void =>
  delivery.set('Who made it', { meta: { ...profile.value.meta, ...change } })
const naming = ref(false)
const parts = NAME_PARTS.map(p => `{${p}}`)
</script>

<template>
  <div class="card" data-testid="profile">
    <h3>For the receiver</h3>
    <label class="flex items-center gap-2 py-0.5">
      <span class="w-16">Profile</span>
      <select
        class="field min-w-0 flex-1"
        aria-label="Profile"
        :value="delivery.called.value ?? ''"
        data-testid="profiles"
        @change="delivery.choose(($event.target as HTMLSelectElement).value)"
      >
        <option v-if="!delivery.called.value" value="">{{ profile.name }}, changed</option>
        <option v-for="p in delivery.known.value" :key="p.name" :value="p.name">{{ p.name }}</option>
      </select>
    </label>
    <div class="flex flex-wrap items-center gap-2 py-1">
      <TextField
        v-if="naming"
        class="field min-w-0 flex-1"
        aria-label="Name of the profile"
        value=""
        data-testid="profile-name"
        @change="delivery.saveProfile($event)"
        @leave="naming = false"
      />
      <button v-else class="press" data-testid="keep-profile" @click="naming = true">Keep as …</button>
      <button class="press" data-testid="export-profile" @click="delivery.exportProfile()">Save alone</button>
      <label class="press cursor-pointer"
        >Bring in<input
          type="file"
          accept=".json,application/json"
          class="sr-only"
          data-testid="import-profile"
          @change="delivery.importProfile"
      /></label>
      <button
        v-if="delivery.own.value.some(p => p.name === profile.name)"
        class="press"
        @click="delivery.removeProfile(profile.name)"
      >
        Remove
      </button>
    </div>
    <SelectRow
      v-model="format"
      label="Format"
      :options="DELIVERY_FORMATS.map(value => ({ value, label: FORMAT_NAMES[value] }))"
      data-testid="format"
    />
    <ChoiceRow v-if="contents.length > 1" v-model="content" label="What goes along" :options="contents" />
    <ChoiceRow
      v-if="moves && can.takes === 'many'"
      v-model="split"
      label="Takes"
      :options="[
        { value: 'one', label: 'In one file' },
        { value: 'each', label: 'A file each' },
      ]"
    />
    <h4>How it stands</h4>
    <template v-if="can.axes">
      <SelectRow
        :model-value="profile.up"
        label="Up"
        :options="AXES"
        @update:model-value="delivery.set('Which axis is up', { up: $event as FileAxis })"
      />
      <SelectRow
        :model-value="profile.ahead"
        label="Ahead"
        :options="AXES"
        @update:model-value="delivery.set('Which way it faces', { ahead: $event as FileAxis })"
      />
      <SelectRow
        :model-value="profile.unit"
        label="Unit"
        :options="units"
        @update:model-value="delivery.set('The unit', { unit: $event as UnitName })"
      />
      <ChoiceRow
        v-if="can.leftHanded"
        :model-value="profile.hand"
        label="Axes are"
        :options="[
          { value: 'right', label: 'Right-handed' },
          { value: 'left', label: 'Left-handed' },
        ]"
        @update:model-value="delivery.set('Which way the third axis runs', { hand: $event as 'right' })"
      />
    </template>
    <p v-else class="quiet py-0.5">Y up, facing +Z, metres: the format’s own.</p>
    <SelectRow
      v-if="profile.format !== 'vrma'"
      v-model="rest"
      label="Rests"
      :options="[
        { value: '', label: 'As it does here' },
        { value: 'bound', label: 'As it was bound' },
        { value: 'arms', label: 'Arms at an angle' },
      ]"
    />
    <SliderRow
      v-if="armsDown !== undefined"
      label="Arms down by"
      :value="armsDown"
      :min="PROFILE_LIMITS.armsDown[0]"
      :max="PROFILE_LIMITS.armsDown[1]"
      :step="1"
      unit="°"
      @change="(v, joins) => delivery.set('How it rests', { rest: { armsDown: v } }, joins)"
    />
    <template v-if="profile.format === 'obj' && standings.length > 1">
      <SelectRow
        :model-value="delivery.moment.value?.take ?? ''"
        label="Stands"
        :options="standings"
        @update:model-value="delivery.setMoment($event || undefined, delivery.moment.value?.at ?? 0)"
      />
      <NumberField
        v-if="delivery.moment.value"
        label="Seconds into it"
        :value="delivery.moment.value.at"
        unit="s"
        :step="0.1"
        :digits="2"
        @change="delivery.setMoment(delivery.moment.value.take, $event)"
      />
    </template>
    <h4 v-if="moves">Motion</h4>
    <SelectRow
      v-if="moves"
      :model-value="profile.fps === undefined ? '' : String(profile.fps)"
      label="Frames"
      :options="rates"
      @update:model-value="delivery.set('Frames a second', { fps: $event === '' ? undefined : Number($event) })"
    />
    <SelectRow
      v-if="moves"
      :model-value="profile.root ?? ''"
      label="Travel lies"
      :options="[
        { value: '', label: 'As it does here' },
        { value: 'root', label: 'On the root joint' },
        { value: 'hips', label: 'On the hips' },
      ]"
      @update:model-value="delivery.set('Where travel lies', { root: $event === '' ? undefined : ($event as 'root') })"
    />
    <template v-if="moves && glTF">
      <SwitchRow v-model="thin" label="Fewer keys" />
      <template v-if="profile.thin">
        <SliderRow
          label="Turns stray by"
          :value="profile.thin.degrees"
          :min="0.01"
          :max="2"
          :step="0.01"
          unit="°"
          @change="(v, joins) => setThin({ degrees: v }, joins)"
        />
        <SliderRow
          label="Places stray by"
          :value="profile.thin.millimetres"
          :min="0.01"
          :max="10"
          :step="0.05"
          unit="mm"
          @change="(v, joins) => setThin({ millimetres: v }, joins)"
        />
        <SwitchRow
          :model-value="profile.thin.curved ?? false"
          label="Curved where smaller"
          @update:model-value="setThin({ curved: $event || undefined }, false)"
        />
      </template>
    </template>
    <SelectRow
      v-if="profile.format === 'bvh'"
      :model-value="profile.order"
      label="Order of turns"
      :options="ORDERS"
      @update:model-value="delivery.set('Order of turns', { order: $event as Profile['order'] })"
    />
    <h4 v-if="bodied">Body</h4>
    <template v-if="bodied && profile.format !== 'obj'">
      <SelectRow
        :model-value="profile.influences === undefined ? '' : String(profile.influences)"
        label="Influences"
        :options="influences"
        @update:model-value="delivery.set('Influences', { influences: $event === '' ? undefined : Number($event) })"
      />
      <SwitchRow
        :model-value="profile.morphs"
        label="Shapes of the surface"
        @update:model-value="delivery.set($event ? 'With its shapes' : 'Without shapes', { morphs: $event })"
      />
    </template>
    <SelectRow
      v-if="can.packs.length > 1"
      v-model="numbers"
      label="Packing"
      :options="can.packs.map(value => ({ value, label: NUMBER_WORDS[value] }))"
    />
    <template v-if="bodied">
      <ChoiceRow
        v-if="can.images.length > 1"
        v-model="images"
        label="Images"
        :options="can.images.map(value => ({ value, label: IMAGE_WORDS[value] }))"
      />
      <SelectRow
        v-if="images !== 'none'"
        :model-value="profile.largest === undefined ? '' : String(profile.largest)"
        label="Image size"
        :options="sizes"
        @update:model-value="
          delivery.set('How large images are', { largest: $event === '' ? undefined : Number($event) })
        "
      />
    </template>
    <h4>Names</h4>
    <template v-if="profile.format !== 'obj'">
      <p v-if="table > 0" class="py-0.5">Joints called by a table of {{ table }}</p>
      <SwitchRow v-else v-model="renames" label="Joints called by a scheme" />
      <div v-if="scheme" class="border-l-2 border-rule pl-2">
        <SelectRow
          :model-value="scheme.style"
          label="Style"
          :options="[
            { value: 'camel', label: 'leftUpperArm' },
            { value: 'snake', label: 'left_upper_arm' },
            { value: 'words', label: 'Left upper arm' },
          ]"
          @update:model-value="setNames({ style: $event as 'camel' })"
        />
        <SelectRow
          :model-value="scheme.side"
          label="Side stands"
          :options="[
            { value: 'first', label: 'First' },
            { value: 'last', label: 'Last' },
          ]"
          @update:model-value="setNames({ side: $event as 'first' })"
        />
        <SwitchRow
          :model-value="scheme.letter"
          label="Side as a letter"
          @update:model-value="setNames({ letter: $event })"
        />
        <label class="flex items-center justify-between py-0.5"
          ><span>Begins with</span
          ><TextField
            class="field !w-36"
            aria-label="Names begin with"
            :value="scheme.prefix"
            @change="setNames({ prefix: $event })"
        /></label>
      </div>
    </template>
    <template v-if="profile.format === 'vrm'">
      <label class="flex items-center justify-between py-0.5"
        ><span>Made by</span
        ><TextField
          class="field !w-36"
          aria-label="Made by"
          :value="authors"
          placeholder="not told"
          @change="
            setMeta({
              authors: $event
                ? $event
                    .split(',')
                    .map(a => a.trim())
                    .filter(Boolean)
                : undefined,
            })
          "
      /></label>
      <label class="flex items-center justify-between py-0.5"
        ><span>Rights</span
        ><TextField
          class="field !w-36"
          aria-label="Rights"
          :value="profile.meta?.copyright ?? ''"
          placeholder="not told"
          @change="setMeta({ copyright: $event || undefined })"
      /></label>
    </template>
    <label class="block py-1"
      ><span class="quiet mb-1 block text-xs">Files are called</span
      ><TextField
        class="field num"
        aria-label="Files are called"
        :value="profile.file"
        @change="delivery.set('What files are called', { file: $event })"
    /></label>
    <p class="quiet text-xs">
      May hold
      <span v-for="p in parts" :key="p" class="num mr-1">{{ p }}</span>
    </p>
  </div>
</template>
