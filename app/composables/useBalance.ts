import {
  balanceThrough,
  bodyMass,
  centreOfMass,
  hasPublished,
  nearestWithin,
  roomWithin,
  supportOf,
  type BodyMass,
  type Load,
  type MassSettings,
} from '@chiraxis/core/mass'
import type { MassGoal } from '@chiraxis/core/reach'
import { jointRef, partnerJoint, type WorldPose } from '@chiraxis/core/skeleton'
import type { ComputedRef } from 'vue'

/** What lies this near over the lowest place of a body still carries it, shares of its height. */
const TOUCHING = 0.012
/** Centimetres of room that a settled balance has, as shares of height. */
const MARGIN = 0.02

/** What the figure weighs with what it carries, where its mass lies, and whether it stands over what carries it. */
export function useBalance(world: ComputedRef<WorldPose | undefined>, loads: ComputedRef<readonly Load[]>) {
  const derived = useDerived()
  const { body, choices, keep, picked } = useHandles()
  const settings = computed<MassSettings>(() => choices.value.mass ?? {})
  const published = computed(() => body.value !== undefined && hasPublished(body.value.joints))
  const mass = computed<BodyMass | undefined>(() => {
    const b = body.value,
      s = derived.skeleton
    if (!b || !s) return undefined
    // shares that another body was told by do not fit this one
    const by = settings.value.by === 'published' && !published.value ? 'volume' : settings.value.by
    return bodyMass(s, b.joints, b.volumes, { ...settings.value, by })
  })
  const total = computed(() => mass.value?.masses.reduce((a, b) => a + b, 0) ?? 0)
  const volume = computed(() => body.value?.volumes.volumes.reduce((a, b) => a + b, 0) ?? 0)
  const tall = computed(() => derived.shape?.straightened.height ?? 1.7)
  const centre = computed(() =>
    mass.value && world.value ? centreOfMass(mass.value, world.value, undefined, loads.value) : undefined,
  )
  const carried = computed(() => loads.value.reduce((sum, l) => sum + l.mass, 0))
  /** Of what is chosen and all that hangs on it. */
  const chosenCentre = computed(() => {
    const s = derived.skeleton
    if (!mass.value || !world.value || !s || picked.value.length === 0) return undefined
    const own = new Set(picked.value.filter(h => h.kind !== 'figure').map(h => h.joint))
    if (own.size === 0) return undefined
    return centreOfMass(mass.value, world.value, j => {
      for (let p = j; p >= 0; p = s.parents[p]!) if (own.has(p)) return true
      return false
    })
  })
  const support = computed(() =>
    body.value && world.value ? supportOf(body.value.touch, world.value, TOUCHING * tall.value) : undefined,
  )
  /** How far within what carries it the mass lies, metres; negative outside. */
  const room = computed(() =>
    centre.value && support.value
      ? roomWithin(support.value.outline, centre.value.place[0], centre.value.place[2])
      : undefined,
  )
  const margin = MARGIN
  /** The mass over the nearest place that has so much room, shares of height. */
  function goalFor(room: number): MassGoal | undefined {
    if (!mass.value || !centre.value || !support.value) return undefined
    const { place } = centre.value
    const [x, z] = nearestWithin(support.value.outline, place[0], place[2], room * tall.value)
    // what is carried stays where it is meanwhile: the figure's own mass makes up for it
    const own = centreOfMass(mass.value, world.value!)
    const share = centre.value.mass / (own?.mass || 1)
    const at = own?.place ?? place
    return {
      masses: mass.value.masses,
      centres: mass.value.centres,
      place: [at[0] + share * (x - place[0]), at[1], at[2] + share * (z - place[2])],
    }
  }
  const goal = computed(() => goalFor(0))

  /** Centimetres of room in every frame of the take in play. @param loadsAt what is carried in a frame */
  function through(loadsAt: (frame: number) => readonly Load[]): Float32Array | undefined {
    const s = derived.skeleton,
      take = derived.performed?.answer.take
    if (!body.value || !mass.value || !s || !take || take.rotations.length !== 4 * s.names.length * take.frames)
      return undefined
    const near = TOUCHING * tall.value
    return balanceThrough(mass.value, body.value.touch, s, take, near, tall.value, loadsAt).map(m => 100 * m)
  }

  // --- settling by hand ---
  function change(name: string, next: Partial<MassSettings>, joins = false): void {
    const told: Record<string, unknown> = { ...settings.value, ...next }
    for (const [key, value] of Object.entries(told)) if (value === undefined) delete told[key]
    keep(name, { mass: told as MassSettings }, joins)
  }
  function setOwn(joint: number, kilograms: number | undefined, mirror: boolean): void {
    const s = derived.skeleton
    if (!s) return
    const own = { ...settings.value.own }
    const other = mirror ? partnerJoint(s, joint) : -1
    for (const j of new Set([joint, ...(other >= 0 ? [other] : [])])) {
      if (kilograms === undefined) delete own[jointRef(s, j)]
      else own[jointRef(s, j)] = Math.max(0, kilograms)
    }
    change('Mass of a part', { own: Object.keys(own).length > 0 ? own : undefined })
  }
  return {
    settings,
    published,
    mass,
    total,
    carried,
    volume,
    centre,
    chosenCentre,
    support,
    room,
    margin,
    goal,
    goalFor,
    through,
    change,
    setOwn,
  }
}
