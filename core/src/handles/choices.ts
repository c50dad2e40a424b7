import { z } from 'zod'
import { massSettingsSchema } from '../mass'
import { poseTurnSchema } from '../skeleton'

const vec3 = z.tuple([z.number().min(-1e4).max(1e4), z.number().min(-1e4).max(1e4), z.number().min(-1e4).max(1e4)])
const ref = z.string().min(1).max(220)

/** How a handle's shape differs from the body's own. */
export const shapeEditSchema = z.object({
  /** Times as large. */
  grow: z.number().min(0.1).max(10).optional(),
  /** Shifted in the axes of the body as bound, metres. */
  offset: vec3.optional(),
  /** Turned about its middle, a rotation vector in the axes of the body as bound, radians. */
  turn: vec3.optional(),
  hidden: z.literal(true).optional(),
})
export type ShapeEdit = z.infer<typeof shapeEditSchema>

/** What the end of a limb stays with while the rest of the figure moves. */
export const FOLLOWED = ['trunk', 'hips', 'ground'] as const
export type Followed = (typeof FOLLOWED)[number]

/** How a limb is driven: joint by joint, or by its end. */
export const driveChoiceSchema = z.object({
  by: z.enum(['joints', 'end']),
  follows: z.enum(FOLLOWED),
  /** The way its middle stands out, turned by hand about the limb, degrees; then no mark aims it. */
  hinge: z.number().min(-180).max(180).optional(),
})
export type DriveChoice = z.infer<typeof driveChoiceSchema>

/** What is held of a joint while something else is pulled. */
export const holdSchema = z.object({
  /** By role, else by what it is known by. */
  joint: ref,
  place: z.boolean(),
  turn: z.boolean(),
})
export type Hold = z.infer<typeof holdSchema>

/** A pose of the figure. */
export const figurePoseSchema = z.object({
  turns: z.array(poseTurnSchema).max(20_000),
  /** How far the hips are shifted from where they rest, in heights of the hips over the ground, in the body's axes. */
  shift: vec3.optional(),
})
export type StoredPose = z.infer<typeof figurePoseSchema>

/** Handles chosen together, by a key of one's own. */
export const handleGroupSchema = z.object({
  id: z.string().min(1).max(80),
  name: z.string().min(1).max(120),
  key: z
    .string()
    .regex(/^[4-9]$/)
    .optional(),
  handles: z.array(ref).max(2000),
})
export type HandleGroup = z.infer<typeof handleGroupSchema>

/** A place of one's own on a sole that a foot is rolled over. */
export const ownPivotSchema = z.object({
  id: z.string().min(1).max(80),
  name: z.string().min(1).max(80),
  /** The foot, by its role. */
  foot: ref,
  /** Where it lies: 0 at the heel and 1 at the tip, -1 at the inner and 1 at the outer edge. */
  along: z.number().min(0).max(1),
  across: z.number().min(-1).max(1),
})
export type OwnPivot = z.infer<typeof ownPivotSchema>

/** Everything that was settled about handles; what is left out is as derived. */
export const handleChoicesSchema = z.object({
  /** By handle. */
  shapes: z.record(ref, shapeEditSchema).optional(),
  /** By the end of a limb. */
  drives: z.record(ref, driveChoiceSchema).optional(),
  holds: z.array(holdSchema).max(200).optional(),
  groups: z.array(handleGroupSchema).max(40).optional(),
  pivots: z.array(ownPivotSchema).max(100).optional(),
  pose: figurePoseSchema.optional(),
  mass: massSettingsSchema.optional(),
  /** How much larger parts count than they are drawn, where arms keep clear and bodies lie: metres by joint. */
  volumes: z.record(ref, z.number().min(-0.5).max(0.5)).optional(),
})
export type HandleChoices = z.infer<typeof handleChoicesSchema>
