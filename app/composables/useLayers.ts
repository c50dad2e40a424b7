import {
  applyLayers,
  createLayering,
  curveOf,
  driveOf,
  keyedBetween,
  keysBetween,
  layerParts,
  limbChannels,
  limbTold,
  mirroredKey,
  momentsAround,
  poseKeys,
  readChannel,
  readCurve,
  sameMoment,
  standingValue,
  withKey,
  withoutKeys,
  type Layer,
  type LayerKey,
} from '@chiraxis/core/layers'
import { quatAt } from '@chiraxis/core/math'
import type { Played } from '@chiraxis/core/motion'
import { limbsOf, roleLabel, sideOf } from '@chiraxis/core/body'
import { EXACT_TRANSFER } from '@chiraxis/core/perform'
import type { OwnPose } from '@chiraxis/core/strain'
import { worldPose, type Skeleton, type WorldPose } from '@chiraxis/core/skeleton'

/** The layer that is worked on, what of the figure is worked on in it, and the layers while something is dragged. */
const chosen = ref<string>()
const channel = ref('reach rightHand')
const draft = shallowRef<readonly Layer[]>()
/** Keys of a moment that were copied, of the figure's sides. */
const copied = shallowRef<readonly LayerKey[]>([])

/** Changes by hand over the take in play: layers of keys, told at the playhead and dragged on the plate. */
export function useLayers() {
  const derived = useDerived()
  const player = usePlayer()
  const { take, adjust, ownId, toldOf, tell, setTake } = useTakeEdit()
  const mirrored = computed(() => !derived.ownShown && adjust.value.mirror)
  /** Keys are kept of the recording's sides and shown of the figure's. */
  const turned = (layer: Layer): Layer => (mirrored.value ? { ...layer, keys: layer.keys.map(mirroredKey) } : layer)
  const layers = computed<readonly Layer[]>(() => (toldOf('layers') ?? []).map(turned))
  const layer = computed(() => layers.value.find(l => l.id === chosen.value) ?? layers.value.at(-1))
  const answer = computed(() => derived.performed?.answer)
  const below = computed(() => answer.value?.below ?? answer.value?.take)
  /** The moment of the recording that is shown. */
  const at = computed(() => Math.max(0, player.toRecording(player.frame / player.fps)))
  const clock = computed(() => ({ timeOf: (s: number) => player.toTake(s), mirrored: false }))

  const played = computed<Played | undefined>(() => {
    const a = answer.value,
      s = derived.skeleton,
      t = below.value
    if (!a || !s || !t || t.rotations.length !== 4 * s.names.length * t.frames) return undefined
    return { skeleton: s, joints: a.figureJoints, take: t, frame: a.figureFrame }
  })
  const ends = computed(() => new Set(limbsOf(answer.value?.figureJoints ?? {}).map(l => l[2])))
  const part = computed(() => readChannel(channel.value))
  const parts = computed(() => played.value && layerParts(played.value))
  const drive = computed(() => {
    const p = played.value
    return p && parts.value && part.value && driveOf(p, parts.value, part.value.kind, part.value.joint)
  })
  const own = computed<readonly LayerKey[]>(() => layer.value?.keys.filter(k => k.channel === channel.value) ?? [])
  const keyHere = computed(() => own.value.find(k => sameMoment(k.at, at.value)))

  function keep(name: string, next: readonly Layer[], joins = false): void {
    const list = next.map(turned).map(l => ({ ...l, keys: l.keys.map(k => ({ ...k, value: [...k.value] })) }))
    tell(name, 'layers', list, joins)
  }
  /** Keeps a changed layer; one that is new comes with what was changed, as one step. */
  const put = (name: string, changed: Layer, joins = false): void => {
    const known = layers.value.some(l => l.id === changed.id)
    keep(name, known ? layers.value.map(l => (l.id === changed.id ? changed : l)) : [...layers.value, changed], joins)
  }
  /** A layer with nothing in it, not kept yet. */
  function blank(): Layer {
    const names = new Set(layers.value.map(l => l.name))
    let n = layers.value.length + 1
    while (names.has(`Layer ${n}`)) n++
    return { id: crypto.randomUUID(), name: `Layer ${n}`, mode: 'add', weight: 1, keys: [] }
  }
  function add(): void {
    const made = blank()
    keep('Add a layer', [...layers.value, made])
    chosen.value = made.id
  }
  const edit = (name: string, change: Partial<Layer>, joins = false): void => {
    if (layer.value) put(name, { ...layer.value, ...change }, joins)
  }
  function remove(id: string): void {
    const gone = layers.value.find(l => l.id === id)
    if (gone)
      keep(
        `Remove ${gone.name}`,
        layers.value.filter(l => l.id !== id),
      )
  }
  function order(id: string, by: 1 | -1): void {
    const i = layers.value.findIndex(l => l.id === id)
    const k = i + by
    if (i < 0 || k < 0 || k >= layers.value.length) return
    const next = [...layers.value]
    ;[next[i], next[k]] = [next[k]!, next[i]!]
    keep('Order of layers', next)
  }

  const counting = computed(() => layers.value.filter(l => !l.muted && l.weight > 0))
  /** Layers that count become one that does the same; those that were left out stay as they are. */
  function merge(): void {
    const p = played.value
    if (!p || counting.value.length < 2) return
    const laid = applyLayers(p, counting.value, clock.value).take
    const keys = keysBetween(p, laid, s => player.toRecording(s))
    const made: Layer = {
      ...blank(),
      name: counting.value
        .map(l => l.name)
        .join(' + ')
        .slice(0, 120),
      keys: [...keys],
    }
    chosen.value = made.id
    keep('Merge layers', [...layers.value.filter(l => !counting.value.includes(l)), made])
  }
  const alone = computed(
    () => layers.value.length > 1 && layers.value.every(l => (l.id === layer.value?.id) !== (l.muted === true)),
  )
  /** Leaves out all other layers, or lets all count again. */
  function onlyThis(): void {
    const own = layer.value?.id
    const again = alone.value
    keep(
      again ? 'Let all layers count' : `Only ${layer.value?.name}`,
      layers.value.map(({ muted: _, ...l }) => (again || l.id === own ? l : { ...l, muted: true as const })),
    )
  }

  // --- keys at the playhead ---
  const zero = (): number[] => (part.value?.kind === 'weight' ? [1] : [0, 0, 0])
  /** What the chosen layer says of the chosen part at the playhead. */
  const value = computed<readonly number[]>(() => {
    const l = (draft.value ?? layers.value).find(x => x.id === (layer.value?.id ?? draft.value?.at(-1)?.id))
    const keys = l?.keys.filter(k => k.channel === channel.value) ?? []
    if (keys.length === 0) return l?.mode === 'replace' ? standing() : zero()
    const out = new Float64Array(3)
    readCurve(curveOf(keys), at.value, out)
    return [...out]
  })
  function standing(): number[] {
    const p = played.value,
      d = drive.value
    if (!p || !d) return zero()
    const { pose, rotations } = shownPose(p.skeleton)
    return [...standingValue(parts.value!, d, pose, quatAt(rotations, d.joint))]
  }
  /** The figure as it is shown at the playhead, before anything is dragged. */
  function shownPose(s: Skeleton): { pose: WorldPose; rotations: Float32Array } {
    const t = answer.value!.take
    const J = s.names.length
    const f = Math.min(t.frames - 1, player.frame)
    return {
      pose: worldPose(s, t.translations, t.rotations, f * J),
      rotations: t.rotations.subarray(4 * J * f, 4 * J * (f + 1)),
    }
  }
  function setKey(next: readonly number[], joins = false): void {
    const l = layer.value ?? blank()
    put(`Key ${partName.value}`, withKey(l, { at: at.value, channel: channel.value, value: [...next] }), joins)
  }
  function removeKey(): void {
    if (layer.value && keyHere.value)
      put(`Remove a key of ${partName.value}`, withoutKeys(layer.value, at.value, [channel.value]))
  }
  function setEase(ease: LayerKey['ease']): void {
    if (layer.value && keyHere.value)
      put('How a key goes on', withKey(layer.value, { ...keyHere.value, ease: ease === 'smooth' ? undefined : ease }))
  }
  /** Moves every key of a moment to another one. */
  function moveKeys(from: number, to: number): void {
    const l = layer.value
    if (!l || sameMoment(from, to)) return
    const moving = l.keys.filter(k => sameMoment(k.at, from))
    let next = withoutKeys(l, from, [...new Set(moving.map(k => k.channel))])
    for (const k of moving) next = withKey(next, { ...k, at: to })
    put('Move keys', next)
  }
  /** Keeps what is told here to a short while around it: keys without any change before and after. */
  function onlyHere(seconds: number): void {
    const l = layer.value
    if (!l || !keyHere.value) return
    let next = l
    for (const t of [at.value - seconds, at.value + seconds])
      if (
        !l.keys.some(
          k => k.channel === channel.value && (t - k.at) * (t - at.value) <= 0 && !sameMoment(k.at, at.value),
        )
      )
        next = withKey(next, { at: Math.max(0, t), channel: channel.value, value: zero() })
    if (next !== l) put(`Only around here: ${partName.value}`, next)
  }
  const partName = computed(() => channelWords(channel.value))
  /** Every key of the moment that is shown. */
  const keysHere = computed(() => layer.value?.keys.filter(k => sameMoment(k.at, at.value)) ?? [])
  function copyKeys(): void {
    copied.value = keysHere.value
  }
  function pasteKeys(): void {
    const l = layer.value ?? blank()
    if (copied.value.length === 0) return
    put(
      'Paste keys',
      copied.value.reduce((next, k) => withKey(next, { ...k, at: at.value }), l),
    )
  }
  /** A kept pose at the playhead, in the place of what its joints do: a layer that does so already takes it up, else a new one. */
  function layPose(pose: OwnPose): void {
    const a = answer.value
    if (!a || pose.turns.length === 0) return
    const l: Layer = layer.value?.mode === 'replace' ? layer.value : { ...blank(), name: pose.label, mode: 'replace' }
    chosen.value = l.id
    put(
      `Lay the pose ${pose.label}`,
      poseKeys(pose.turns, at.value, a.figureFrame).reduce((next, key) => withKey(next, key), l),
    )
  }
  /** Whether corrections changed the take, so that they can be made a layer. */
  const corrected = computed(() => {
    const a = answer.value
    if (!a || ownId.value || !below.value || a.carried.rotations.length !== below.value.rotations.length) return false
    const [from, to] = [a.carried, below.value]
    return (
      from.rotations.some((v, i) => Math.abs(v - to.rotations[i]!) > 1e-5) ||
      from.translations.some((v, i) => Math.abs(v - to.translations[i]!) > 1e-5)
    )
  })
  /** What was corrected becomes the lowest layer, to be edited; the corrections themselves are left out of this take. */
  function layCorrections(): void {
    const p = played.value,
      a = answer.value
    if (!p || !a || !below.value || !corrected.value) return
    const keys = keysBetween({ ...p, take: a.carried }, below.value, s => player.toRecording(s))
    const made: Layer = { id: crypto.randomUUID(), name: 'Corrections', mode: 'add', weight: 1, keys: [...keys] }
    const { rest: _, asPerformed: __, ...off } = EXACT_TRANSFER
    chosen.value = made.id
    setTake('Corrections as a layer', {
      layers: [made, ...layers.value].map(turned).map(l => ({ ...l, keys: [...l.keys] })),
      correct: { ...take.value?.correct, ...off },
      stretches: undefined,
    })
  }
  /** The other side does the same as its mirror image. */
  function toOtherSide(): void {
    const l = layer.value
    if (!l || !keyHere.value) return
    const other = mirroredKey(keyHere.value)
    if (other.channel !== channel.value) put(`Mirror ${partName.value}`, withKey(l, other))
  }
  const hasOtherSide = computed(
    () => part.value !== undefined && sideOf(part.value.joint) !== 'middle' && part.value.kind !== 'weight',
  )

  /** Whether a layer lies on top and counts in full, so that a whole pose can be told by its keys. */
  const canFollow = (l: Layer, all: readonly Layer[]): boolean =>
    l.mode === 'add' &&
    l.weight === 1 &&
    !l.keys.some(k => k.channel === 'weight') &&
    all.filter(x => !x.muted && x.weight > 0).at(-1)?.id === l.id
  const wholeFits = computed(() => {
    const l = layer.value
    return !l || canFollow(l, layers.value)
  })

  // --- a limb told by its end, or joint by joint ---
  /** The limb that the part in play belongs to, by the role of its end. */
  const limbInPlay = computed(() => {
    const p = played.value
    return p && [...ends.value].find(e => limbChannels(p, e).includes(channel.value))
  })
  /** How the limb in play is told at the playhead. */
  const limbBy = computed<'joints' | 'end' | undefined>(() => {
    const e = limbInPlay.value
    if (!e) return undefined
    const reach = layer.value?.keys.filter(k => k.channel === `reach ${e}`) ?? []
    if (reach.length === 0) return 'joints'
    const v = new Float64Array(3)
    readCurve(curveOf(reach), at.value, v)
    return Math.hypot(...v) > 1e-9 ? 'end' : 'joints'
  })
  const cannot = ref('')
  watch([at, channel, layer], () => {
    cannot.value = ''
  })
  /** Tells the limb in play otherwise at the playhead; the figure stays as it is. */
  function tellLimb(by: 'joints' | 'end'): void {
    const p = played.value,
      l = layer.value,
      e = limbInPlay.value
    if (!p || !l || !e || !canFollow(l, layers.value)) return
    const J = p.skeleton.names.length
    const f = Math.min(p.take.frames - 1, player.frame)
    const R = new Float32Array(4 * J),
      T = new Float32Array(3 * J)
    createLayering(p, layers.value.slice(0, layers.value.indexOf(l)), clock.value).frame(f, R, T)
    const take = { name: '', fps: p.take.fps, frames: 1, rotations: R, translations: T }
    const made = limbTold(l, { ...p, take }, e, by, at.value)
    if (made) put(`${roleLabel(e)} ${by === 'end' ? 'by its end' : 'joint by joint'}`, made)
    else cannot.value = 'It stands while the hips are moved, so it is told by its end alone.'
  }

  // --- what lies around the playhead ---
  const around = computed(() => momentsAround(layer.value?.keys ?? [], at.value))
  const isBetween = computed(() => around.value.before !== undefined && around.value.after !== undefined)
  /** Where the playhead stands between the keys around it, as its layer says: 0 is the one before. */
  function layBetween(share: number, joins = false): void {
    if (layer.value && isBetween.value)
      put('Between the keys around', keyedBetween(layer.value, at.value, share), joins)
  }
  /** A value of a key of the channel in play, changed in the curve. */
  function setValueAt(key: LayerKey, k: number, to: number, joins = false): void {
    if (!layer.value) return
    const next = [...key.value]
    next[k] = to
    put(`Key ${partName.value}`, withKey(layer.value, { ...key, value: next }), joins)
  }
  return {
    layers,
    layer,
    draft,
    parts,
    clock,
    played,
    blank,
    keep,
    canFollow,
    around,
    chosen,
    channel,
    part,
    partName,
    ends,
    own,
    keyHere,
    at,
    value,
    drive,
    ready: computed(() => played.value !== undefined),
    add,
    edit,
    remove,
    order,
    setKey,
    removeKey,
    setEase,
    moveKeys,
    onlyHere,
    keysHere,
    copied,
    copyKeys,
    pasteKeys,
    counting,
    merge,
    alone,
    onlyThis,
    layPose,
    corrected,
    layCorrections,
    toOtherSide,
    hasOtherSide,
    wholeFits,
    isBetween,
    layBetween,
    setValueAt,
    limbInPlay,
    limbBy,
    tellLimb,
    cannot,
  }
}
