import { createSharedComposable } from '@vueuse/core'
import {
  courseAt,
  GROUND,
  mirroredCarry,
  propsInPose,
  propsOnFigure,
  withPropKey,
  type Carry,
  type KnownProp,
  type Prop,
  type PropKey,
  type PropPlace,
  type PropsOnFigure,
} from '@chiraxis/core/props'
import { roleLabel } from '@chiraxis/core/body'
import type { Load } from '@chiraxis/core/mass'
import {
  between,
  fromTo,
  IDENTITY,
  length,
  normalize,
  pointIn,
  sub,
  turnedAbout,
  type Quat,
  type Rigid,
  type Vec3,
} from '@chiraxis/core/math'
import type { FileRef } from '@chiraxis/core/recipe'
import type { FigurePose } from '@chiraxis/core/reach'
import { findJoint, jointRef, recogniseRoles, worldPose, type WorldPose } from '@chiraxis/core/skeleton'
import type { DrawnPlace } from '~/stage/props'

/** The prop that is worked on. */
const chosen = ref<string>()
/** Whether a prop that is dragged moves, or turns about one of its places. */
const way = ref<'move' | 'turn'>('move')
const pivot = ref<string>()
/** The next press on the prop makes a place there. */
const marking = ref(false)
/** How the chosen prop is carried while it is dragged. */
const draft = shallowRef<Carry>()

/** What the figure carries: which props there are, how they are carried at rest and in the take in play. */
export const useProps = createSharedComposable(() => {
  const derived = useDerived()
  const project = useProject()
  const player = usePlayer()
  const { adjust, toldOf, tell } = useTakeEdit()

  const list = computed<readonly Prop[]>(() => project.recipe.props ?? [])
  const prop = computed(() => list.value.find(p => p.id === chosen.value) ?? list.value[0])
  const joints = computed(() => (derived.skeleton ? recogniseRoles(derived.skeleton).joints : {}))
  const things = computed(() => new Map((derived.props?.list ?? []).map(p => [p.id, p.thing])))
  const thing = computed(() => things.value.get(prop.value?.id ?? ''))
  /** Props whose files were read, as they are carried now. */
  const known = computed<readonly KnownProp[]>(() =>
    list.value.flatMap(p => {
      const own = things.value.get(p.id)
      const carry = draft.value && p.id === prop.value?.id ? draft.value : p.carry
      return own ? [{ prop: { ...p, carry }, thing: own }] : []
    }),
  )
  const on = computed<PropsOnFigure | undefined>(() => {
    const s = derived.skeleton
    return s && known.value.length > 0
      ? propsOnFigure(s, joints.value, [...IDENTITY] as Quat, derived.props?.hands ?? [], known.value)
      : undefined
  })
  /** Places and joints by which the prop in play was to be carried, and that are no more. */
  const lost = computed(() => (on.value?.lost ?? []).filter(l => l.prop === prop.value?.name).map(l => l.part))
  /** A pose with hands that hold what they carry, and where that is. */
  function inPose(pose: FigurePose): ReturnType<typeof propsInPose> | undefined {
    const s = derived.skeleton
    return on.value && s ? propsInPose(on.value, s, pose) : undefined
  }
  const drawnAt = (places: readonly Rigid[]): ReadonlyMap<string, DrawnPlace> =>
    new Map(known.value.map(({ prop: { id } }, i) => [id, places[i]!]))
  /** Where props are at the playhead. */
  const inTake = computed<ReadonlyMap<string, DrawnPlace>>(() => {
    const answer = derived.performed?.answer
    const frames = answer?.take.frames ?? 0
    const f = Math.min(frames - 1, Math.max(0, player.time * (answer?.take.fps ?? 30)))
    const a = Math.floor(f),
      b = Math.min(frames - 1, a + 1)
    return new Map(
      (answer?.courses ?? []).map(c => {
        return [c.prop, between(courseAt(c, a), courseAt(c, b), f - a)] as const
      }),
    )
  })

  /** What the figure carries in a frame of the take in play; what lies still on the ground weighs on nobody. */
  function loadsAt(frame: number): Load[] {
    return (derived.performed?.answer.courses ?? []).flatMap(c => {
      const own = known.value.find(k => k.prop.id === c.prop)
      if (!own) return []
      const key = keysOf(c.prop)
        .filter(k => player.toTake(k.at) * player.fps <= frame + 0.5)
        .at(-1)
      if ((key ?? own.prop.carry).by === GROUND) return []
      return [{ mass: own.thing.mass, place: pointIn(courseAt(c, frame), own.thing.middle) }]
    })
  }

  // --- settling ---
  const keepList = (name: string, next: readonly Prop[], joins = false): void =>
    project.change(
      name,
      { ...project.recipe, props: next.length > 0 ? [...next] : undefined } as typeof project.recipe,
      joins,
    )
  function change(name: string, id: string, next: Partial<Prop>, joins = false): void {
    const made = list.value.map(p => (p.id === id ? without({ ...p, ...next }) : p))
    keepList(name, made, joins)
  }
  /**
   * Takes a file in as a prop: into the first hand that is free, else on the hips.
   * @param carry how it is carried  @param inTakes how in takes of these names, where nothing is told of it yet
   */
  function adopt(
    file: FileRef,
    beside: readonly FileRef[],
    name: string,
    carry?: Carry,
    inTakes: Readonly<Record<string, Carry>> = {},
  ): void {
    const s = derived.skeleton
    const has = (by: string): boolean =>
      by === GROUND || (s !== undefined && (joints.value[by] ?? findJoint(s, by)) >= 0)
    const taken = new Set(list.value.map(p => p.carry.by))
    const free = ['rightHand', 'leftHand', 'hips'].find(by => has(by) && !taken.has(by)) ?? GROUND
    const made: Prop = {
      id: crypto.randomUUID(),
      name: freshLabel(
        name,
        list.value.map(p => ({ label: p.name })),
      ),
      file,
      beside: [...beside],
      carry: carry && has(carry.by) ? carry : { by: free, ...(free.endsWith('Hand') && { grip: 'middle' }) },
    }
    chosen.value = made.id
    const { recipe } = project
    project.change(`Bring in ${made.name}`, {
      ...recipe,
      props: [...list.value, made],
      takes: recipe.takes.map(t => {
        const own = inTakes[t.name]
        return own && has(own.by) ? { ...t, props: [...(t.props ?? []), { ...own, prop: made.id, at: 0 }] } : t
      }),
    })
  }
  function remove(id: string): void {
    const gone = list.value.find(p => p.id === id)
    const without = (keys: readonly PropKey[] | undefined): PropKey[] | undefined => {
      const left = keys?.filter(k => k.prop !== id)
      return left?.length ? left : undefined
    }
    const { props: _, ownProps, ...recipe } = project.recipe
    const left = list.value.filter(p => p.id !== id)
    const own = Object.entries(ownProps ?? {}).flatMap(([take, keys]) => {
      const kept = without(keys)
      return kept ? [[take, kept] as const] : []
    })
    project.change(`Remove ${gone?.name ?? 'a prop'}`, {
      ...recipe,
      takes: recipe.takes.map(t => {
        if (!t.props?.some(k => k.prop === id)) return t
        const { props: keys, ...others } = t
        const kept = without(keys)
        return kept ? { ...others, props: kept } : others
      }),
      ...(left.length > 0 && { props: left }),
      ...(own.length > 0 && { ownProps: Object.fromEntries(own) }),
    })
  }
  const setCarry = (name: string, carry: Carry, joins = false): void => {
    if (prop.value) change(name, prop.value.id, { carry }, joins)
  }
  /** Places of the prop that differ from those of its file, with one changed or added. */
  function setPlace(name: string, place: PropPlace, joins = false): void {
    if (!prop.value) return
    const own = prop.value.places ?? []
    const places = own.some(p => p.id === place.id) ? own.map(p => (p.id === place.id ? place : p)) : [...own, place]
    change(name, prop.value.id, { places }, joins)
  }
  function removePlace(id: string): void {
    if (!prop.value) return
    change('Remove a place', prop.value.id, { places: (prop.value.places ?? []).filter(p => p.id !== id) })
  }

  // --- words ---
  const hands = computed(() => derived.props?.hands.map(h => h.ref) ?? [])
  const nameOf = (by: string): string => {
    const s = derived.skeleton
    if (by === GROUND) return 'Ground'
    const j = joints.value[by] ?? -1
    return j >= 0 ? roleLabel(by) : (s?.names.find((_, k) => jointRef(s, k) === by) ?? by)
  }
  /** Everything that can carry something: hands first. */
  const carriers = computed(() => {
    const s = derived.skeleton
    const all = s ? s.names.map((_, j) => jointRef(s, j)) : []
    return [...hands.value, GROUND, ...all.filter(r => !hands.value.includes(r))].map(by => ({ by, label: nameOf(by) }))
  })

  // --- dragging ---
  let from: { world: WorldPose; place: Rigid; grab: Vec3; known: KnownProp } | undefined
  function begin(pose: FigurePose, place: DrawnPlace, grab: Vec3): boolean {
    const s = derived.skeleton
    const own = known.value.find(k => k.prop.id === prop.value?.id)
    if (!s || !own) return false
    from = {
      world: worldPose(s, pose.translations, pose.rotations),
      place: { at: [...place.at], turn: [...place.turn] },
      grab,
      known: own,
    }
    return true
  }
  function dragTo(to: Vec3): void {
    if (!from || !on.value) return
    const { place, grab, world, known: own } = from
    const about = own.thing.places.find(p => p.id === pivot.value) ?? own.thing.places[0]
    const next =
      way.value === 'turn' && about
        ? turnedTowards(place, pointIn(place, about.at), grab, to)
        : { at: place.at.map((v, k) => v + to[k]! - grab[k]!) as Vec3, turn: place.turn }
    draft.value = on.value.carryAt(own, own.prop.carry, world, next)
  }
  function end(): void {
    const made = draft.value
    draft.value = undefined
    if (from && made) setCarry(`${way.value === 'turn' ? 'Turn' : 'Move'} ${prop.value?.name}`, made)
    from = undefined
  }
  function cancel(): void {
    from = undefined
    draft.value = undefined
  }

  // --- in the take ---
  const mirrored = computed(() => !derived.ownShown && adjust.value.mirror)
  /** Keys are kept of the recording's sides and shown of the figure's. */
  const turned = (list: readonly PropKey[]): readonly PropKey[] => (mirrored.value ? list.map(mirroredCarry) : list)
  const keys = computed<readonly PropKey[]>(() => turned(toldOf('props') ?? []))
  /** How a prop is carried before its first key: a mirrored take shows the other side. */
  const carriedFirst = computed<Carry | undefined>(
    () => prop.value && (mirrored.value ? mirroredCarry(prop.value.carry) : prop.value.carry),
  )
  const keysOf = (id: string | undefined): readonly PropKey[] => keys.value.filter(k => k.prop === id)
  const own = computed(() => keysOf(prop.value?.id))
  /** Seconds of the recording at the playhead. */
  const at = computed(() => Math.max(0, player.toRecording(player.frame / player.fps)))
  /** The key that tells how the prop is carried at the playhead; none where it is as at rest. */
  const keyNow = computed(() => own.value.filter(k => k.at <= at.value + 5e-4).at(-1))
  function keepKeys(name: string, next: readonly PropKey[]): void {
    tell(name, 'props', [...turned(next)])
  }
  function carryFromHere(carry: Carry, more: Partial<PropKey> = {}): void {
    if (!prop.value) return
    const key: PropKey = { ...carry, ...more, prop: prop.value.id, at: at.value }
    keepKeys(`${prop.value.name}: ${nameOf(carry.by)} from here`, withPropKey(keys.value, key))
  }
  function changeKey(key: PropKey, next: Partial<PropKey>): void {
    keepKeys(
      `Change how ${prop.value?.name} is carried`,
      keys.value.map(k => (k === key ? without({ ...k, ...next }) : k)),
    )
  }
  function removeKey(key: PropKey): void {
    keepKeys(
      `Remove a change of ${prop.value?.name}`,
      keys.value.filter(k => k !== key),
    )
  }
  /** How far a hand is from the place it should hold, at the playhead and at its worst, metres. */
  const offNow = computed(() => {
    const course = derived.performed?.answer.courses?.find(c => c.prop === prop.value?.id)
    if (!course) return { now: 0, most: 0 }
    return {
      now: course.off[Math.min(course.off.length - 1, player.frame)] ?? 0,
      most: course.off.reduce((a, b) => Math.max(a, b), 0),
    }
  })

  return {
    list,
    prop,
    chosen,
    thing,
    known,
    on,
    inPose,
    drawnAt,
    inTake,
    loadsAt,
    adopt,
    change,
    remove,
    setCarry,
    setPlace,
    removePlace,
    hands,
    carriers,
    nameOf,
    carriedFirst,
    lost,
    way,
    pivot,
    marking,
    draft,
    begin,
    dragTo,
    end,
    cancel,
    own,
    keyNow,
    at,
    carryFromHere,
    changeKey,
    removeKey,
    offNow,
  }
})

/** Turned about a point as far as the pointer went around it. */
function turnedTowards(place: Rigid, about: Vec3, grab: Vec3, to: Vec3): Rigid {
  const [a, b] = [sub(grab, about), sub(to, about)]
  if (length(a) < 1e-4 || length(b) < 1e-4) return place
  return turnedAbout(place, about, fromTo(normalize(a), normalize(b)))
}

/** Without what is told to be left out. */
function without<T extends object>(told: T): T {
  return Object.fromEntries(Object.entries(told).filter(([, v]) => v !== undefined)) as T
}
