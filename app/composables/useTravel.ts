import { ROOT_CHANNELS, type RootChannel } from '@chiraxis/core/motion'
import { rootOf } from '@chiraxis/core/recipe'
import {
  floorHeight,
  ROOT_SMOOTH,
  rootJoint,
  type RootPlace,
  type RootSettings,
  type RootWay,
} from '@chiraxis/core/root-motion'
import { rootRecord } from '@chiraxis/core/rig'

export const CHANNEL_NAMES: Record<RootChannel, string> = {
  across: 'Across',
  ahead: 'Ahead',
  height: 'Height',
  turn: 'Turn',
}

/** How the take in play travels: told of every take, or of this one alone. */
export function useTravel() {
  const project = useProject()
  const derived = useDerived()
  const { take, toldOf, tell } = useTakeEdit()
  const id = computed(() => derived.performed?.id ?? derived.wantedTake ?? '')
  const settings = computed<RootSettings>(() => rootOf(project.recipe, id.value) ?? {})
  const alone = computed(() => toldOf('root') !== undefined)
  const answer = computed(() => derived.performed?.answer)
  /** The joint above the hips, by name. */
  const root = computed(() => {
    const s = derived.skeleton,
      joints = answer.value?.figureJoints
    const j = s && joints?.hips !== undefined ? rootJoint(s, joints, settings.value.joint) : undefined
    return j === undefined ? undefined : s!.names[j]
  })

  /** Only what is told is kept. */
  const bare = (next: RootSettings): RootSettings =>
    Object.fromEntries(
      Object.entries(next).filter(([, v]) => v !== undefined && v !== false && !(Array.isArray(v) && v.length === 0)),
    )
  function keepAlone(name: string, root: RootSettings | undefined, joins = false): void {
    // what older projects tell of the spot is said by the channels from now on
    const { onTheSpot: _, ...others } = take.value?.adjust ?? {}
    tell(name, 'root', root, joins, { adjust: Object.keys(others).length > 0 ? others : undefined })
  }
  /** Changes how this take travels, or every one. */
  function set(name: string, change: RootSettings, joins = false): void {
    if (alone.value) return keepAlone(name, bare({ ...settings.value, ...change }), joins)
    const next = bare({ ...project.recipe.root, ...change })
    project.change(name, { ...project.recipe, root: Object.keys(next).length > 0 ? next : undefined }, joins)
  }
  const setChannel = (channel: RootChannel, place: RootPlace | undefined): void =>
    set(
      `${CHANNEL_NAMES[channel]} ${place === 'root' ? 'on the root joint' : place === 'hips' ? 'on the hips' : place === 'dropped' ? 'dropped' : 'as it came'}`,
      { [channel]: place },
    )
  const all = (name: string, place: RootPlace | undefined, which: readonly RootChannel[] = ROOT_CHANNELS): void =>
    set(name, Object.fromEntries(which.map(c => [c, place])))
  const setAlone = (on: boolean): void =>
    keepAlone(on ? 'This take travels otherwise' : 'This take travels as all', on ? { ...settings.value } : undefined)
  const setWay = (name: string, way: RootWay | undefined, joins = false): void => set(name, { way }, joins)
  const toggle = <K extends 'start' | 'close'>(
    key: K,
    what: NonNullable<RootSettings[K]>[number],
    name: string,
  ): void => {
    const now = (settings.value[key] ?? []) as readonly string[]
    const next = now.includes(what) ? now.filter(w => w !== what) : [...now, what]
    set(name, { [key]: next } as RootSettings)
  }

  /** On the spot: told of this take alone, so that others keep their way. */
  const spot = computed(() => settings.value.across === 'dropped' && settings.value.ahead === 'dropped')
  function setSpot(on: boolean): void {
    const { across: _, ahead: __, ...others } = settings.value
    const next = bare(on ? { ...others, across: 'dropped', ahead: 'dropped' } : others)
    const asAll = JSON.stringify(next) === JSON.stringify(bare(project.recipe.root ?? {}))
    keepAlone(on ? 'On the spot' : 'With its travel', asAll ? undefined : next)
  }
  /** A joint above the hips, on the ground, that moves nothing of its own. */
  function addRoot(): void {
    const s = derived.skeleton
    if (!s) return
    const { bones } = project.recipe
    project.change('Add a root joint', {
      ...project.recipe,
      bones: { ...bones, edits: [...bones.edits, rootRecord(s.names)] },
    })
  }
  /** How high the floor lies at a place, metres across and ahead. */
  const floorAt = (x: number, z: number): number => floorHeight(settings.value.floor ?? {}, x, z)
  /** The same for who looks at it: stairs as a slope. */
  function followedAt(x: number, z: number): number {
    const { stairs, ...flat } = settings.value.floor ?? {}
    const climbed = stairs
      ? stairs.rise * Math.min(stairs.count, Math.max(0, (z - stairs.from) / stairs.tread + 0.5))
      : 0
    return floorHeight(flat, x, z) + climbed
  }
  const smooth = computed(() => settings.value.smooth ?? ROOT_SMOOTH)
  return {
    settings,
    alone,
    answer,
    root,
    smooth,
    spot,
    set,
    setChannel,
    all,
    setAlone,
    setWay,
    setSpot,
    floorAt,
    followedAt,
    toggle,
    addRoot,
  }
}
