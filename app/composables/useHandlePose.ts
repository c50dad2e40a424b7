import { createSharedComposable } from '@vueuse/core'
import {
  carrierOf,
  copyOf,
  createPoser,
  footPivots,
  poseOn,
  rollFoot,
  shapeHand,
  storedPose,
  withHinges,
  type DragOptions,
  type Dragged,
  type Handle,
  type HandShape,
  type HandledBody,
  type Hold,
  type OwnPivot,
  type Poser,
  type StoredPose,
} from '@chiraxis/core/handles'
import { FINGERS, fingerJoints, roleLabel, type Side } from '@chiraxis/core/body'
import {
  fromEuler,
  IDENTITY,
  pointIn,
  quatAt,
  setQuat,
  setVec3,
  toEulerYXZ,
  vec3At,
  type Vec3,
} from '@chiraxis/core/math'
import { GROUND } from '@chiraxis/core/props'
import { restingPose, type FigurePose } from '@chiraxis/core/reach'
import {
  jointRef,
  mirrored,
  partnerJoint,
  mirrorTurn,
  turnAt,
  withTurn,
  worldPose,
  type Skeleton,
} from '@chiraxis/core/skeleton'
import type { OwnPose } from '@chiraxis/core/strain'
import type { DrawnPlace } from '~/stage/props'

/** The limb alone follows what is pulled, or the whole figure. */
const reach = ref<DragOptions['reach']>('whole')
/** The centre of mass stays over what carries the figure while it is pulled. */
const balanced = ref(false)
/** The figure while something is dragged. */
const draft = shallowRef<Dragged>()
const copied = shallowRef<StoredPose>()
let drag: ReturnType<Poser['begin']>
/** How far a foot is rolled, degrees, the pose it began in and the one that came of it. */
const rolled = ref(0)
let rollFrom: { readonly from: FigurePose; readonly to: StoredPose | undefined } | undefined

const posers = new WeakMap<HandledBody, { skeleton: Skeleton; hinges: string; poser: Poser }>()

/** The pose of the figure in Handles: pulled, turned by numbers, held, kept and taken up again. */
export const useHandlePose = createSharedComposable(() => {
  const derived = useDerived()
  const project = useProject()
  const handles = useHandles()
  const props = useProps()
  const { body, choices, picked, keep, namesOf } = handles

  const skeleton = computed(() => (body.value ? derived.skeleton : undefined))
  const joints = computed(() => body.value?.joints ?? {})
  const poser = computed<Poser | undefined>(() => {
    const b = body.value,
      s = skeleton.value
    if (!b || !s) return undefined
    const hinges = JSON.stringify(Object.entries(choices.value.drives ?? {}).map(([ref, d]) => [ref, d.hinge]))
    let known = posers.get(b)
    if (known?.skeleton !== s || known.hinges !== hinges) {
      const set = withHinges(b.set, s, choices.value.drives)
      posers.set(b, (known = { skeleton: s, hinges, poser: createPoser(s, b.joints, [...IDENTITY], set) }))
    }
    return known.poser
  })
  /** The pose as it is kept. */
  const settled = computed<FigurePose | undefined>(() => {
    const s = skeleton.value
    if (!s) return undefined
    return choices.value.pose ? poseOn(s, joints.value, choices.value.pose) : restingPose(s)
  })
  const bare = computed<FigurePose | undefined>(() => draft.value ?? settled.value)
  /** With hands that hold what the figure carries. */
  const held = computed(() => bare.value && props.inPose(bare.value))
  const pose = computed<FigurePose | undefined>(() => held.value?.pose ?? bare.value)
  const propPlaces = computed(() => (held.value ? props.drawnAt(held.value.places) : new Map<string, DrawnPlace>()))
  /** How far hands stay off the places they should hold, metres, by prop. */
  const propOff = computed(() => new Map(props.known.value.map((k, i) => [k.prop.id, held.value?.off[i] ?? 0])))
  /** Metres that shifts of props are told in: how high the hips stand. */
  const unit = computed(() => (skeleton.value ? carrierOf(skeleton.value, joints.value).height : 1))
  const isPosed = computed(() => choices.value.pose !== undefined)
  const world = computed(() => {
    const s = skeleton.value
    return s && pose.value ? worldPose(s, pose.value.translations, pose.value.rotations) : undefined
  })
  const loads = computed(() =>
    props.known.value.flatMap(({ prop, thing }) => {
      const place = propPlaces.value.get(prop.id)
      // what lies on the ground weighs on nobody
      if (!place || prop.carry.by === GROUND) return []
      const at = pointIn({ at: [...place.at], turn: [...place.turn] }, thing.middle)
      return [{ mass: thing.mass, place: at }]
    }),
  )
  const balance = useBalance(world, loads)

  const options = (): DragOptions => ({
    reach: reach.value,
    drives: choices.value.drives,
    holds: choices.value.holds,
    ...(balanced.value && reach.value === 'whole' && balance.goal.value && { balance: balance.goal.value }),
  })
  function set(name: string, next: FigurePose | undefined, joins = false): void {
    const s = skeleton.value
    if (!s) return
    const told = next && storedPose(s, joints.value, next)
    const empty = !told || (told.turns.length === 0 && !told.shift)
    keep(name, { pose: empty ? undefined : told }, joins)
  }

  // --- pulling ---
  function begin(handle: Handle, grab: Vec3): boolean {
    if (!poser.value || !settled.value) return false
    drag = poser.value.begin(settled.value, handle, grab, options())
    return drag !== undefined
  }
  function dragTo(place: Vec3): void {
    if (drag) draft.value = drag(place)
  }
  function end(handle: Handle): void {
    const made = draft.value
    drag = undefined
    draft.value = undefined
    if (made) {
      set(`Pull ${handles.labelOf(handle)}`, made)
      told.value = { off: made.off, loose: made.loose }
    }
  }
  function cancel(): void {
    drag = undefined
    draft.value = undefined
  }
  /** What the last pull could not meet or hold. */
  const told = shallowRef<Pick<Dragged, 'off' | 'loose'>>({ off: 0, loose: [] })
  const unmet = computed(() => draft.value ?? told.value)
  watch(
    () => choices.value.pose,
    () => {
      if (!draft.value && !choices.value.pose) told.value = { off: 0, loose: [] }
    },
  )

  // --- numbers ---
  const joint = computed(() => {
    const h = handles.one.value
    return h && (h.kind === 'turn' || h.kind === 'end') ? h.joint : undefined
  })
  const angles = computed<Vec3>(() => {
    const s = skeleton.value,
      p = pose.value
    if (!s || !p || joint.value === undefined) return [0, 0, 0]
    return toEulerYXZ(turnAt(s, p.rotations, joint.value)).map(v => (v * 180) / Math.PI) as Vec3
  })
  function setAngle(axis: 0 | 1 | 2, degrees: number): void {
    const s = skeleton.value,
      p = settled.value
    if (!s || !p || joint.value === undefined) return
    const each = [...angles.value] as Vec3
    each[axis] = degrees
    const [x, y, z] = each.map(v => (v * Math.PI) / 180) as Vec3
    const rotations = withTurn(s, Float32Array.from(p.rotations), joint.value, fromEuler(x, y, z, 'YXZ'))
    set(`Turn ${namesOf(picked.value)}`, { translations: p.translations, rotations })
  }
  const shift = computed<Vec3>(() => {
    const s = skeleton.value,
      p = pose.value
    const j = joints.value.hips ?? 0
    if (!s || !p) return [0, 0, 0]
    const [a, b] = [worldPose(s), worldPose(s, p.translations, p.rotations)].map(w => vec3At(w.positions, j))
    return [b![0] - a![0], b![1] - a![1], b![2] - a![2]]
  })
  /** Moves the hips by numbers; feet and holds stay as they do under the pointer. */
  function setShift(axis: 0 | 1 | 2, metres: number): void {
    const p = settled.value,
      s = skeleton.value
    const handle = handles.all.value.find(h => h.kind === 'move')
    if (!p || !s || !poser.value || !handle) return
    const at = vec3At(worldPose(s, p.translations, p.rotations).positions, handle.joint)
    const to: Vec3 = [...at]
    to[axis] += metres - shift.value[axis]
    const next = poser.value.begin(p, handle, at, options())?.(to)
    if (next) set('Move the hips', next)
  }

  // --- back to rest, sides, copies ---
  const LOOSE = (s: Skeleton, j: number): boolean => !s.roles[j] || /^(tail|.*Ear)/.test(s.roles[j]!)
  function rest(what: 'chosen' | 'all' | 'appendages'): void {
    const s = skeleton.value,
      p = settled.value
    if (!s || !p) return
    if (what === 'all') return set('The whole figure to rest', undefined)
    const next = copyOf(p)
    const b = body.value!
    const limbOf = (j: number): number[] => {
      const limb = b.set.limbs.find(l => l.end === j)
      return limb
        ? [limb.upper, limb.lower, limb.end]
        : (b.set.chains.find(c => c.joints.at(-1) === j)?.joints.slice() ?? [j])
    }
    const list =
      what === 'appendages'
        ? s.names.flatMap((_, j) => (LOOSE(s, j) ? [j] : []))
        : picked.value.flatMap(h => (h.kind === 'end' ? limbOf(h.joint) : [h.joint]))
    for (const j of list) setQuat(next.rotations, j, quatAt(s.restRotations, j))
    if (what === 'chosen' && picked.value.some(h => h.kind === 'move' || h.kind === 'figure')) {
      const j = joints.value.hips ?? 0
      setVec3(next.translations, j, vec3At(s.restTranslations, j))
    }
    set(what === 'appendages' ? 'Appendages to rest' : `${namesOf(picked.value)} to rest`, next)
  }
  const now = (): StoredPose | undefined => {
    const s = skeleton.value,
      p = settled.value
    return s && p ? storedPose(s, joints.value, p) : undefined
  }
  const mirrorShift = (p: StoredPose): Pick<StoredPose, 'shift'> =>
    p.shift ? { shift: [-p.shift[0], p.shift[1], p.shift[2]] } : {}
  function take(name: string, p: StoredPose): void {
    keep(name, { pose: p.turns.length === 0 && !p.shift ? undefined : p })
  }
  /** Left and right exchanged, as a mirror shows it. */
  function swapSides(): void {
    const s = skeleton.value,
      p = now()
    if (s && p) take('Swap left and right', { turns: mirrored(s, p.turns), ...mirrorShift(p) })
  }
  /** One side as the mirror image of the other. */
  function copyAcross(from: Side): void {
    const s = skeleton.value,
      p = settled.value
    if (!s || !p) return
    let rotations: Float32Array = Float32Array.from(p.rotations)
    s.roles.forEach((role, j) => {
      if (!role?.startsWith(from)) return
      const other = partnerJoint(s, j)
      if (other >= 0) rotations = withTurn(s, rotations, other, mirrorTurn(turnAt(s, p.rotations, j)))
    })
    set(from === 'left' ? 'Copy left to right' : 'Copy right to left', { translations: p.translations, rotations })
  }
  function copy(): void {
    copied.value = now()
  }
  function paste(): void {
    if (copied.value) take('Paste a pose', copied.value)
  }

  // --- hands ---
  const handShape = reactive<HandShape & { curl: number; spread: number; relax: number }>({
    curl: 0,
    spread: 0,
    relax: 0,
  })
  function setHand(side: Side, change: Partial<HandShape>, finger?: string, joins = false): void {
    const s = skeleton.value,
      p = settled.value
    if (!s || !p) return
    Object.assign(handShape, change)
    const rotations = shapeHand(s, joints.value, side, handShape, Float32Array.from(p.rotations), finger)
    set(
      `${side === 'left' ? 'Left' : 'Right'} ${finger ? finger.toLowerCase() : 'hand'}`,
      { translations: p.translations, rotations },
      joins,
    )
  }
  const fingersOf = (side: Side): string[] =>
    FINGERS.filter(f => fingerJoints(f).some(part => joints.value[side + f + part] !== undefined))

  // --- feet ---
  /** The foot whose end is chosen, with the places it can be rolled over. */
  const foot = computed(() => {
    const b = body.value,
      s = skeleton.value
    const limb = b?.set.limbs.find(l => l.leg && handles.one.value?.joint === l.end)
    const pivots = b && s && limb && footPivots(s, b.joints, b.set, limb, choices.value.pivots)
    return limb && pivots && { limb, pivots }
  })
  function beginRoll(): void {
    rolled.value = 0
    rollFrom = undefined
  }
  /** Rolls the chosen foot, told from where it was when the rolling began. */
  function roll(over: string, degrees: number, joins = false): void {
    const s = skeleton.value,
      f = foot.value
    // whatever else changed the pose in between is what it goes on from
    if (rollFrom?.to !== choices.value.pose) beginRoll()
    const from = rollFrom?.from ?? settled.value
    if (!s || !f || !poser.value || !from) return
    const radians = (degrees * Math.PI) / 180
    const next = rollFoot(s, joints.value, poser.value.reach, from, f.limb, f.pivots, over, radians)
    set(`Roll ${roleLabel(f.limb.ref)}`, next, joins)
    rollFrom = { from, to: choices.value.pose }
    rolled.value = degrees
  }

  const ownPivots = computed(() => (choices.value.pivots ?? []).filter(p => p.foot === foot.value?.limb.ref))
  /** Places of one's own on the sole of the chosen foot. */
  function setPivot(pivot: OwnPivot): void {
    const others = (choices.value.pivots ?? []).filter(p => p.id !== pivot.id)
    keep(`Place ${pivot.name} on a sole`, { pivots: [...others, pivot] })
  }
  function removePivot(id: string): void {
    keep('Remove a place on a sole', { pivots: (choices.value.pivots ?? []).filter(p => p.id !== id) })
  }

  // --- holds ---
  const holds = computed<readonly Hold[]>(() => choices.value.holds ?? [])
  const holdOf = (j: number): Hold | undefined => {
    const s = skeleton.value
    return s ? holds.value.find(h => h.joint === jointRef(s, j)) : undefined
  }
  function setHold(j: number, place: boolean, turn: boolean): void {
    const s = skeleton.value
    if (!s) return
    const ref = jointRef(s, j)
    const others = holds.value.filter(h => h.joint !== ref)
    const name = s.roles[j] ? roleLabel(ref) : s.names[j]
    keep(place || turn ? `Hold ${name}` : `Let ${name} go`, {
      holds: place || turn ? [...others, { joint: ref, place, turn }] : others,
    })
  }
  function letAllGo(): void {
    keep('Let everything go', { holds: [] })
  }
  /** Moves the hips and what is free the least that brings the mass over what carries it. */
  function settleBalance(): void {
    const p = settled.value
    const goal = balance.goalFor(balance.margin)
    if (!p || !poser.value || !goal) return
    const next = poser.value.settle(p, { ...options(), reach: 'whole', balance: goal })
    set('Bring into balance', next)
    told.value = { off: 0, loose: next.loose }
  }

  // --- the library ---
  const library = computed<readonly OwnPose[]>(() => project.recipe.checkPoses ?? [])
  function keepPose(wish: string): void {
    const p = now()
    if (!p || (p.turns.length === 0 && !p.shift)) return
    const label = freshLabel(wish.trim() || 'Pose', library.value)
    addPoses(`Keep the pose ${label}`, [{ label, turns: p.turns, shift: p.shift }])
  }
  function addPoses(name: string, list: readonly Omit<OwnPose, 'id'>[]): void {
    const own = [...library.value]
    for (const { label, turns, shift } of list)
      own.push({
        id: `own-${crypto.randomUUID()}`,
        label: freshLabel(label, own),
        turns: turns.map(t => ({ ...t })),
        ...(shift && { shift }),
      })
    project.change(name, { ...project.recipe, checkPoses: own })
  }
  function takePose(p: OwnPose): void {
    take(`Take up ${p.label}`, { turns: p.turns, ...(p.shift && { shift: p.shift }) })
  }
  function forgetPose(p: OwnPose): void {
    project.change(`Remove the pose ${p.label}`, {
      ...project.recipe,
      checkPoses: library.value.filter(x => x.id !== p.id),
    })
  }

  return {
    reach,
    balanced,
    balance,
    skeleton,
    pose,
    draft,
    world,
    isPosed,
    begin,
    dragTo,
    end,
    cancel,
    unmet,
    joint,
    angles,
    setAngle,
    shift,
    setShift,
    rest,
    swapSides,
    copyAcross,
    copied,
    copy,
    paste,
    handShape,
    setHand,
    fingersOf,
    foot,
    rolled,
    beginRoll,
    roll,
    ownPivots,
    setPivot,
    removePivot,
    holds,
    holdOf,
    setHold,
    letAllGo,
    settleBalance,
    propPlaces,
    propOff,
    unit,
    library,
    keepPose,
    addPoses,
    takePose,
    forgetPose,
    poser,
  }
})
