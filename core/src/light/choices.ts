import { z } from 'zod'

/** Parts of a body that can be finer or coarser than the rest. */
export const LIGHT_PARTS = ['head', 'trunk', 'arms', 'hands', 'legs'] as const
export type LightPart = (typeof LIGHT_PARTS)[number]

export const LIGHT_LIMITS = { fewest: 300, most: 60_000, usual: 8000, coarsest: 0.5, finest: 2 } as const

/** What was settled about the light body. */
export const lightChoicesSchema = z.object({
  /** How many quads it is to have, about. */
  quads: z.number().int().min(LIGHT_LIMITS.fewest).max(LIGHT_LIMITS.most),
  /** How much finer than the rest a part is; left out where it is not. */
  density: z
    .partialRecord(z.enum(LIGHT_PARTS), z.number().min(LIGHT_LIMITS.coarsest).max(LIGHT_LIMITS.finest))
    .optional(),
  /** Size of the images what the body shows is baked into, pixels; left out for none. */
  bake: z.union([z.literal(512), z.literal(1024), z.literal(2048), z.literal(4096)]).optional(),
  /** Whether it is delivered in place of the body as it came. */
  deliver: z.boolean().optional(),
})
export const BAKE_SIZES = [512, 1024, 2048, 4096] as const
export type LightChoices = Readonly<z.infer<typeof lightChoicesSchema>>
