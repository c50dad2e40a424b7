import { z } from 'zod'
import { dabsSchema } from '../paint'
import { poseTurnSchema } from '../skeleton'

/** What the brush does to a shape: push it out along the surface, push it in, even it out, or bring back the plain skin. */
export const SCULPT_TOOLS = ['raise', 'sink', 'smooth', 'clear'] as const
export type SculptTool = (typeof SCULPT_TOOLS)[number]

/** One stroke on a shape; places are shares of the figure's height on the body as bound. */
export const sculptStrokeSchema = z.object({
  tool: z.enum(SCULPT_TOOLS),
  dabs: dabsSchema,
  /** Share of the height. */
  radius: z.number().positive().max(1),
  strength: z.number().min(0).max(1),
  falloff: z.number().min(0).max(1),
  /** Whether the other side of the body is shaped alike, in poses that turn both. */
  mirror: z.boolean(),
  through: z.boolean(),
})
export type SculptStroke = Readonly<z.infer<typeof sculptStrokeSchema>>

/** More than this a figure does not hold: each is a shape of all vertices. */
export const MOST_CORRECTIVES = 64

/**
 * What the surface is to look like while some joints are turned so. It is told as a pose and as what is done there, so
 * it is made again after the skin, the skeleton or the body changed.
 */
export const correctiveSchema = z.object({
  id: z.string().min(1).max(80),
  label: z.string().min(1).max(120),
  /** The joints whose turning brings it on, each as it is turned when the shape shows in full. */
  turns: z.array(poseTurnSchema).min(1).max(64),
  /** How late it comes on: its weight is the share of the way from rest to the pose, to this power. */
  ease: z.number().min(1).max(6),
  /** How much of the volume-keeping blend the shape begins with, 0..1. */
  keep: z.number().min(0).max(1),
  /** Whether the joints of the other side get its mirror image. */
  mirrored: z.boolean(),
  strokes: z.array(sculptStrokeSchema).max(20_000),
})
export type Corrective = Readonly<z.infer<typeof correctiveSchema>>

/** What linear blending loses grows with about the square of a turn, and the way back through it grows too. */
export const USUAL_EASE = 2.5
