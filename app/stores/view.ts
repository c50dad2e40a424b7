import { defineStore } from 'pinia'
import type { SculptTool } from '@chiraxis/core/corrective'
import type { FaceFaultKind } from '@chiraxis/core/shape'

export const PHASES = [
  {
    id: 'shape',
    label: 'Shape',
    steps: [
      { id: 'straighten', label: 'straighten' },
      { id: 'check', label: 'check' },
      { id: 'pieces', label: 'pieces' },
      { id: 'light', label: 'light' },
    ],
  },
  {
    id: 'bones',
    label: 'Bones',
    steps: [
      { id: 'landmarks', label: 'landmarks' },
      { id: 'hands', label: 'hands' },
      { id: 'skeleton', label: 'skeleton' },
      { id: 'axes', label: 'axes' },
      { id: 'names', label: 'names' },
      { id: 'rest', label: 'rest' },
      { id: 'skin', label: 'skin' },
      { id: 'face', label: 'face' },
    ],
  },
  {
    id: 'handles',
    label: 'Handles',
    steps: [
      { id: 'set', label: 'set' },
      { id: 'pose', label: 'pose' },
      { id: 'mass', label: 'mass' },
      { id: 'props', label: 'props' },
    ],
  },
  {
    id: 'motion',
    label: 'Motion',
    steps: [
      { id: 'takes', label: 'takes' },
      { id: 'map', label: 'map' },
      { id: 'match', label: 'match' },
      { id: 'tune', label: 'tune' },
      { id: 'layer', label: 'layer' },
      { id: 'ground', label: 'ground' },
      { id: 'voice', label: 'voice' },
      { id: 'compare', label: 'compare' },
      { id: 'batch', label: 'batch' },
    ],
  },
  {
    id: 'trial',
    label: 'Trial',
    steps: [
      { id: 'walkabout', label: 'walkabout' },
      { id: 'states', label: 'states' },
      { id: 'crowd', label: 'crowd' },
    ],
  },
  { id: 'delivery', label: 'Delivery', steps: [{ id: 'deliver', label: 'files' }] },
] as const

export type PhaseId = (typeof PHASES)[number]['id']
export type StepId =
  | 'straighten'
  | 'check'
  | 'pieces'
  | 'light'
  | 'landmarks'
  | 'hands'
  | 'skeleton'
  | 'axes'
  | 'names'
  | 'rest'
  | 'skin'
  | 'face'
  | 'set'
  | 'pose'
  | 'mass'
  | 'props'
  | 'takes'
  | 'map'
  | 'match'
  | 'tune'
  | 'layer'
  | 'ground'
  | 'voice'
  | 'compare'
  | 'batch'
  | 'walkabout'
  | 'states'
  | 'crowd'
  | 'deliver'
export type ViewName = 'front' | 'side' | 'top' | 'turn'
export type Theme = 'day' | 'night'
export type SkinMode = 'automatic' | 'repair' | 'correct' | 'check'
/** What points at the body and changes nothing on it: at the joint that holds a place, at the weights there. */
export type PointTool = 'joint' | 'place'
export const isPointing = (tool: BrushSettings['tool']): tool is PointTool => tool === 'joint' || tool === 'place'
export interface BrushSettings {
  tool: 'add' | 'take' | 'replace' | 'smooth' | 'sharpen' | 'fill' | 'mark' | PointTool
  /** Centimetres on the figure. */ radius: number
  strength: number
  value: number
  falloff: number
  through: boolean
}
export interface SculptSettings {
  tool: SculptTool
  /** Centimetres on the figure. */ radius: number
  strength: number
  falloff: number
  through: boolean
}
/** A kind of strain, or the difference to another skin. */
export type StrainView =
  | 'stretch'
  | 'squeeze'
  | 'shear'
  | 'volume'
  | 'before-repair'
  | 'nearest-bone'
  | 'as-received'
  | 'volume-blend'
  | 'weights'

const PHASE_OF: Record<StepId, PhaseId> = {
  straighten: 'shape',
  check: 'shape',
  pieces: 'shape',
  light: 'shape',
  landmarks: 'bones',
  hands: 'bones',
  skeleton: 'bones',
  axes: 'bones',
  names: 'bones',
  rest: 'bones',
  skin: 'bones',
  face: 'bones',
  set: 'handles',
  pose: 'handles',
  mass: 'handles',
  props: 'handles',
  takes: 'motion',
  map: 'motion',
  match: 'motion',
  tune: 'motion',
  layer: 'motion',
  ground: 'motion',
  voice: 'motion',
  compare: 'motion',
  batch: 'motion',
  walkabout: 'trial',
  states: 'trial',
  crowd: 'trial',
  deliver: 'delivery',
}
export const STEP_ORDER: readonly StepId[] = [
  'straighten',
  'check',
  'pieces',
  'light',
  'landmarks',
  'hands',
  'skeleton',
  'axes',
  'names',
  'rest',
  'skin',
  'face',
  'set',
  'pose',
  'mass',
  'props',
  'takes',
  'map',
  'match',
  'tune',
  'layer',
  'ground',
  'voice',
  'compare',
  'batch',
  'walkabout',
  'states',
  'crowd',
  'deliver',
]

/** What the window shows: nothing here is part of the figure. */
export const useView = defineStore('view', () => {
  const step = ref<StepId>('straighten')
  const phase = computed<PhaseId>(() => PHASE_OF[step.value])
  /** The large view of each phase; hands are looked at from above. */
  const main = ref<Record<PhaseId | 'hands' | 'bones4' | 'rest' | 'rest4', ViewName>>({
    rest: 'front',
    rest4: 'turn',
    hands: 'top',
    bones4: 'side',
    shape: 'turn',
    bones: 'front',
    handles: 'turn',
    motion: 'turn',
    trial: 'turn',
    delivery: 'turn',
  })
  /** A body on four legs is read from the side. */
  const fourLegs = ref(false)
  /** Rest poses are shown in place of the moving take. */
  const resting = computed(() => step.value === 'map' || step.value === 'match')
  const place = computed<PhaseId | 'hands' | 'bones4' | 'rest' | 'rest4'>(() =>
    resting.value
      ? fourLegs.value
        ? 'rest4'
        : 'rest'
      : fourLegs.value && phase.value === 'bones'
        ? 'bones4'
        : step.value === 'hands'
          ? 'hands'
          : phase.value,
  )
  const mainView = computed<ViewName>(() => main.value[place.value])
  const landmark = ref<string>()
  const mirror = ref(true)
  /** A landmark that is dragged stays in the middle of its limb. */
  const keepMiddle = ref(false)
  /** The hand in the close-up, and the piece in play. */
  const hand = ref<'left' | 'right'>('left')
  const piece = ref<string>()
  const isolated = ref(false)
  /** Moving a joint takes its children along. */
  const withChildren = ref(false)
  const sidesShown = ref(false)
  /** The fault of the surface that is looked at: its kind, and its place in the list. */
  const faultKind = ref<'rim' | FaceFaultKind>('rim')
  const fault = ref(0)
  const jointSize = ref(1)
  const seeThrough = ref(true)
  const performerShown = ref<'over' | 'beside' | 'hidden'>('beside')
  const bonesInMotion = ref(false)
  /** The role in play in the role map, the rest match and the comparison. */
  const role = ref<string>('leftUpperArm')
  /** The take as it was carried over exactly, drawn beside what was kept. */
  const ghost = ref(false)
  /** In the step of the ground: the whole way of the take, rather than the figure close by. */
  const wholeWay = ref(false)
  /** What the large view frames in Motion. */
  const lookAt = ref<'whole' | 'left' | 'right'>('whole')
  /** What is done in the skin step, and everything the brush is set to. */
  const skinMode = ref<SkinMode>('automatic')
  const brush = reactive<BrushSettings>({
    tool: 'add',
    radius: 5,
    strength: 0.3,
    value: 1,
    falloff: 0.7,
    through: false,
  })
  let brushBefore: BrushSettings['tool'] = 'add'
  /** Takes up a tool that points at the body, or gives it back for the brush that was in hand. */
  function pointWith(tool: PointTool): void {
    if (brush.tool === tool) brush.tool = brushBefore
    else {
      if (!isPointing(brush.tool)) brushBefore = brush.tool
      brush.tool = tool
    }
  }
  /** The corrective in play, what its brush is set to, and whether the plain skin is shown in its place. */
  const corrective = ref<string>()
  const sculpt = reactive<SculptSettings>({ tool: 'raise', radius: 6, strength: 0.5, falloff: 0.8, through: false })
  const plainSkin = ref(false)
  /** Joints that keep their weights while others are painted, by role or name. */
  const locked = ref<readonly string[]>([])
  /** Pieces that repairs of the skin keep to; none told: all of them. */
  const paintedPieces = ref<readonly string[]>([])
  /** Only the chosen joint's hold is drawn; otherwise every joint in a colour of its own. */
  const solo = ref(true)
  /** The vertex whose influences are listed. */
  const vertex = ref<number>()
  /** The check pose in play, how far into it, and what is drawn on the skin. */
  const pose = ref<string>()
  const poseShare = ref(1)
  const poseStrain = ref<StrainView>('stretch')
  const blending = ref<'linear' | 'volume'>('linear')
  const playingPoses = ref(false)
  const findingsOpen = ref(false)
  const paletteOpen = ref(false)
  const keysOpen = ref(false)
  /** The list of projects. */
  const shelfOpen = ref(false)
  const ledgerFolded = ref(false)
  const theme = ref<Theme>('day')

  function go(next: StepId): void {
    step.value = next
    findingsOpen.value = false
  }
  function goBy(way: 1 | -1): void {
    let i = STEP_ORDER.indexOf(step.value) + way
    // there are no hands to look at on four legs
    if (fourLegs.value && STEP_ORDER[i] === 'hands') i += way
    if (i >= 0 && i < STEP_ORDER.length) go(STEP_ORDER[i]!)
  }
  /** A body on four legs has other roles to look at. */
  function standOn(four: boolean): void {
    if (four !== fourLegs.value) role.value = four ? 'leftFrontUpperLeg' : 'leftUpperArm'
    fourLegs.value = four
  }
  function makeMain(view: ViewName): void {
    main.value = { ...main.value, [place.value]: view }
  }
  function setTheme(next: Theme): void {
    theme.value = next
    document.documentElement.dataset.theme = next
    localStorage.setItem('theme', next)
  }
  function restoreTheme(): void {
    const kept = localStorage.getItem('theme')
    setTheme(
      kept === 'night' || kept === 'day' ? kept : matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'day',
    )
  }
  return {
    step,
    phase,
    mainView,
    landmark,
    mirror,
    keepMiddle,
    seeThrough,
    performerShown,
    bonesInMotion,
    role,
    ghost,
    wholeWay,
    lookAt,
    resting,
    findingsOpen,
    paletteOpen,
    keysOpen,
    shelfOpen,
    ledgerFolded,
    theme,
    skinMode,
    corrective,
    sculpt,
    plainSkin,
    brush,
    pointWith,
    locked,
    paintedPieces,
    solo,
    vertex,
    pose,
    poseShare,
    poseStrain,
    blending,
    playingPoses,
    fourLegs,
    hand,
    piece,
    isolated,
    withChildren,
    faultKind,
    fault,
    sidesShown,
    jointSize,
    go,
    goBy,
    standOn,
    makeMain,
    setTheme,
    restoreTheme,
  }
})
