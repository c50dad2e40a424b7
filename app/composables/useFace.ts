import {
  EXPRESSIONS,
  facePartner,
  type Bind,
  type Expression,
  type FaceChoices,
  type FaceLandmark,
  type FaceLandmarkId,
} from '@chiraxis/core/face'
import { scale, type Vec3 } from '@chiraxis/core/math'

/** The expression that is looked at, and how strongly. */
const shown = ref<Expression>()
const strength = ref(1)
/** The place of the face in play, and places as they are dragged. */
const chosen = ref<FaceLandmarkId>()
const dragged = shallowRef<Partial<Record<FaceLandmarkId, Vec3>>>()

/** What an expression is called. */
export const EXPRESSION_WORDS: Readonly<Record<Expression, string>> = {
  happy: 'Happy',
  angry: 'Angry',
  sad: 'Sad',
  relaxed: 'Relaxed',
  surprised: 'Surprised',
  aa: 'aa',
  ih: 'ih',
  ou: 'ou',
  ee: 'ee',
  oh: 'oh',
  blink: 'Blink',
  blinkLeft: 'Blink left',
  blinkRight: 'Blink right',
  lookUp: 'Look up',
  lookDown: 'Look down',
  lookLeft: 'Look left',
  lookRight: 'Look right',
}

/** The figure's face: its places, its expressions and the shapes that make them. */
export function useFace() {
  const project = useProject()
  const derived = useDerived()
  const view = useView()
  const choices = computed<FaceChoices>(() => project.recipe.face ?? {})
  /** Shapes of the surface: those the body came with, and those made for it. */
  const shapes = computed(() => [...(derived.shape?.mesh.morphs ?? []), ...derived.expressions.shapes])
  const binds = computed(() => derived.expressions.binds)
  const made = computed(() => new Set(derived.expressions.shapes.map(s => s.name)))
  const missing = computed(() => EXPRESSIONS.filter(e => !binds.value[e]?.length))
  /** Weights of the shapes that make an expression. */
  const weightsOf = (e: Expression | undefined, by = 1): Record<string, number> =>
    Object.fromEntries(((e && binds.value[e]) ?? []).map(b => [b.shape, b.weight * by]))
  /** The same of the expression that is looked at. */
  const lookedAt = computed(() => weightsOf(shown.value, strength.value))
  const height = computed(() => derived.shape?.straightened.height ?? 1)

  function keep(name: string, change: Partial<FaceChoices>, joins = false): void {
    const next = Object.fromEntries(
      Object.entries({ ...choices.value, ...change }).filter(
        ([, v]) => v !== undefined && v !== false && !(typeof v === 'object' && Object.keys(v).length === 0),
      ),
    ) as FaceChoices
    const { face: _, ...rest } = project.recipe
    project.change(name, { ...rest, ...(Object.keys(next).length > 0 && { face: next }) }, joins)
  }
  const make = (on: boolean): void =>
    keep(on ? 'Make the expressions that are missing' : 'Make no expressions', { make: on || undefined })
  /** Tells which shapes make an expression; undefined lets names tell. */
  function setBind(expression: Expression, list: readonly Bind[] | undefined): void {
    const { [expression]: _, ...rest } = choices.value.binds ?? {}
    const next = list ? { ...rest, [expression]: [...list] } : rest
    keep(`Shapes of ${EXPRESSION_WORDS[expression]}`, { binds: next })
  }

  /** Places of the face, as they are while one is dragged. */
  const places = computed<readonly FaceLandmark[]>(() =>
    (derived.face?.landmarks ?? []).map(l => {
      const now = dragged.value?.[l.id]
      return now ? { ...l, position: now, confidence: 1 } : l
    }),
  )
  const middle = computed(() => {
    const [l, r] = ['leftEyeInner', 'rightEyeInner'].map(id => derived.face?.landmarks.find(p => p.id === id))
    return l && r ? (l.position[0] + r.position[0]) / 2 : 0
  })
  function drag(id: FaceLandmarkId, to: Vec3): void {
    const partner = facePartner(id)
    dragged.value = {
      [id]: to,
      ...(view.mirror && partner !== id && { [partner]: [2 * middle.value - to[0], to[1], to[2]] as Vec3 }),
    }
  }
  function drop(): void {
    const now = dragged.value
    dragged.value = undefined
    if (!now) return
    const told = Object.fromEntries(Object.entries(now).map(([id, p]) => [id, scale(p, 1 / height.value)]))
    keep('Place a part of the face', { places: { ...choices.value.places, ...told } })
  }
  const findAgain = (): void => keep('Find the face again', { places: undefined })

  /** Where the face is, and how far it reaches, for pictures and close-ups. */
  const around = computed(() => {
    const face = derived.face
    if (!face) return undefined
    const at = (id: FaceLandmarkId): Vec3 => face.landmarks.find(l => l.id === id)!.position
    const nose = at('noseTip')
    return {
      centre: [middle.value, face.chinLevel + 0.42 * face.height, nose[2] - 0.25 * face.height] as Vec3,
      reach: 0.56 * face.height,
    }
  })
  return {
    choices,
    shapes,
    binds,
    made,
    missing,
    weightsOf,
    lookedAt,
    places,
    chosen,
    shown,
    strength,
    around,
    keep,
    make,
    setBind,
    drag,
    drop,
    findAgain,
  }
}
