<script setup lang="ts">
import { ADDED_PARTS, PART_JOINTS, partCarrier, partChains, SKIRT_CHAINS, type AddedPart } from '@chiraxis/core/rig'
import { pieceIndices } from '@chiraxis/core/shape'
import { jointRef } from '@chiraxis/core/skeleton'

/** Chains that no plan has: drawn point by point, or begun where such a part usually is. */
const derived = useDerived()
const project = useProject()
const draw = useChainDraw()
const { pieces } = usePieces()
const s = computed(() => derived.skeleton)
const label = (i: number): string => jointLabel(s.value, i)
const NAMES = ['chain', 'tail', 'ear', 'wing', 'cable', 'fin', 'neck', 'leg', 'spine', 'jaw']
const spread = computed({
  get: () => (draw.settings.atPoints ? 'points' : 'even'),
  set: v => {
    draw.settings.atPoints = v === 'points'
  },
})
const hangs = computed({
  get: () => (draw.settings.alone ? 'alone' : 'joint'),
  set: v => {
    draw.settings.alone = v === 'alone'
  },
})

const LABELS: Record<AddedPart, string> = {
  jaw: 'Jaw',
  eyes: 'Eyes',
  ears: 'Ears',
  tail: 'Tail',
  wings: 'Wings',
  skirt: 'Skirt',
}
const part = ref<AddedPart>('tail')
const joints = ref(PART_JOINTS.tail)
const chains = ref(SKIRT_CHAINS)
const around = ref('')
watch(part, p => {
  joints.value = PART_JOINTS[p]
})
const cloth = computed(() => pieces.value.filter(p => p.role !== 'left-out' && pieces.value.length > 1))
const fits = computed(() => s.value !== undefined && partCarrier(s.value, part.value) >= 0)
const there = computed(() => {
  const roles: Partial<Record<AddedPart, string>> = { jaw: 'jaw', eyes: 'leftEye' }
  const role = roles[part.value]
  return role !== undefined && (s.value?.roles.includes(role) ?? false)
})
function addPart(): void {
  const skeleton = s.value,
    mesh = derived.shape?.mesh
  if (!skeleton || !mesh) return
  const inPiece = part.value === 'skirt' && around.value !== ''
  const edits = partChains(part.value, skeleton, mesh, derived.shape!.straightened.height, {
    joints: joints.value,
    chains: chains.value,
    ...(inPiece && { around: { positions: mesh.positions, indices: pieceIndices(mesh, new Set([around.value])) } }),
  })
  const { recipe } = project
  const told = {
    ...recipe.pieces[around.value],
    role: 'appendage' as const,
    joint: jointRef(skeleton, partCarrier(skeleton, part.value)),
  }
  project.change(`Add ${LABELS[part.value].toLowerCase()}`, {
    ...recipe,
    ...(inPiece && { pieces: { ...recipe.pieces, [around.value]: told } }),
    bones: { ...recipe.bones, edits: [...recipe.bones.edits, ...edits] },
  })
}
</script>

<template>
  <div v-if="s" class="card">
    <h3>Draw a chain</h3>
    <label class="flex items-center justify-between gap-3 py-1"
      ><span>Name</span
      ><input
        v-model="draw.settings.name"
        class="field !w-[168px]"
        maxlength="120"
        list="chain-names"
        aria-label="Name of the chain" /><datalist id="chain-names">
        <option v-for="n in NAMES" :key="n" :value="n" /></datalist
    ></label>
    <ChoiceRow
      v-model="hangs"
      label="Parent"
      :options="[
        { value: 'joint', label: label(derived.joint) },
        { value: 'alone', label: 'Nothing' },
      ]"
    />
    <ChoiceRow
      v-model="spread"
      label="Its joints stand"
      :options="[
        { value: 'even', label: 'Evenly along it' },
        { value: 'points', label: 'At every point' },
      ]"
    />
    <NumberField
      v-if="!draw.settings.atPoints"
      label="Joints"
      :value="draw.settings.count"
      unit=""
      :digits="0"
      :step="1"
      @change="draw.settings.count = Math.max(1, Math.min(200, Math.round($event)))"
    />
    <button
      class="press mt-2"
      :class="draw.drawing.value ? 'press-on' : ''"
      data-testid="draw-chain"
      @click="draw.drawing.value ? draw.cancel() : draw.begin()"
    >
      {{ draw.drawing.value ? 'Give it up' : 'Draw on the plate' }}
    </button>
  </div>
  <div v-if="s" class="card">
    <h3>Add a part</h3>
    <label class="flex items-center justify-between gap-3 py-1"
      ><span>Part</span
      ><select v-model="part" class="field !w-[168px]" data-testid="part">
        <option v-for="p in ADDED_PARTS" :key="p" :value="p">{{ LABELS[p] }}</option>
      </select></label
    >
    <label v-if="part === 'skirt' && cloth.length > 0" class="flex items-center justify-between gap-3 py-1"
      ><span>In the piece</span
      ><select v-model="around" class="field !w-[168px]" data-testid="part-piece">
        <option value="">the whole body</option>
        <option v-for="p in cloth" :key="p.name" :value="p.name">{{ p.label }}</option>
      </select></label
    >
    <NumberField
      v-if="part === 'skirt'"
      label="Chains around"
      :value="chains"
      unit=""
      :digits="0"
      :step="1"
      @change="chains = Math.max(3, Math.min(32, Math.round($event)))"
    />
    <NumberField
      v-if="part !== 'eyes'"
      label="Joints each"
      :value="joints"
      unit=""
      :digits="0"
      :step="1"
      @change="joints = Math.max(1, Math.min(40, Math.round($event)))"
    />
    <p v-if="!fits" class="quiet py-1 text-xs">Nothing here could carry it: that part of the body has no joint.</p>
    <p v-else-if="there" class="quiet py-1 text-xs">It is there already.</p>
    <p v-else class="quiet py-1 text-xs">Begins where it usually is; drag its joints into place.</p>
    <button class="press" :disabled="!fits || there" data-testid="add-part" @click="addPart">
      Add {{ LABELS[part].toLowerCase() }}
    </button>
  </div>
</template>
