import {
  createLayering,
  curveOf,
  draggedShift,
  draggedTurn,
  laidApart,
  readCurve,
  takenBack,
  withKey,
  withPose,
  type Apart,
  type Drive,
  type Layer,
  type LayerParts,
} from '@chiraxis/core/layers'
import { fromTo, length, normalize, quatAt, rotate, sub, vec3At, type Vec3 } from '@chiraxis/core/math'
import { createPoser, handleId, limbsOfSet, type Dragged, type Handle } from '@chiraxis/core/handles'
import type { FigurePose } from '@chiraxis/core/reach'
import type { Played } from '@chiraxis/core/motion'
import {
  atBind,
  forwardKinematics,
  jointRef,
  pulledBy,
  waysTo,
  worldPose,
  worldPoseBuffer,
  type WorldPose,
} from '@chiraxis/core/skeleton'

/** Local values of the frame while something is dragged. */
const preview = shallowRef<{ rotations: Float32Array; translations: Float32Array }>()
interface Held {
  readonly drive: Drive
  readonly parts: LayerParts
  readonly value: readonly number[]
  readonly weight: number
  readonly pose: WorldPose
  readonly from: Vec3
  readonly frame: number
  /** How the shown take stands apart from the layered one. */
  readonly apart: Apart
  readonly layer: Layer
  readonly committed: readonly Layer[]
}
let held: Held | undefined
/** What a pull with the whole figure began with. */
interface HeldWhole {
  readonly pull: (place: Vec3) => Dragged
  readonly below: Played
  readonly apart: Apart
  readonly frame: number
  readonly layer: Layer
  readonly committed: readonly Layer[]
}
let heldWhole: HeldWhole | undefined
/** A drag sets keys by itself; else it waits until it is told to. */
const autoKey = ref(true)
/** The limb alone follows what is dragged, or the whole figure. */
const follows = ref<'limb' | 'whole'>('limb')
/** The figure at the keys around the playhead is drawn as well. */
const ghosts = ref(true)

/** Local values of a frame of a take. */
const frameOf = (
  { rotations, translations }: { rotations: Float32Array; translations: Float32Array },
  f: number,
  J: number,
): Apart['shown'] => ({
  rotations: rotations.slice(4 * J * f, 4 * J * (f + 1)),
  translations: translations.slice(3 * J * f, 3 * J * (f + 1)),
})

/** Parts of the figure dragged on the plate, in the layer in play: by the limb alone or with the whole figure. */
export function useLayerDrag() {
  const derived = useDerived()
  const project = useProject()
  const player = usePlayer()
  const layering = useLayers()
  const { layers, layer, draft, channel, ends, drive, parts, value, at, clock, played, partName } = layering
  const { blank, keep, canFollow, around } = layering
  const answer = computed(() => derived.performed?.answer)

  /** Where the part in play goes around the playhead, frame by frame, in the skeleton's space. @param tip of the joint's own bone */
  function pathOf(joint: number, tip: Vec3 | undefined, frames: number): { f: number; place: Vec3 }[] {
    const p = played.value
    const shown = answer.value?.take
    if (!p || !shown) return []
    const J = p.skeleton.names.length
    const layering = draft.value && createLayering(p, draft.value, clock.value)
    const before = layering && createLayering(p, layers.value, clock.value)
    const settled = { rotations: new Float32Array(4 * J), translations: new Float32Array(3 * J) }
    const R = new Float32Array(4 * J),
      T = new Float32Array(3 * J)
    const pose = worldPoseBuffer(J)
    const ways = waysTo(p.skeleton, [joint])
    const out: { f: number; place: Vec3 }[] = []
    const here = player.frame
    for (let f = Math.max(0, here - frames); f <= Math.min(shown.frames - 1, here + frames); f++) {
      if (layering) {
        layering.frame(f, R, T)
        before!.frame(f, settled.rotations, settled.translations)
        const { translations, rotations } = laidApart(
          { rotations: R, translations: T },
          { settled, shown: frameOf(shown, f, J) },
        )
        forwardKinematics(p.skeleton.parents, ways, translations, rotations, 0, pose)
      } else forwardKinematics(p.skeleton.parents, ways, shown.translations, shown.rotations, f * J, pose)
      const at = vec3At(pose.positions, joint)
      const own = tip ? rotate(quatAt(pose.rotations, joint), tip) : [0, 0, 0]
      out.push({ f, place: [at[0] + own[0]!, at[1] + own[1]!, at[2] + own[2]!] })
    }
    return out
  }

  // --- dragging on the plate ---
  /** Takes hold of a joint where it is shown, or of the end of its bone. @returns whether anything moves by it */
  function begin(joint: number, from: Vec3, tip: boolean): boolean {
    const p = played.value
    if (!p) return false
    const role = p.skeleton.roles[joint] ?? ''
    if (tip) channel.value = `turn ${jointRef(p.skeleton, joint)}`
    else if (ends.value.has(role)) channel.value = `reach ${role}`
    else if (role === 'hips') channel.value = 'move hips'
    else {
      const by = pulledBy(p.skeleton, joint)
      channel.value = `turn ${jointRef(p.skeleton, by >= 0 ? by : joint)}`
      if (by < 0) return false
    }
    const l = current.value ?? blank()
    const d = drive.value
    if (!d || l.muted || l.weight <= 0) return false
    const f = Math.min(p.take.frames - 1, player.frame)
    const J = p.skeleton.names.length
    const R = new Float32Array(4 * J),
      T = new Float32Array(3 * J)
    const all = draft.value ?? layers.value
    createLayering(p, all, clock.value).frame(f, R, T)
    const committed = all.some(x => x.id === l.id) ? all : [...all, l]
    // where a take goes is settled after its layers
    const settled = { translations: new Float32Array(3 * J), rotations: new Float32Array(4 * J) }
    createLayering(p, layers.value, clock.value).frame(f, settled.rotations, settled.translations)
    const apart: Apart = {
      settled,
      shown: frameOf(answer.value!.take, f, J),
    }
    const begun = laidApart({ translations: T, rotations: R }, apart)
    const pose = worldPose(p.skeleton, begun.translations, begun.rotations)
    player.pause()
    if (follows.value === 'whole' && canFollow(l, committed))
      return beginWhole(p, joint, from, tip, begun, apart, f, l, committed)
    const weights = l.keys.filter(k => k.channel === 'weight')
    const w = new Float64Array([1, 0, 0])
    if (weights.length > 0) readCurve(curveOf(weights), at.value, w)
    held = {
      drive: d,
      parts: parts.value!,
      value: [...value.value],
      weight: l.mode === 'add' ? Math.max(0.05, l.weight * w[0]!) : 1,
      pose,
      from,
      frame: f,
      apart,
      layer: l,
      committed,
    }
    return true
  }
  function beginWhole(
    p: Played,
    joint: number,
    from: Vec3,
    tip: boolean,
    pose: FigurePose,
    apart: Apart,
    f: number,
    l: Layer,
    committed: readonly Layer[],
  ): boolean {
    const { skeleton: s, joints, frame } = p
    const J = s.names.length
    const bind = worldPose(atBind(s))
    const limbs = limbsOfSet(s, joints, frame, j => vec3At(bind.positions, j))
    const poser = createPoser(s, joints, frame, { handles: [], limbs, chains: [] })
    const ref = jointRef(s, joint)
    const kind = tip ? 'turn' : ref === 'hips' ? 'move' : 'end'
    const handle: Handle = {
      id: handleId(kind, ref),
      kind,
      joint,
      ref,
      side: 'middle',
      minor: false,
      shape: { joint, points: new Float32Array(0), closed: false },
    }
    const pull = poser.begin(pose, handle, from, { reach: 'whole', holds: project.recipe.handles?.holds ?? [] })
    if (!pull) return false
    const lower = committed.slice(
      0,
      committed.findIndex(x => x.id === l.id),
    )
    const R = new Float32Array(4 * J),
      T = new Float32Array(3 * J)
    createLayering(p, lower, clock.value).frame(f, R, T)
    const take = { name: '', fps: p.take.fps, frames: 1, rotations: R, translations: T }
    heldWhole = { pull, below: { ...p, take }, apart, frame: f, layer: l, committed }
    return true
  }
  function dragWhole(place: Vec3): void {
    const p = played.value
    if (!heldWhole || !p) return
    const { pull, below: base, apart, frame, layer: l, committed } = heldWhole
    const { rotations, translations } = pull(place)
    const shown = { rotations: Float32Array.from(rotations), translations: Float32Array.from(translations) }
    const wanted = takenBack(shown, apart)
    draft.value = committed.map(x => (x.id === l.id ? withPose(x, base, wanted, at.value) : x))
    show(p, frame, apart)
  }
  /** Shows a frame with the layers as they are drafted. */
  function show(p: Played, frame: number, apart: Apart): void {
    const J = p.skeleton.names.length
    const rotations = new Float32Array(4 * J),
      translations = new Float32Array(3 * J)
    createLayering(p, draft.value!, clock.value).frame(frame, rotations, translations)
    preview.value = laidApart({ rotations, translations }, apart)
  }
  function dragTo(place: Vec3): void {
    const p = played.value
    if (heldWhole) return dragWhole(place)
    if (!held || !p) return
    const { drive: d, pose, from, layer: l } = held
    let next: readonly number[]
    if (d.kind === 'turn') {
      const centre = vec3At(pose.positions, d.joint)
      const [a, b] = [sub(from, centre), sub(place, centre)]
      if (length(a) < 1e-7 || length(b) < 1e-7) return
      next = draggedTurn(d, held.value, fromTo(normalize(a), normalize(b)), pose, held.weight)
    } else next = draggedShift(held.parts, d, held.value, sub(place, from), pose, held.weight)
    draft.value = held.committed.map(x =>
      x.id === l.id ? withKey(x, { at: at.value, channel: channel.value, value: [...next] }) : x,
    )
    show(p, held.frame, held.apart)
  }
  /** The layer that is worked on, as it is drafted. */
  const current = computed(
    () => draft.value?.find(x => x.id === (layer.value?.id ?? draft.value?.at(-1)?.id)) ?? layer.value,
  )
  /** What was dragged waits to be keyed. */
  const pending = computed(() => !autoKey.value && draft.value !== undefined)
  function end(): void {
    held = heldWhole = undefined
    if (autoKey.value) settle()
  }
  /** Keeps what was dragged as keys. */
  function settle(): void {
    const made = draft.value
    draft.value = undefined
    if (made) keep(follows.value === 'whole' ? 'Key the pose' : `Key ${partName.value}`, made)
  }
  function cancel(): void {
    held = heldWhole = undefined
    draft.value = undefined
    preview.value = undefined
  }

  /** The figure at the keys around, as it is shown there. */
  const ghostPoses = computed(() => {
    const s = played.value?.skeleton,
      t = answer.value?.take
    if (!s || !t || !ghosts.value || player.playing) return []
    const { before, after } = around.value
    return (
      [
        ['before', before],
        ['after', after],
      ] as const
    ).flatMap(([which, moment]) => {
      if (moment === undefined) return []
      const f = Math.round(player.toTake(moment) * t.fps)
      if (f < 0 || f >= t.frames || f === player.frame) return []
      return [{ which, pose: worldPose(s, t.translations, t.rotations, f * s.names.length) }]
    })
  })
  return {
    preview,
    pathOf,
    begin,
    dragTo,
    end,
    cancel,
    settle,
    pending,
    autoKey,
    follows,
    ghosts,
    ghostPoses,
  }
}
