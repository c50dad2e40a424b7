<script setup lang="ts">
import { counted } from '@chiraxis/core/words'
import { EASES, readChannel, type Ease, type Layer } from '@chiraxis/core/layers'
import { roleLabel } from '@chiraxis/core/body'
import { jointRef } from '@chiraxis/core/skeleton'
import { ArrowDown, ArrowUp, Eye, EyeOff, X } from '@lucide/vue'

/** Changes by hand over a take: layers, and what the one in play says of a part at the playhead. */
const view = useView()
const derived = useDerived()
const project = useProject()
const layers = useLayers()
const drags = useLayerDrag()
const own = useOwnTakes()
const { layer, part, value, drive } = layers
const degrees = 180 / Math.PI
const AXES = [
  ['To its left', 0],
  ['Up', 1],
  ['Ahead', 2],
] as const
const TURNS = [
  ['About its left', 0],
  ['About up', 1],
  ['About ahead', 2],
] as const
const turns = computed(() => part.value?.kind === 'turn')
/** Centimetres a share stands for. */
const scale = computed(() => (turns.value ? degrees : 100 * (drive.value?.long ?? 1)))
function set(k: 0 | 1 | 2, v: number): void {
  const next = [...value.value]
  next[k] = v / scale.value
  layers.setKey(next)
}
/** Everything that can be changed, ends first. */
const parts = computed(() => {
  const s = derived.skeleton
  if (!s) return []
  const roles = s.roles.flatMap(r => (r ? [r] : []))
  return [
    ...roles
      .filter(r => layers.ends.value.has(r))
      .map(r => ({ channel: `reach ${r}`, label: `${roleLabel(r)}, place` })),
    ...(roles.includes('hips') ? [{ channel: 'move hips', label: 'Hips, place' }] : []),
    ...s.names.map((name, j) => ({
      channel: `turn ${jointRef(s, j)}`,
      label: `${s.roles[j] ? roleLabel(s.roles[j]!) : name}, turn`,
    })),
    { channel: 'weight', label: 'Weight of the layer' },
  ]
})
const mode = computed({
  get: (): Layer['mode'] => layer.value?.mode ?? 'add',
  set: v => layers.edit(v === 'add' ? 'Lay on top of the take' : 'Lay in place of the take', { mode: v }),
})
const MODES = [
  { value: 'add', label: 'On top' },
  { value: 'replace', label: 'In place' },
] as const
const EASE_WORDS: Record<Ease, string> = { smooth: 'Smooth', linear: 'Straight', stepped: 'Stepped' }
const ease = computed({
  get: (): Ease => layers.keyHere.value?.ease ?? 'smooth',
  set: v => layers.setEase(v),
})
const LIMB_WAYS = [
  ['joints', 'Joint by joint from here'],
  ['end', 'By its end from here'],
] as const
const FOLLOWS = [
  { value: 'limb', label: 'Limb' },
  { value: 'whole', label: 'Whole figure' },
] as const
/** How far between the keys around it the playhead was keyed last. */
const dial = ref(50)
watch(layers.at, () => {
  dial.value = 50
})
const seconds = ref(0.3)
/** Poses that were kept of the figure. */
const poses = computed(() => project.recipe.checkPoses ?? [])
const pose = ref(poses.value[0]?.id ?? '')
function layPose(): void {
  const wanted = poses.value.find(p => p.id === pose.value) ?? poses.value[0]
  if (wanted) layers.layPose(wanted)
}
const keysOf = (l: Layer): string => {
  const n = new Set(l.keys.map(k => k.at)).size
  return n === 0 ? 'no keys' : counted(n, 'moment')
}
const partOf = (c: string): string => readChannel(c)?.kind ?? ''
</script>

<template>
  <BenchHead
    title="Layer"
    sentence="Drag a mark on the figure to set a key at the playhead. The take below stays as it is."
  />
  <WorkProgress step="take" what="Carrying the take over" />
  <div v-if="!layers.ready.value" class="card quiet">Choose a take.</div>
  <template v-else>
    <div class="card" data-testid="layers">
      <div class="flex items-center justify-between">
        <h3>Layers</h3>
        <span class="flex gap-2"
          ><button
            class="press"
            title="The take as it is shown, with its layers and corrections in its frames, beside the one it came from"
            data-testid="bake"
            @click="own.bake()"
          >
            Bake
          </button>
          <button class="press" data-testid="add-layer" @click="layers.add()">New layer</button></span
        >
      </div>
      <p v-if="layers.layers.value.length === 0" class="quiet py-1">None yet. Dragging a mark makes the first.</p>
      <button
        v-if="layers.corrected.value"
        class="press my-1"
        title="Feet, hands and elbow room as keys that can be changed; this take is corrected by nothing else then"
        data-testid="lay-corrections"
        @click="layers.layCorrections()"
      >
        Corrections as a layer
      </button>
      <ul>
        <li
          v-for="l in [...layers.layers.value].reverse()"
          :key="l.id"
          class="flex items-center gap-1 border-l-2 py-0.5 pl-1.5"
          :class="l.id === layer?.id ? 'border-madder bg-paper-2' : 'border-transparent'"
          :data-layer="l.name"
        >
          <button class="min-w-0 flex-1 truncate text-left" @click="layers.chosen.value = l.id">
            {{ l.name }} <span class="quiet ml-1.5 text-xs">{{ keysOf(l) }}</span>
          </button>
          <button class="press !px-1" aria-label="Up" title="Up" @click="layers.order(l.id, 1)">
            <ArrowUp :size="13" />
          </button>
          <button class="press !px-1" aria-label="Down" title="Down" @click="layers.order(l.id, -1)">
            <ArrowDown :size="13" />
          </button>
          <button
            class="press !px-1"
            :aria-label="l.muted ? 'Let it count' : 'Leave it out'"
            :title="l.muted ? 'Let it count' : 'Leave it out'"
            :aria-pressed="l.muted === true"
            @click="
              ((layers.chosen.value = l.id),
              layers.edit(l.muted ? `Let ${l.name} count` : `Leave out ${l.name}`, {
                muted: l.muted ? undefined : true,
              }))
            "
          >
            <EyeOff v-if="l.muted" :size="13" /><Eye v-else :size="13" />
          </button>
          <button class="press !px-1" aria-label="Remove" title="Remove" @click="layers.remove(l.id)">
            <X :size="13" />
          </button>
        </li>
      </ul>
      <template v-if="layer">
        <TextField
          class="field mb-1 mt-1.5"
          aria-label="Name of the layer"
          :value="layer.name"
          @change="layers.edit('Name a layer', { name: $event.trim() || layer.name })"
        />
        <SliderRow
          label="Weight"
          :value="Math.round(100 * layer.weight)"
          :min="0"
          :max="100"
          :step="1"
          :digits="0"
          unit="%"
          @change="(v, joins) => layers.edit(`Weight of ${layer!.name}`, { weight: v / 100 }, joins)"
        />
        <ChoiceRow v-model="mode" label="Over the take" :options="MODES" />
        <div v-if="layers.layers.value.length > 1" class="flex flex-wrap gap-2 pt-1">
          <button class="press" :aria-pressed="layers.alone.value" data-testid="only-this" @click="layers.onlyThis()">
            {{ layers.alone.value ? 'Let all count' : 'Only this one' }}
          </button>
          <button
            class="press"
            :disabled="layers.counting.value.length < 2"
            title="All layers that count become one"
            data-testid="merge-layers"
            @click="layers.merge()"
          >
            Merge
          </button>
        </div>
      </template>
    </div>
    <div class="card" data-testid="dragging">
      <ChoiceRow v-model="drags.follows.value" label="What follows a drag" :options="FOLLOWS" />
      <p v-if="drags.follows.value === 'whole' && !layers.wholeFits.value" class="quiet text-xs">
        The limb alone: the whole figure follows on the topmost layer that lies on top of the take in full.
      </p>
      <p v-else-if="drags.follows.value === 'whole'" class="quiet text-xs">Feet stay, and what is held in Handles.</p>
      <SwitchRow v-model="drags.autoKey.value" label="A drag sets keys" data-testid="auto-key" />
      <div v-if="drags.pending.value" class="my-1 border-l-2 border-madder py-1 pl-2" data-testid="pending">
        <p class="font-semibold text-madder">Not keyed yet</p>
        <p class="quiet text-xs">It is lost when another moment is looked at.</p>
        <div class="flex gap-2 pt-1">
          <button class="press" data-testid="settle" @click="drags.settle()">Set its keys</button>
          <button class="press" @click="drags.cancel()">Let it go</button>
        </div>
      </div>
      <SwitchRow v-model="drags.ghosts.value" label="Figure at the keys around" />
      <SliderRow
        v-if="layers.isBetween.value"
        label="Between the keys around"
        :value="dial"
        :min="-30"
        :max="130"
        :step="5"
        :digits="0"
        unit="%"
        data-testid="between"
        @change="(v, joins) => ((dial = v), layers.layBetween(v / 100, joins))"
      />
    </div>
    <PropKeys />
    <div v-if="poses.length > 0" class="card" data-testid="lay-pose">
      <h3>Pose</h3>
      <div class="flex gap-2">
        <select v-model="pose" class="field" aria-label="Kept pose">
          <option v-for="p in poses" :key="p.id" :value="p.id">{{ p.label }}</option>
        </select>
        <button
          class="press"
          title="In the place of what its joints do; the weight brings it in and out"
          @click="layPose"
        >
          Lay it here
        </button>
      </div>
    </div>
    <div class="card" data-testid="part-in-play">
      <h3>Part</h3>
      <select v-model="layers.channel.value" class="field" aria-label="Part" data-testid="channel">
        <option v-for="p in parts" :key="p.channel" :value="p.channel">{{ p.label }}</option>
      </select>
      <template v-if="partOf(layers.channel.value) === 'weight'">
        <SliderRow
          label="Weight here"
          :value="Math.round(100 * (value[0] ?? 1))"
          :min="0"
          :max="100"
          :step="1"
          :digits="0"
          unit="%"
          @change="(v, joins) => layers.setKey([v / 100], joins)"
        />
      </template>
      <template v-else>
        <NumberField
          v-for="[text, k] in turns ? TURNS : AXES"
          :key="text"
          :label="text"
          :value="(value[k] ?? 0) * scale"
          :unit="turns ? '°' : 'cm'"
          :step="turns ? 1 : 0.5"
          @change="set(k, $event)"
        />
      </template>
      <div v-if="layers.limbInPlay.value && layer && layers.wholeFits.value" class="pt-1" data-testid="limb-told">
        <button
          v-for="[way, text] in LIMB_WAYS"
          v-show="way !== layers.limbBy.value"
          :key="way"
          class="press"
          title="The figure stays as it is at this moment"
          :data-tell="way"
          @click="layers.tellLimb(way)"
        >
          {{ text }}
        </button>
        <p v-if="layers.cannot.value" class="quiet text-xs">{{ layers.cannot.value }}</p>
      </div>
      <div class="flex flex-wrap gap-2 py-1.5">
        <button
          class="press"
          :disabled="layers.keyHere.value !== undefined"
          data-testid="set-key"
          @click="layers.setKey(value)"
        >
          {{ layers.keyHere.value ? 'Key set' : 'Set a key' }}
        </button>
        <button
          class="press"
          :disabled="!layers.keyHere.value"
          title="Delete"
          data-testid="remove-key"
          @click="layers.removeKey()"
        >
          Remove key
        </button>
      </div>
      <div class="flex flex-wrap gap-2 pb-1.5">
        <button
          class="press"
          :disabled="layers.keysHere.value.length === 0"
          title="All keys of this moment"
          data-testid="copy-keys"
          @click="layers.copyKeys()"
        >
          Copy
        </button>
        <button
          class="press"
          :disabled="layers.copied.value.length === 0"
          data-testid="paste-keys"
          @click="layers.pasteKeys()"
        >
          Paste
        </button>
        <button
          v-if="layers.hasOtherSide.value"
          class="press"
          :disabled="!layers.keyHere.value"
          data-testid="other-side"
          @click="layers.toOtherSide()"
        >
          To the other side
        </button>
      </div>
      <template v-if="layers.keyHere.value">
        <ChoiceRow
          v-model="ease"
          label="To the next key"
          :options="EASES.map(e => ({ value: e, label: EASE_WORDS[e] }))"
        />
        <template v-if="layer?.mode === 'add'">
          <NumberField
            label="Comes and goes within"
            :value="seconds"
            unit="s"
            :step="0.05"
            :digits="2"
            @change="seconds = Math.max(0.02, $event)"
          />
          <button
            class="press"
            title="Keys without change before and after"
            data-testid="only-here"
            @click="layers.onlyHere(seconds)"
          >
            Only around here
          </button>
        </template>
      </template>
    </div>
  </template>
  <div class="bench-foot">
    <button class="press press-main" :disabled="!layers.ready.value" @click="view.go('ground')">
      Go on to the ground
    </button>
  </div>
</template>
