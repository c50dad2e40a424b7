import { z } from 'zod'
import { ROOT_CHANNELS } from '../motion'

/** Where a channel of travel goes: onto the root joint, onto the hips, or away altogether. */
export const ROOT_PLACES = ['root', 'hips', 'dropped'] as const
export type RootPlace = (typeof ROOT_PLACES)[number]

export const ROOT_LIMITS = {
  smooth: [0, 5],
  points: 200,
  /** Metres. */
  far: 1000,
} as const

const far = z.number().min(-ROOT_LIMITS.far).max(ROOT_LIMITS.far)

/** Another way over the ground than the recorded one; the body goes along it as far as it went. */
export const rootWaySchema = z.discriminatedUnion('kind', [
  /** In one line, as it set out. */
  z.object({ kind: z.literal('straight') }),
  /** Turned evenly by so many degrees to its left over the whole way. */
  z.object({ kind: z.literal('bent'), degrees: z.number().min(-3600).max(3600) }),
  /** Through points on the ground: metres to its left and ahead of where it sets out. */
  z.object({
    kind: z.literal('points'),
    points: z
      .array(z.tuple([far, far]))
      .min(1)
      .max(ROOT_LIMITS.points),
  }),
])
export type RootWay = Readonly<z.infer<typeof rootWaySchema>>

/** Stairs: metres ahead of where bodies stand at rest they begin, how high and long each step is, how many. Down where steps fall. */
const stairSchema = z.object({
  from: z.number().min(-100).max(1000),
  rise: z.number().min(-1).max(1),
  tread: z.number().min(0.05).max(5),
  count: z.number().int().min(1).max(500),
})
export type StairSettings = Readonly<z.infer<typeof stairSchema>>

/** A floor: metres it lies higher where the body sets out from rest, degrees it rises ahead and to its left. */
const floorSchema = z.object({
  height: z.number().min(-20).max(20).optional(),
  ahead: z.number().min(-40).max(40).optional(),
  across: z.number().min(-40).max(40).optional(),
  stairs: stairSchema.optional(),
})
export type FloorSettings = Readonly<z.infer<typeof floorSchema>>
/** Whether a floor is other than flat ground. */
export const isFloor = (floor: FloorSettings | undefined): floor is FloorSettings =>
  floor !== undefined &&
  [floor.height, floor.ahead, floor.across, floor.stairs?.rise].some(v => v !== undefined && v !== 0)

/** How a take travels: the last thing done to it. What is left out stays as the take came. */
export const rootSettingsSchema = z.object({
  across: z.enum(ROOT_PLACES).optional(),
  ahead: z.enum(ROOT_PLACES).optional(),
  height: z.enum(ROOT_PLACES).optional(),
  turn: z.enum(ROOT_PLACES).optional(),
  /** The joint that carries travel, by name; left out, the topmost above the hips. */
  joint: z.string().max(300).optional(),
  /** Seconds over which the sway of single steps is evened out of the travel; left out {@link ROOT_SMOOTH}. */
  smooth: z.number().min(ROOT_LIMITS.smooth[0]).max(ROOT_LIMITS.smooth[1]).optional(),
  /** Travel is told from the feet, of takes that were recorded on the spot. */
  fromFeet: z.boolean().optional(),
  /** It sets out from where the body stands at rest, or facing as it does there. */
  start: z
    .array(z.enum(['place', 'facing']))
    .max(2)
    .optional(),
  /** Channels that end as they began, the difference spread over the take. */
  close: z.array(z.enum(ROOT_CHANNELS)).max(4).optional(),
  way: rootWaySchema.optional(),
  /** The floor it goes over, where that is not flat or lies elsewhere. */
  floor: floorSchema.optional(),
})
export type RootSettings = Readonly<z.infer<typeof rootSettingsSchema>>

/** The settings of a take of which it was said that it stays on the spot. */
export const spotted = (
  settings: RootSettings | undefined,
  onTheSpot: boolean | undefined,
): RootSettings | undefined => (onTheSpot ? { across: 'dropped', ahead: 'dropped', ...settings } : settings)

/** What of the settings takes travel away. */
export const onlyDropped = (settings: RootSettings = {}): RootSettings =>
  Object.fromEntries(
    [
      ...ROOT_CHANNELS.map(c => [c, settings[c] === 'dropped' ? 'dropped' : undefined]),
      ['smooth', settings.smooth],
    ].filter(([, v]) => v !== undefined),
  )

/** Whether feet are asked about. */
export const asksFeet = (settings: RootSettings | undefined): boolean =>
  settings !== undefined &&
  (settings.fromFeet === true ||
    settings.way !== undefined ||
    (settings.close ?? []).length > 0 ||
    isFloor(settings.floor))

/** Seconds the sway of steps is evened out over, where nothing is told. */
export const ROOT_SMOOTH = 0.6
