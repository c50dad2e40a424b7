import { BAKE_SIZES, carried, LIGHT_LIMITS, type LightChoices, type LightPart } from '@chiraxis/core/light'
import { vec3At } from '@chiraxis/core/math'

/** What is shown in the step: the new surface, or the body it is made from. */
const shown = ref<'new' | 'body'>('new')
/** Whether the distance to the sculpt is shown on it. */
const heated = ref(false)
/** Whether what the body wears or carries is shown on it. */
const dressed = ref(false)
/** The joint whose loops are pointed at. */
const pointed = ref<{ readonly limb: string; readonly joint: number }>()

/** Farther off than this is as red as can be, metres for a figure of one metre. */
const FARTHEST = 0.004

/** The light body: what was settled about it, and how it is looked at. */
export function useLight() {
  const project = useProject()
  const derived = useDerived()
  const view = useView()
  const choices = computed<LightChoices | undefined>(() => project.recipe.light)
  const made = computed(() => (choices.value ? derived.light : undefined))

  function keep(name: string, next: LightChoices | undefined, joins = false): void {
    const { light: _, ...rest } = project.recipe
    project.change(name, { ...rest, ...(next && { light: next }) }, joins)
  }
  const make = (on: boolean): void =>
    on ? keep('Make a light body', { quads: LIGHT_LIMITS.usual }) : keep('Make no light body', undefined)
  const setQuads = (quads: number, joins = false): void => {
    if (choices.value) keep('Quads of the light body', { ...choices.value, quads: Math.round(quads) }, joins)
  }
  function setDensity(part: LightPart, value: number, joins = false): void {
    if (!choices.value) return
    const { density: before, ...rest } = choices.value
    const density = Object.fromEntries(Object.entries({ ...before, [part]: value }).filter(([, v]) => v !== 1))
    keep(`Fineness of the ${part}`, { ...rest, ...(Object.keys(density).length > 0 && { density }) }, joins)
  }
  function setDelivered(on: boolean): void {
    if (!choices.value) return
    const { deliver: _, ...rest } = choices.value
    keep(on ? 'Use the light body' : 'Use the body as it came', { ...rest, ...(on && { deliver: true }) })
  }

  function setBake(size: number): void {
    if (!choices.value) return
    const { bake: _, ...rest } = choices.value
    const bake = BAKE_SIZES.find(s => s === size)
    keep(bake ? `Bake images of ${bake} pixels` : 'Bake no images', { ...rest, ...(bake && { bake }) })
  }

  /** Whether somebody looks where it can be seen. */
  const wanted = computed(() => view.step === 'light' || (view.phase === 'motion' && choices.value?.deliver === true))
  /** The figure that stands on the stage in place of the body; none where the body is shown. */
  const onStage = computed(() =>
    wanted.value && !(view.step === 'light' && shown.value === 'body') ? made.value : undefined,
  )
  /** Offsets of the body's vertices, as the surface on the stage has them. */
  const onShown = (offsets: Float32Array): Float32Array =>
    onStage.value ? carried(onStage.value.figure.lineage, offsets, 3) : offsets
  const height = computed(() => derived.shape?.straightened.height ?? 1)
  const scale = computed(() => FARTHEST * height.value)
  const heat = computed(() =>
    view.step === 'light' && heated.value && onStage.value ? onStage.value.far.map(d => d / scale.value) : undefined,
  )
  /** Ends of the edges of the loops that are pointed at. */
  const marked = computed<number[]>(() => {
    const at = pointed.value
    const now = view.step === 'light' ? onStage.value : undefined
    if (!at || !now) return []
    const loops = now.report.loops.find(l => l.limb === at.limb && l.joint === at.joint)?.loops ?? []
    return loops.flatMap(loop =>
      loop.flatMap((v, i) => [
        ...vec3At(now.figure.mesh.positions, v),
        ...vec3At(now.figure.mesh.positions, loop[(i + 1) % loop.length]!),
      ]),
    )
  })
  return { choices, made, make, setQuads, setDensity, setDelivered, setBake, shown, heated, dressed, pointed, wanted, onStage, onShown, heat, marked, scale, height } // prettier-ignore
}
