import { z } from 'zod'

const vec3 = z.tuple([z.number(), z.number(), z.number()])
/** A joint by its role or, where it has none, its name. */
const ref = z.string().min(1).max(200)
const side = z.enum(['left', 'right'])
/** Pieces that alone are changed; left out, all are. */
const mask = z.array(z.string().max(500)).min(1).max(2000).optional()
const weights = z
  .array(z.object({ joint: ref, weight: z.number().min(0).max(1) }))
  .min(1)
  .max(16)

/** Dabs of a stroke one after another: place and surface normal, and how hard the pen was pressed, 0..1. */
export const dabsSchema = z
  .array(z.tuple([z.number(), z.number(), z.number(), z.number(), z.number(), z.number(), z.number()]))
  .min(1)
  .max(5000)

export const BRUSH_TOOLS = ['add', 'take', 'replace', 'smooth', 'sharpen'] as const
export type BrushTool = (typeof BRUSH_TOOLS)[number]

/**
 * One repair of the skin. Places are shares of the figure's height in the straightened body and joints are told by
 * role, so that a repair holds after the landmarks, the plan or the body's mesh changed.
 */
export const skinEditSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('stroke'),
    tool: z.enum(BRUSH_TOOLS),
    joint: ref,
    dabs: dabsSchema,
    /** Share of the height. */
    radius: z.number().positive().max(1),
    strength: z.number().min(0).max(1),
    /** What `replace` brings weights to. */
    value: z.number().min(0).max(1),
    /** 0: a hard edge; 1: fading from the middle on. */
    falloff: z.number().min(0).max(1),
    mirror: z.boolean(),
    /** Whether the far side of the body within the brush is painted too. */
    through: z.boolean(),
    locked: z.array(ref).max(500),
    pieces: mask,
  }),
  z.object({
    kind: z.literal('fill'),
    joint: ref,
    at: vec3,
    value: z.number().min(0).max(1),
    mirror: z.boolean(),
    locked: z.array(ref).max(500),
    pieces: mask,
  }),
  z.object({ kind: z.literal('rigid'), joint: ref, at: vec3, mirror: z.boolean() }),
  z.object({
    kind: z.literal('set'),
    at: vec3,
    radius: z.number().min(0).max(1),
    weights,
  }),
  z.object({
    kind: z.literal('soften'),
    joint: ref.nullable(),
    rounds: z.number().int().min(1).max(50),
    locked: z.array(ref).max(500),
    pieces: mask,
  }),
  z.object({ kind: z.literal('prune'), below: z.number().min(0).max(0.5), pieces: mask }),
  z.object({
    kind: z.literal('area'),
    does: z.enum(['average', 'paste']),
    area: z.object({
      /** Place and surface normal, and how far each reaches as a share of height. */
      dabs: z
        .array(z.tuple([z.number(), z.number(), z.number(), z.number(), z.number(), z.number(), z.number().positive()]))
        .min(1)
        .max(5000),
      falloff: z.number().min(0).max(1),
      mirror: z.boolean(),
      through: z.boolean(),
    }),
    /** What `paste` brings. */
    weights: weights.optional(),
    amount: z.number().min(0).max(1),
    locked: z.array(ref).max(500),
    pieces: mask,
  }),
  z.object({
    kind: z.literal('carry'),
    /** The pieces whose weights are taken, and those that get them. */
    from: z.array(z.string().max(500)).min(1).max(2000),
    to: z.array(z.string().max(500)).min(1).max(2000),
  }),
  z.object({ kind: z.literal('mirror'), from: side }),
  z.object({ kind: z.literal('unbleed') }),
  z.object({
    kind: z.literal('load'),
    file: z.object({
      name: z.string().max(300),
      hash: z.string().regex(/^[0-9a-f]{64}$/),
      size: z.number().int().nonnegative(),
    }),
    pieces: z.array(z.string()).max(2000).optional(),
  }),
])
export type SkinEdit = z.infer<typeof skinEditSchema>
export type SkinEditOf<K extends SkinEdit['kind']> = Extract<SkinEdit, { kind: K }>

const TOOL_WORDS: Readonly<Record<BrushTool, string>> = {
  add: 'Add',
  take: 'Subtract',
  replace: 'Replace',
  smooth: 'Smooth',
  sharpen: 'Sharpen',
}

const listed = (names: readonly string[]): string => (names.length === 1 ? names[0] : `${names.length} pieces`)

/** A repair in words, for the undo list. @param name how a joint is told */
export function skinEditLabel(edit: SkinEdit, name: (ref: string) => string = r => r): string {
  switch (edit.kind) {
    case 'stroke':
      return edit.tool === 'smooth' || edit.tool === 'sharpen'
        ? `${TOOL_WORDS[edit.tool]} weights`
        : `${TOOL_WORDS[edit.tool]} ${name(edit.joint)}`
    case 'fill':
      return `Fill with ${name(edit.joint)}`
    case 'rigid':
      return `Bind a part rigidly to ${name(edit.joint)}`
    case 'set':
      return 'Type weights'
    case 'soften':
      return edit.joint ? `Smooth all of ${name(edit.joint)}` : 'Smooth all weights'
    case 'prune':
      return `Prune weights below ${Math.round(1000 * edit.below) / 10} %`
    case 'area':
      return edit.does === 'average' ? 'Average the marked area' : 'Paste weights into the marked area'
    case 'carry':
      return `Copy weights from ${listed(edit.from)} to ${listed(edit.to)}`
    case 'mirror':
      return `Mirror weights from the ${edit.from}`
    case 'unbleed':
      return 'Remove influence across gaps'
    case 'load':
      return `Load weights from ${edit.file.name}`
  }
}
