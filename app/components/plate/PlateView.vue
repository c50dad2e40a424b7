<script setup lang="ts">
import { capital } from '@chiraxis/core/words'
import { landmarkKind, type Landmark } from '@chiraxis/core/landmarks'
import { atBind, childrenOf, findJoint, jointSide, readBends, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { roleLabel, isFinger } from '@chiraxis/core/body'
import { sampleTake } from '@chiraxis/core/motion'
import { AXIS_VECTORS, quatAt, rotate, vec3At, type Vec3 } from '@chiraxis/core/math'
import { settleNormalMaps } from '@chiraxis/core/mesh'
import { colorOfSide, type Dot, type Line, type Mark, type Overlay } from './overlay'
import { type Placed, Stage } from '~/stage/stage'
import { useMousePressed } from '@vueuse/core'
import { layoutCallouts, layoutWide, type CalloutItem } from '~/composables/callouts'
import { placeViews, VIEW_NAMES } from './views'

const view = useView()
const derived = useDerived()
const face = useFace()
const player = usePlayer()
const drag = useLandmarkDrag()
const joints = useJointEdit()
const chosen = useChosen()
const draw = useChainDraw()
const posing = usePosing()
const { preview: layered } = useLayerDrag()
const carried = useProps()
const { propPlaces } = useHandlePose()
const project = useProject()
const { piece: pieceOf } = usePieces()
const brush = useWeightBrush()
const correctives = useCorrectives()
const skinHeat = useSkinHeat()
const trial = useTrial()
const crowd = useCrowd()
const walk = useWalk()
// looked at only while somebody is led
usePad().pause()
const { colors: jointColors } = useJointColors()

const host = ref<HTMLDivElement>()
const canvas = ref<HTMLCanvasElement>()
const surface = ref<HTMLDivElement>()
// watched as `() => stage.value`: a shallow ref among the sources of a watch would run it at every change of any other
const stage = shallowRef<Stage>()
const version = ref(0)
const size = reactive({ width: 0, height: 0 })
const failed = ref('')

const panes = usePanes()
const placed = computed<Placed[]>(() => placeViews(view.mainView, size.width, size.height, panes.value.sides))
const main = computed(() => placed.value[0]!)

onMounted(() => {
  try {
    stage.value = new Stage(canvas.value!)
  } catch {
    failed.value = 'The browser offers no 3D drawing here (WebGL 2 is needed). Everything else still works.'
    return
  }
  stage.value.listenOn(surface.value!)
  stage.value.onDrawn(() => {
    version.value++
  })
  const observer = new ResizeObserver(() => {
    size.width = host.value?.clientWidth ?? 0
    size.height = host.value?.clientHeight ?? 0
  })
  observer.observe(host.value!)
  onBeforeUnmount(() => {
    observer.disconnect()
    stage.value?.dispose()
  })
})

watch([placed, () => stage.value], () => {
  if (size.width > 0) stage.value?.setLayout(placed.value, size.width, size.height)
})
/** What moves or is moved is followed whatever else is being worked out. */
const { pressed } = useMousePressed()
const isUnfinished = computed(
  () => derived.busy && !pressed.value && !player.playing && !view.playingPoses && view.phase !== 'trial',
)
watch([() => stage.value, isUnfinished], () => stage.value?.setUnfinished(isUnfinished.value), { immediate: true })
/** Who stands in for the figure in a trial. */
const guest = computed(() => (view.step === 'walkabout' || view.step === 'states' ? trial.guest.value : undefined))
/** The light body, where it stands in for the body it was made from. */
const light = useLight()
watch(light.wanted, on => void derived.look('light', on), { immediate: true })
watch([() => stage.value, light.onStage, () => view.step], () => {
  const here = view.step === 'light' ? light.onStage.value : undefined
  stage.value?.setWires(here?.figure.mesh.positions, here?.edges)
})
watch([() => stage.value, light.marked], () => stage.value?.markWires(light.marked.value))
const roughen = useRoughBody(stage)
watch([() => stage.value, () => derived.shape?.mesh, () => project.recipe.normalMaps, guest, light.onStage], () => {
  if (light.onStage.value && !guest.value) {
    stage.value?.setBody(light.onStage.value.figure.mesh, derived.shape?.materials, derived.shape?.images)
    void roughen(light.onStage.value.figure.mesh)
    stage.value?.setHidden(hidden.value)
    dress()
    return
  }
  const s = guest.value ?? derived.shape
  void roughen(s?.mesh)
  stage.value?.setBody(s?.mesh, s && settleNormalMaps(s.materials, project.recipe.normalMaps), s?.images)
  stage.value?.setHidden(hidden.value)
  dress()
})
/** Pieces that are not drawn: hidden ones, and in Shape all others beside an isolated one. */
const hidden = computed<ReadonlySet<string>>(() => {
  const names = derived.shape?.mesh.parts.map(p => p.name) ?? []
  if (view.step === 'light' && light.onStage.value && !light.dressed.value)
    return new Set(light.onStage.value.figure.mesh.parts.filter(p => !p.paired).map(p => p.name))
  const alone = view.step === 'pieces' && view.isolated && view.piece && names.includes(view.piece)
  return new Set(names.filter(n => (alone ? n !== view.piece : pieceOf(n)?.hidden)))
})
watch(hidden, names => stage.value?.setHidden(names))
watch([() => stage.value, () => derived.skin], () => {
  if (!brush.isPainting()) dress()
})
/** Binds the body as it is shown: a skin is drawn on the skeleton it was made for. */
function dress(): void {
  if (guest.value) stage.value?.setSkin(toRaw(guest.value.skeleton), guest.value.skin)
  else if (light.onStage.value) stage.value?.setSkin(derived.skeleton, light.onStage.value.figure.skin)
  else stage.value?.setSkin(derived.skin ? derived.skeleton : undefined, derived.skin)
  bringShapes()
  bringFace()
  pose()
}
const inMotion = computed(() => view.phase === 'motion')
const NO_PROPS: typeof propPlaces.value = new Map()
watch([() => stage.value, () => derived.props], () => {
  stage.value?.setProps((derived.props?.list ?? []).map(p => ({ ...p, mesh: p.thing.mesh })))
  placeProps()
})
/** What the figure carries is drawn where the figure works. */
const propsNow = computed(() =>
  view.phase === 'handles' ? propPlaces.value : inMotion.value && !view.resting ? carried.inTake.value : NO_PROPS,
)
const placeProps = (): void => stage.value?.placeProps(propsNow.value)
watch(propsNow, placeProps)
watch(
  [() => stage.value, () => view.step, () => view.seeThrough],
  () => {
    const through = ['skeleton', 'landmarks', 'hands', 'axes', 'names', 'rest'].includes(view.step)
    stage.value?.setOpacity(through && view.seeThrough ? 0.55 : 1)
  },
  { immediate: true },
)
watch(
  [
    () => stage.value,
    () => view.step,
    skinHeat.heat,
    jointColors,
    () => view.sidesShown,
    () => derived.asymmetry,
    () => derived.shape?.mesh,
    light.heat,
    light.onStage,
  ],
  () => {
    if (brush.isPainting()) return
    if (light.onStage.value) return stage.value?.setHeat(light.heat.value)
    if (jointColors.value) return stage.value?.setColors(jointColors.value)
    const sides = view.step === 'check' && view.sidesShown ? derived.asymmetry : undefined
    const most = SIDES_SCALE * height.value
    const heat = skinHeat.heat.value
    stage.value?.setHeat(
      heat ??
        (sides && sides.deviation.length * 3 === derived.shape?.mesh.positions.length
          ? sides.deviation.map(d => d / most)
          : undefined),
    )
  },
)
/** What the views are brought near to: a hand with some room around it, or what a corrective is about. */
const closeUp = computed(() => {
  if (view.step === 'skin' && view.skinMode === 'correct') return nearCorrective()
  if (view.phase === 'trial') return onTrial()
  if (view.step === 'face') return nearFace()
  if (view.step !== 'hands') return undefined
  const own = landmarks.value.filter(
    l => l.id.startsWith(view.hand) && (l.id.endsWith('Wrist') || l.id.endsWith('HandTip') || isFinger(l.id)),
  )
  if (own.length < 2) return undefined
  const min: [number, number, number] = [Infinity, Infinity, Infinity],
    max: [number, number, number] = [-Infinity, -Infinity, -Infinity]
  for (const l of own)
    for (const k of [0, 1, 2] as const) {
      min[k] = Math.min(min[k], l.position[k])
      max[k] = Math.max(max[k], l.position[k])
    }
  const pad = 0.016 * height.value
  return {
    min: min.map(v => v - pad) as [number, number, number],
    max: max.map(v => v + pad) as [number, number, number],
  }
})
/** Ground enough around the figure to see where it is led; of a crowd most of its place. */
function onTrial(): { min: Vec3; max: Vec3 } | undefined {
  const many = crowd.drawn.value.length > 0
  if (!many && !walk.ready.value) return undefined
  const { min, max } = stage.value?.bodyExtent ?? { min: [0, 0, 0], max: [0, 0, 0] }
  const long = max[2]! - min[2]!
  const half = many ? 0.4 * crowd.settings.value.across : Math.max(0.62 * height.value, 0.8 * long)
  return { min: [-half, 0, -half], max: [half, 1.06 * height.value, half] }
}
function nearCorrective(): { min: Vec3; max: Vec3 } | undefined {
  const s = derived.skeleton
  const turns = correctives.current.value?.turns
  if (!s || turns?.length !== 1) return undefined
  const j = findJoint(s, turns[0]!.joint)
  if (j < 0) return undefined
  const at = vec3At(worldPose(atBind(s)).positions, j)
  const r = 0.13 * height.value
  return { min: [at[0] - r, at[1] - r, at[2] - r], max: [at[0] + r, at[1] + r, at[2] + r] }
}
watch([() => stage.value, closeUp], () => {
  if (!isDragging()) stage.value?.setCloseUp(closeUp.value)
})
/** The head, with some room around it. */
function nearFace(): { min: Vec3; max: Vec3 } | undefined {
  const { centre: c, reach: r } = face.around.value ?? {}
  if (!c || !r) return undefined
  return { min: [c[0] - 0.8 * r, c[1] - r, c[2] - 0.8 * r], max: [c[0] + 0.8 * r, c[1] + r, c[2] + 0.8 * r] }
}
/** Where the hips at rest are, which the picture is framed on. */
const hipsAtRest = computed<Vec3>(() => {
  const s = derived.skeleton
  return s ? vec3At(worldPose(s).positions, Math.max(0, s.roles.indexOf('hips'))) : [0, 0, 0]
})
/** The ground the whole take goes over, where all of it is to be seen. */
const wayBox = computed(() => {
  const path = view.step === 'ground' && view.wholeWay ? derived.performed?.answer.travelled.path : undefined
  if (!path || path.across.length === 0) return undefined
  const [x, , z] = hipsAtRest.value
  const room = 0.3 * height.value
  const [xs, zs] = [path.across.map(v => v + x), path.ahead.map(v => v + z)]
  const span = (list: Float64Array): [number, number] => [
    list.reduce((m, v) => Math.min(m, v), Infinity) - room,
    list.reduce((m, v) => Math.max(m, v), -Infinity) + room,
  ]
  return { x: span(xs), z: span(zs) }
})
const middleOf = ([a, b]: readonly [number, number]): number => (a + b) / 2
const travel = useTravel()
/** How far the figure has gone from where it rests. Who climbs is followed upwards; a hop is not. */
const goneTo = (hips: Vec3): Vec3 =>
  wayBox.value
    ? [middleOf(wayBox.value.x), 0, middleOf(wayBox.value.z)]
    : [
        hips[0] - hipsAtRest.value[0],
        travel.settings.value.floor
          ? travel.followedAt(hips[0], hips[2])
          : Math.max(0, hips[1] - 0.25 * height.value - Math.max(hipsAtRest.value[1], 0.5 * height.value)),
        hips[2] - hipsAtRest.value[2],
      ]
/** A hand of the moving figure, followed through the take. */
watch(
  [() => stage.value, () => view.lookAt, () => view.step, inMotion, () => player.time, () => derived.performed, wayBox],
  () => {
    if (!inMotion.value) {
      if (!isDragging()) stage.value?.setCloseUp(closeUp.value)
      return
    }
    const speaking = view.step === 'voice'
    const near = speaking ? 'head' : view.lookAt === 'whole' || view.resting ? '' : `${view.lookAt}Hand`
    const j = near ? (derived.skeleton?.roles.indexOf(near) ?? -1) : -1
    const joint = jointPlaces.value[j]
    // a face lies above the joint the head turns about
    const at: Vec3 | undefined = joint && speaking ? [joint[0], joint[1] + 0.03 * height.value, joint[2]] : joint
    const hips = jointPlaces.value[derived.skeleton?.roles.indexOf('hips') ?? 0]
    const r = (speaking ? 0.11 : 0.09) * height.value
    const [x, y, z] = hips ? goneTo(hips) : [0, 0, 0]
    const way = wayBox.value
    if (way)
      return stage.value?.setCloseUp({
        min: [way.x[0] - x, 0, way.z[0] - z],
        max: [way.x[1] - x, height.value, way.z[1] - z],
      })
    stage.value?.setCloseUp(
      at && hips
        ? { min: [at[0] - x - r, at[1] - y - r, at[2] - z - r], max: [at[0] - x + r, at[1] - y + r, at[2] - z + r] }
        : undefined,
    )
  },
  { flush: 'post' },
)
const beside = computed(() =>
  inMotion.value && derived.performed && !derived.ownShown && view.step !== 'voice' && view.performerShown === 'beside'
    ? (derived.shape?.straightened.height ?? 1.7) * (view.fourLegs ? 0.85 : view.resting ? 1.02 : 0.62)
    : 0,
)
const walking = computed(() => view.step === 'walkabout' || view.step === 'states')
watch([() => stage.value, inMotion, () => view.resting, walking], () =>
  stage.value?.setMoving((inMotion.value && !view.resting) || walking.value),
)
watch([() => stage.value, beside], () => stage.value?.setRoom(beside.value))

const skeleton = computed<Skeleton | undefined>(
  () => drag.draftSkeleton.value ?? joints.draft.value ?? derived.skeleton,
)
const { buffer, posed, jointPlaces, performerPlaces } = usePoses(skeleton, inMotion, beside, version)

/** What is under the figure, or under a crowd. */
const ground = computed(() => {
  if (crowd.drawn.value.length > 0) {
    const half = 0.6 * crowd.settings.value.across
    return [{ surface: 'stone', x: [-half, half], z: [-half, half], height: 0 }] as const
  }
  return walking.value && walk.ready.value ? trial.floorDrawn.value : undefined
})
watch(
  [() => stage.value, ground],
  () => {
    stage.value?.setFloor(ground.value)
    // ground is seen from higher up
    if (ground.value) stage.value?.lookFrom(0.5, crowd.drawn.value.length > 0 ? 0.42 : 0.3)
  },
  { flush: 'post' },
)
useCrowdPictures(stage)
watch([() => stage.value, crowd.drawn], () => {
  if (stage.value) crowd.soft.value = stage.value.isSoft
  stage.value?.setCrowd(crowd.drawn.value)
  if (crowd.frame.value) stage.value?.poseCrowd(crowd.frame.value.joints, crowd.frame.value.matrices, crowd.shown.value)
})
watch(crowd.frame, f => {
  if (f) stage.value?.poseCrowd(f.joints, f.matrices, crowd.shown.value)
})
let around = 0
/** Where the eye is while the figure is led. */
function look(heading: number): void {
  const eye = walk.eye.value
  if (eye === 'still') return
  if (eye === 'around') around += 0.01
  stage.value?.lookFrom(eye === 'behind' ? heading + Math.PI : eye === 'beside' ? heading + Math.PI / 2 : around, 0.2)
}
/** Poses the body: in Motion by the take at the playhead, elsewhere at rest. */
function pose(): void {
  const skeleton = guest.value?.skeleton ?? derived.skeleton
  if (!stage.value || !skeleton) return
  const take = inMotion.value && !view.resting ? derived.performed?.answer.take : undefined
  if (take && take.rotations.length === 4 * skeleton.names.length * take.frames) {
    sampleTake(take, player.time, buffer.value)
    const dragged = layered.value
    if (dragged && dragged.rotations.length === buffer.value.rotations.length) {
      buffer.value.rotations.set(dragged.rotations)
      buffer.value.translations.set(dragged.translations)
    }
    stage.value.setPose(buffer.value.translations, buffer.value.rotations, 0)
    const hips = skeleton.roles.indexOf('hips')
    const at = vec3At(
      worldPose(skeleton, buffer.value.translations, buffer.value.rotations).positions,
      Math.max(0, hips),
    )
    const [x, y, z] = goneTo(at)
    const stands = wayBox.value ? ([at[0] - hipsAtRest.value[0], at[2] - hipsAtRest.value[2]] as const) : undefined
    stage.value.setFocus(x, z, y, stands)
  } else if (walking.value && walk.now.value) {
    const { rotations, translations, place, height: on, heading } = walk.now.value
    stage.value.setPose(translations, rotations, 0)
    stage.value.setFocus(place[0], place[1], on, place, on)
    look(heading)
  } else if (posed.value) {
    stage.value.setPose(posed.value.translations, posed.value.rotations, 0)
    stage.value.setFocus(0, 0)
  } else {
    const still = view.step === 'skeleton' ? atBind(skeleton) : skeleton
    stage.value.setPose(still.restTranslations, still.restRotations, 0)
    stage.value.setFocus(0, 0)
  }
}
watch(
  [() => stage.value, () => player.time, () => view.step, () => derived.performed, posed, layered, wayBox, walk.now],
  pose,
)
const { shapeNow, bringShapes } = useShownShape(stage, posed)
const { bringFace } = useShownFace(stage)
const painter = useSurfacePointer({
  stage,
  placed,
  host,
  shapeNow,
  posed,
})

// --- what is drawn over the picture ---
const landmarks = computed<readonly Landmark[]>(() => drag.draft.value ?? derived.landmarks ?? [])
const markStep = computed(() => view.step === 'landmarks' || view.step === 'hands')
const jointStep = computed(() => ['skeleton', 'axes', 'names', 'rest', 'skin'].includes(view.step))
const SIDES_SCALE = 0.02

const showBones = computed(
  () => (view.phase === 'bones' && view.step !== 'face') || (inMotion.value && (view.bonesInMotion || view.resting)),
)
function bonesIn(p: Placed): Line[] {
  const s = skeleton.value
  if (!s || !stage.value || !showBones.value) return []
  return [...s.parents].flatMap((parent, j) => {
    // fingers are too small to tell apart but in their close-up, and every line costs while a mark is dragged
    if (parent < 0 || (view.step === 'landmarks' && isFinger(s.roles[j] ?? ''))) return []
    const a = stage.value!.project(p, jointPlaces.value[parent]!)
    const b = stage.value!.project(p, jointPlaces.value[j]!)
    return [
      {
        x1: a.x,
        y1: a.y,
        x2: b.x,
        y2: b.y,
        chosen: !markStep.value && (parent === derived.joint || chosen.isAlso(parent)),
      },
    ]
  })
}

function performerIn(p: Placed): Overlay['performer'] {
  const performer = performerPlaces.value
  // a sheet is too narrow for two side by side
  if (!performer || !stage.value || (!p.main && beside.value > 0)) return []
  return performer.parents.flatMap((parent, j) => {
    if (parent < 0) return []
    const a = stage.value!.project(p, performer.places[parent]!)
    const b = stage.value!.project(p, performer.places[j]!)
    return [
      { x1: a.x, y1: a.y, x2: b.x, y2: b.y, small: performer.small[j] ?? false, side: performer.sides[j] ?? 'middle' },
    ]
  })
}

/** Who performs, told above the highest place of who stands beside the figure. */
function performerName(p: Placed): Overlay['performerName'] {
  const performer = performerPlaces.value
  const text = beside.value > 0 ? project.recipe.takes.find(t => t.id === derived.wantedTake)?.performer : undefined
  if (!performer || !text || !stage.value) return undefined
  const top = performer.places.reduce((a, b) => (b[1] > a[1] ? b : a))
  return { text, ...stage.value.project(p, top) }
}

const marks = computed<Mark[]>(() => {
  if (markStep.value) {
    const wanted = (id: string): boolean =>
      view.step === 'hands' ? id.startsWith(view.hand) && (isFinger(id) || /Wrist$/.test(id)) : !isFinger(id)
    return landmarks.value
      .filter(l => landmarkKind(l.id) && wanted(l.id))
      .map(l => {
        const kind = landmarkKind(l.id)!
        return {
          id: l.id,
          label: kind.label,
          value: l.confidence >= 1 ? 'by hand' : l.confidence.toFixed(2),
          side: kind.side,
          place: l.position,
          chosen: l.id === view.landmark,
          unsure: l.confidence < 0.6,
        }
      })
  }
  const s = skeleton.value
  if (jointStep.value && s) {
    const own = s.names.map((name, j) => ({
      id: String(j),
      label: s.roles[j] ? roleLabel(s.roles[j]!) : name,
      side: jointSide(s, j),
      place: jointPlaces.value[j]!,
      chosen: j === derived.joint,
      also: chosen.isAlso(j),
      unsure: false,
    }))
    return view.step === 'rest' ? [...own, ...endMarks(s)] : own
  }
  return []
})
/** Ends of bones that lead to no other joint, to be pulled in a pose. */
function endMarks(s: Skeleton): Mark[] {
  if (!s.tips) return []
  const children = childrenOf(s)
  const w = worldPose(s, s.restTranslations, posing.rotations.value ?? s.restRotations)
  return s.names.flatMap((_, j): Mark[] => {
    const tip = vec3At(s.tips!, j)
    if (children[j]!.length > 0 || Math.hypot(...tip) < 1e-6) return []
    const at = vec3At(w.positions, j)
    const d = rotate(quatAt(w.rotations, j), tip)
    const place: Vec3 = [at[0] + d[0], at[1] + d[1], at[2] + d[2]]
    return [{ id: `end ${j}`, label: '', side: jointSide(s, j), place, chosen: false, unsure: true, end: true }]
  })
}
/** Where the skin itself is worked on or judged, only the chosen joint is marked. */
const quietBones = computed(() => view.step === 'skin' && view.skinMode !== 'automatic')
const overlays = computed(() => {
  void version.value
  if (!stage.value) return []
  return placed.value.map(p => ({
    placed: p,
    bones: quietBones.value ? [] : bonesIn(p),
    performer: performerIn(p),
    performerName: p.main ? performerName(p) : undefined,
    // what is nearer lies on top and is taken first; the chosen one before all
    dots: marks.value
      .filter(m => m.chosen || !quietBones.value)
      .map((m): Dot => ({ ...m, ...stage.value!.project(p, m.place) }))
      .sort((a, b) => Number(a.chosen) - Number(b.chosen) || b.depth - a.depth),
  }))
})
/** Where a body nobody has a plan of has no parts to name, the first joint of every chain stands for it. */
const heads = computed<ReadonlySet<number>>(() => {
  const s = skeleton.value
  if (!s || s.roles.some(r => r)) return new Set()
  const children = childrenOf(s)
  return new Set([...s.parents].flatMap((p, j) => (p < 0 || children[p]!.length > 1 ? [j] : [])))
})
/** Whether arms stand out from the body; labels of hanging ones lie in the columns beside it. */
const armsOut = computed(() => {
  if (view.step === 'hands') return true
  if (main.value.view === 'side') return markStep.value
  const s = skeleton.value
  const [a, b] = markStep.value
    ? ['leftShoulder', 'leftWrist'].map(id => landmarks.value.find(l => l.id === id)?.position)
    : ['leftUpperArm', 'leftHand'].map(r => jointPlaces.value[s?.roles.indexOf(r) ?? -1])
  return !a || !b || Math.abs(b[0] - a[0]) > 0.13 * height.value
})
const callouts = computed(() => {
  const dots = overlays.value[0]?.dots ?? []
  const role = (id: string): string => (markStep.value ? id : (skeleton.value?.roles[Number(id)] ?? ''))
  if (draw.drawing.value) return []
  // the call-outs of a whole body leave fingers and extra joints to the ledger, unless one is chosen
  const minor = (d: Dot): boolean =>
    jointStep.value && !d.chosen && (role(d.id) ? isFinger(role(d.id)) : !heads.value.has(Number(d.id)))
  const shown = (
    quietBones.value
      ? []
      : // too narrow for names beside the figure
        view.step === 'skin' || main.value.rect.width < 440
        ? dots.filter(d => d.chosen)
        : view.step === 'axes'
          ? dots.filter(d => d.chosen || bendText.value.has(role(d.id)))
          : view.step === 'hands'
            ? dots.filter(d => d.chosen || /(Tip|Wrist)$/.test(d.id))
            : dots.filter(d => !minor(d) && !d.end)
  ).slice(0, 44)
  const reaching =
    view.step === 'hands' || derived.plan === 'fourleg' ? /^$/ : /Shoulder|Elbow|Wrist|HandTip|UpperArm|LowerArm|Hand$/
  // from the side the far limbs lie behind the near ones and need no second label
  const near = main.value.view === 'side' && view.fourLegs ? shown.filter(d => d.chosen || d.side !== 'right') : shown
  const items: CalloutItem[] = near.map(d => ({
    id: d.id,
    label: short(d.label),
    value: bendText.value.get(role(d.id)) ?? (view.step === 'hands' && !d.unsure && !d.chosen ? undefined : d.value),
    side: d.side,
    x: d.x,
    y: d.y,
    reaches: armsOut.value && reaching.test(role(d.id)) && (markStep.value || !/Shoulder$/.test(role(d.id))),
  }))
  const r = main.value.rect
  const frame = {
    left: r.x + (view.step === 'axes' ? 246 : 204),
    right: r.x + r.width - (view.fourLegs ? 176 : 142),
    top: r.y + 22,
    bottom: r.y + r.height - 22,
    outerLeft: r.x + 76,
    outerRight: r.x + r.width - 6,
  }
  const wide = main.value.view === 'side' && view.fourLegs
  return (wide ? layoutWide(items, { ...frame, outerRight: r.x + r.width - 8 }) : layoutCallouts(items, frame)).map(
    c => {
      const own = shown.find(d => d.id === c.id)!
      let d = ''
      for (let i = 0; i < c.leader.length; i += 2)
        d += `${i === 0 ? 'M' : 'L'}${c.leader[i]!.toFixed(1)} ${c.leader[i + 1]!.toFixed(1)}`
      return { ...c, chosen: own.chosen, unsure: own.unsure, d }
    },
  )
})

/** In the close-up of a hand the side goes without saying. */
const short = (label: string): string => {
  if (view.step !== 'hands') return label
  const bare = label.replace(/^(Left|Right) /, '').replace(/ tip$/, '')
  return capital(bare)
}
/** Elbows and knees with their bend at rest, in Axes. */
const bendText = computed(() => {
  const s = view.step === 'axes' ? skeleton.value : undefined
  return new Map(s ? readBends(s).map(b => [b.role, `${((b.bend * 180) / Math.PI).toFixed(1)}°`] as const) : [])
})

watch(
  () => derived.kind === 'fourleg',
  v => view.standOn(v),
  { immediate: true },
)

const height = computed(() => derived.shape?.straightened.height ?? 0)
const head = computed(() => {
  const at = (id: string): number | undefined => landmarks.value.find(l => l.id === id)?.position[1]
  const crown = at('crown'),
    chin = at('chin')
  return crown !== undefined && chin !== undefined ? crown - chin : 0
})
const ticks = computed(() =>
  view.step === 'landmarks' ? marks.value.map(m => ({ id: m.id, y: m.place[1], chosen: m.chosen })) : [],
)

/** Measures told on the plate in Shape: how tall, how wide, which way it looks. */
const measures = computed(() => {
  void version.value
  if (view.phase !== 'shape' || !derived.shape || !stage.value) return []
  const { min, max } = stage.value.bodyExtent
  const p = main.value
  const at = (x: number, y: number, z: number) => stage.value!.project(p, [x, y, z])
  const list = [
    {
      id: 'front',
      text: 'looks this way',
      from: at(0, 0, max[2]),
      to: at(0, 0, max[2] + 0.28 * height.value),
      side: 'middle' as const,
    },
    {
      id: 'left',
      text: 'its left',
      from: at(max[0], (min[1] + max[1]) / 2, 0),
      to: at(max[0] + 0.05 * height.value, (min[1] + max[1]) / 2, 0),
      side: 'left' as const,
    },
    {
      id: 'right',
      text: 'its right',
      from: at(min[0], (min[1] + max[1]) / 2, 0),
      to: at(min[0] - 0.05 * height.value, (min[1] + max[1]) / 2, 0),
      side: 'right' as const,
    },
  ]
  return list.filter(l => Math.hypot(l.to.x - l.from.x, l.to.y - l.from.y) > 8)
})

function choose(id: string, event?: PointerEvent): void {
  if (markStep.value) view.landmark = id
  else if (id.startsWith('end ')) derived.joint = Number(id.slice(4))
  else if (event) chosen.press(Number(id), event)
  else derived.joint = Number(id)
}

const { down, move, up, nudge, pointer, isDragging } = useMarkDrag({
  stage,
  host,
  skeleton,
  landmarks,
  marking: markStep,
  choose,
})
const plateKeys = usePlateKeys({ stage, placed: main, dots: () => overlays.value[0]?.dots ?? [], choose, nudge })
const pen = useChainPointer({ stage, placed, host, height })
function onDown(event: PointerEvent): void {
  painter.down(event)
  pen.down(event)
}
function onMove(event: PointerEvent): void {
  if (!painter.move(event)) move(event)
}
function onUp(event: PointerEvent): void {
  pen.up(event)
  if (!painter.up(event)) up()
}
const chosenSide = computed(
  () =>
    (markStep.value
      ? landmarkKind(view.landmark ?? '')?.side
      : skeleton.value && jointSide(skeleton.value, derived.joint)) ?? 'middle',
)
const chosenPlace = computed(() =>
  markStep.value
    ? landmarks.value.find(l => l.id === view.landmark)?.position
    : skeleton.value && joints.placeOf(skeleton.value, derived.joint),
)

/** Where each knee and elbow hinges by its bend, and by its own axis. */
const hinges = computed(() => {
  void version.value
  const s = skeleton.value
  if (view.step !== 'axes' || !s || !stage.value) return []
  const w = worldPose(s)
  return readBends(s).map(b => {
    const at = vec3At(w.positions, b.joint)
    const line = (d: Vec3, long: number) => {
      const k = long * (height.value || 1.7)
      const a = stage.value!.project(main.value, [at[0] - d[0] * k, at[1] - d[1] * k, at[2] - d[2] * k])
      const c = stage.value!.project(main.value, [at[0] + d[0] * k, at[1] + d[1] * k, at[2] + d[2] * k])
      return `M${a.x.toFixed(1)} ${a.y.toFixed(1)}L${c.x.toFixed(1)} ${c.y.toFixed(1)}`
    }
    return {
      id: b.role,
      bend: line(b.hinge, 0.055),
      own: line(rotate(quatAt(w.rotations, b.joint), AXIS_VECTORS[b.own]), 0.04),
      off: b.off > 0.2,
    }
  })
})
/** Places of findings on the figure. */
const flags = computed(() => {
  void version.value
  if (!stage.value || inMotion.value) return []
  if (!view.findingsOpen) return []
  return derived.findings
    .filter(f => f.place && f.severity !== 'note')
    .slice(0, 30)
    .map((f, i) => ({ id: `${f.rule}${i}`, ...stage.value!.project(main.value, f.place!) }))
})
usePosePictures(stage)
useProjectPicture(stage)
defineExpose({ frame: () => stage.value?.frameAll() })
</script>

<template>
  <div
    ref="host"
    class="figure-ground relative h-full min-w-0 flex-1 select-none overflow-hidden"
    data-testid="plate"
    @pointerdown.capture="onDown"
    @pointermove="onMove"
    @pointerup="onUp"
    @pointercancel="onUp"
    @pointerleave="painter.leave"
  >
    <canvas ref="canvas" class="absolute inset-0 h-full w-full" />
    <div
      ref="surface"
      class="absolute left-0 top-0 h-full cursor-grab touch-none"
      :style="{ width: `${main.rect.width}px` }"
      tabindex="0"
      role="application"
      aria-roledescription="view"
      :aria-label="`Large view, ${VIEW_NAMES[main.view].toLowerCase()}: arrows choose marks, with Shift move them, with Alt turn the view, plus and minus zoom`"
      @keydown="plateKeys"
    />
    <svg
      class="pointer-events-none absolute inset-0 h-full w-full"
      :viewBox="`0 0 ${size.width || 1} ${size.height || 1}`"
      aria-hidden="true"
    >
      <path
        v-for="p in placed.slice(1)"
        :key="p.view"
        :d="`M${p.rect.x} ${p.rect.y}h${p.rect.width}M${p.rect.x} ${p.rect.y}v${p.rect.height}`"
        stroke="var(--on-ground-2)"
        stroke-opacity="0.55"
        fill="none"
      />
      <PlateRuler
        v-if="stage && main.view !== 'top' && height > 0 && view.phase !== 'motion' && !closeUp"
        :stage="stage"
        :placed="main"
        :version="version"
        :height="height"
        :head="head"
        :ticks="ticks"
      />
      <FaultMark v-if="stage && view.step === 'check'" :stage="stage" :placed="main" :version="version" />
      <g v-for="m in measures" :key="m.id">
        <path
          :d="`M${m.from.x} ${m.from.y}L${m.to.x} ${m.to.y}`"
          :stroke="colorOfSide(m.side)"
          stroke-width="1.4"
          stroke-dasharray="5 3"
        />
        <g :transform="`translate(${m.to.x} ${m.to.y})`">
          <SideMark :side="m.side" :size="5" :fill="colorOfSide(m.side)" />
        </g>
        <text
          :x="m.to.x"
          :y="m.to.y + 20"
          text-anchor="middle"
          font-size="13"
          font-weight="500"
          fill="var(--on-ground)"
        >
          {{ m.text }}
        </text>
      </g>
      <OverlayMarks v-if="overlays[0]" :overlay="overlays[0]" :marking="markStep" @press="down" />
      <g v-for="h in hinges" :key="h.id">
        <path :d="h.own" stroke="var(--on-ground)" stroke-width="1" stroke-dasharray="3 3" />
        <path :d="h.bend" :stroke="h.off ? 'var(--g-madder)' : '#f5f1e8'" stroke-width="2.6" stroke-linecap="round" />
      </g>
      <g
        v-for="f in flags"
        :key="f.id"
        :transform="`translate(${f.x} ${f.y})`"
        fill="none"
        stroke="var(--g-madder)"
        stroke-width="1.8"
      >
        <circle r="12" />
        <path d="M0 -12V-22" />
      </g>
      <AxisArms
        v-if="stage && skeleton && (view.step === 'skeleton' || view.step === 'axes')"
        :stage="stage"
        :placed="main"
        :version="version"
        :skeleton="skeleton"
        :places="jointPlaces"
        :height="height"
      />
      <ChainSketch v-if="stage && draw.drawing.value" :stage="stage" :placed="placed" :version="version" />
      <g v-for="c in callouts" :key="c.id" class="pointer-events-auto cursor-pointer" @pointerdown.stop="choose(c.id)">
        <path
          :d="c.d"
          fill="none"
          :stroke="c.chosen ? 'var(--g-madder)' : 'var(--on-ground)'"
          :stroke-width="c.chosen ? 1.5 : 0.8"
          :stroke-opacity="c.chosen ? 1 : 0.5"
          class="pointer-events-none"
        />
        <g :transform="`translate(${c.labelX} ${c.labelY})`">
          <SideMark :side="c.side" :size="3.6" :fill="colorOfSide(c.side)" />
        </g>
        <text
          :x="c.anchor === 'end' ? c.labelX - 9 : c.labelX + 9"
          :y="c.labelY + 4.5"
          :text-anchor="c.anchor"
          font-size="13"
          :font-weight="c.chosen ? 700 : 500"
          :fill="c.chosen ? 'var(--g-madder-words)' : 'var(--on-ground)'"
          :data-callout="c.id"
        >
          {{ c.label }}
          <tspan
            v-if="c.value"
            dx="6"
            class="num"
            font-size="12"
            font-weight="400"
            :fill="c.unsure ? 'var(--g-madder-words)' : 'var(--on-ground-2)'"
          >
            {{ c.value }}
          </tspan>
        </text>
      </g>
    </svg>
    <LazyMotionOverlay
      v-if="inMotion && stage && placed[0]"
      :stage="stage"
      :placed="placed[0]"
      :version="version"
      :joint-places="jointPlaces"
      :performer="performerPlaces"
      :width="size.width"
      :height="size.height"
    />
    <LazyWalkOverlay
      v-if="walking && stage && placed[0]"
      :stage="stage"
      :placed="placed[0]"
      :version="version"
      :width="size.width"
      :height="size.height"
    />
    <LazyFaceOverlay
      v-if="view.step === 'face' && stage && placed[0]"
      :stage="stage"
      :placed="placed[0]"
      :version="version"
      :width="size.width"
      :height="size.height"
    />
    <LazyHandleOverlay
      v-if="view.phase === 'handles' && stage && placed[0]"
      :stage="stage"
      :placed="placed[0]"
      :version="version"
      :width="size.width"
      :height="size.height"
    />
    <LazyPropOverlay
      v-if="view.step === 'props' && stage && placed[0]"
      :stage="stage"
      :placed="placed[0]"
      :version="version"
      :width="size.width"
      :height="size.height"
    />
    <LazyLayerOverlay
      v-if="view.step === 'layer' && stage && placed[0]"
      :stage="stage"
      :placed="placed[0]"
      :version="version"
      :pose="buffer"
      :width="size.width"
      :height="size.height"
    />
    <LazyGroundOverlay
      v-if="view.step === 'ground' && stage && placed[0]"
      :stage="stage"
      :placed="placed[0]"
      :version="version"
      :width="size.width"
      :height="size.height"
    />
    <BrushRing v-if="painter.ring.value" v-bind="painter.ring.value" :width="size.width" :height="size.height" />
    <svg
      v-for="o in overlays.slice(1)"
      :key="o.placed.view"
      class="sheet pointer-events-none absolute"
      :style="{
        left: `${o.placed.rect.x}px`,
        top: `${o.placed.rect.y}px`,
        width: `${o.placed.rect.width}px`,
        height: `${o.placed.rect.height}px`,
      }"
      :viewBox="`${o.placed.rect.x} ${o.placed.rect.y} ${o.placed.rect.width} ${o.placed.rect.height}`"
      aria-hidden="true"
    >
      <OverlayMarks :overlay="o" :marking="markStep" @press="down" />
    </svg>
    <SideViews v-if="size.width > 0" :placed="placed" :width="size.width" />
    <DrawBar />
    <FloatingLens
      v-if="pointer.active"
      :x="pointer.x"
      :y="pointer.y"
      :width="main.rect.width"
      :height="size.height"
      :side="chosenSide"
      :point="chosenPlace"
    />
    <p v-if="failed" class="absolute inset-x-8 top-1/3 text-center text-[15px]" style="color: var(--on-ground)">
      {{ failed }}
    </p>
    <slot />
  </div>
</template>

<style scoped>
.sheet {
  contain: strict;
  overflow: hidden;
}
</style>
