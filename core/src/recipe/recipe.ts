import { z } from 'zod'
import { faceChoicesSchema, takeFaceSchema } from '../face'
import { lightChoicesSchema } from '../light'
import type { Remedy } from '../findings'
import { PIECE_ROLES } from '../pieces'
import { LONGEST_RIM } from '../shape'
import { ChiraxisError, type Vec3 } from '../math'
import { adjustSchema } from '../adjust'
import { performerNoteSchema } from '../retarget'
import { readingChoiceSchema } from '../skeleton'
import { MOST_CONTACTS, toldContactSchema } from '../correct'
import { layerSchema, MOST_LAYERS } from '../layers'
import {
  MOST_STRETCHES,
  stretchSchema,
  takeCorrectionsSchema,
  TRANSFER_DEFAULTS,
  transferSettingsSchema,
} from '../perform'
import { skinEditSchema, type SkinEdit } from '../paint'
import { rigEditSchema, type RigEdit } from '../rig'
import { ownPoseSchema } from '../strain'
import { correctiveSchema, MOST_CORRECTIVES } from '../corrective'
import { handleChoicesSchema } from '../handles'
import { cueSettingsSchema, takeCuesSchema } from '../cues'
import { rootSettingsSchema } from '../root-motion'
import { CLASHES, MOST_PROFILES, profileSchema } from '../delivery'
import { crowdSettingsSchema, statesSchema, SURFACES } from '../trial'
import { MOST_PROP_KEYS, MOST_PROPS, propKeySchema, propSchema } from '../props'

/** Names from files are shortened to this; longer ones would be of no use in any list. */
export const NAME_LENGTH = 300
export const shortName = (name: string): string =>
  name.length > NAME_LENGTH ? `${name.slice(0, NAME_LENGTH - 1)}…` : name

const vec3 = z.tuple([z.number(), z.number(), z.number()])
const axis = z.enum(['+x', '-x', '+y', '-y', '+z', '-z'])

/** A file as received, known by the hash of its bytes. */
export const fileRefSchema = z.object({
  name: z.string().max(1000),
  hash: z.string().regex(/^[0-9a-f]{64}$/),
  size: z.number().int().nonnegative(),
})
export type FileRef = z.infer<typeof fileRefSchema>

const surfaceEditSchema = z.union([
  z.object({ kind: z.literal('fill'), at: vec3 }),
  z.object({ kind: z.literal('fill-small'), edges: z.number().int().min(3).max(LONGEST_RIM) }),
  /** Share of the body's size. */
  z.object({ kind: z.literal('weld'), within: z.number().min(0).max(0.05) }),
  z.object({ kind: z.enum(['turned', 'empty', 'crowded']), at: vec3 }),
])

export const takeRefSchema = z.object({
  id: z.string().max(80),
  name: z.string().max(NAME_LENGTH),
  performer: z.string().max(NAME_LENGTH),
  file: fileRefSchema,
  /** Which take of the file. */
  index: z.number().int().nonnegative(),
  /** What is changed about it; left out where nothing is. */
  adjust: adjustSchema.partial().optional(),
  /** Frame of its own that its performer's rest pose is taken from. */
  restFrom: z.number().int().min(0).optional(),
  /** What is corrected otherwise than in other takes. */
  correct: takeCorrectionsSchema.optional(),
  /** Stretches of the recording that are corrected otherwise than the rest of it; later ones over earlier ones. */
  stretches: z.array(stretchSchema).max(MOST_STRETCHES).optional(),
  /** What a person says of contacts, over what is found. */
  contacts: z.array(toldContactSchema).max(MOST_CONTACTS).optional(),
  /** Changes by hand over the take, the topmost last. */
  layers: z.array(layerSchema).max(MOST_LAYERS).optional(),
  /** When props are carried otherwise than they are told to be. */
  props: z.array(propKeySchema).max(MOST_PROP_KEYS).optional(),
  /** How it travels, where that is otherwise than in other takes. */
  root: rootSettingsSchema.optional(),
  /** Moments and curves told of it. */
  cues: takeCuesSchema.optional(),
  /** What its face does beside what the recording tells. */
  face: takeFaceSchema(fileRefSchema).optional(),
  /** Words it is found by. */
  tags: z.array(z.string().max(40)).max(20).optional(),
  /** How the performer stands, where it was told. */
  kind: z.enum(['biped', 'fourleg']).optional(),
})
export type TakeRef = z.infer<typeof takeRefSchema>

export const RECIPE_VERSION = 5

/** How a piece of the body is to move; what nobody told is as the piece is taken for. */
const pieceSchema = z.object({
  role: z.enum(PIECE_ROLES).optional(),
  /** Shown name, where it was changed. */
  label: z.string().max(120).optional(),
  hidden: z.boolean().optional(),
  /** The joint a rigid piece rides on, by role or name. */
  joint: z.string().max(200).optional(),
})
export type PieceChoice = z.infer<typeof pieceSchema>

const fingers = z.union([z.literal('auto'), z.number().int().min(0).max(5)])
export const planSchema = z.object({
  /** `drawn`: a root alone, and chains drawn by hand. */
  kind: z.enum(['auto', 'biped', 'fourleg', 'drawn']),
  /** Extra joints on each upper arm, forearm, thigh and shin. */
  flex: z.number().int().min(0).max(3),
  /** Extra joints on the bones of a part, where they are not those of `flex`. */
  parts: z
    .object({
      arms: z.number().int().min(0).max(6),
      legs: z.number().int().min(0).max(6),
      trunk: z.number().int().min(0).max(6),
      neck: z.number().int().min(0).max(6),
    })
    .partial()
    .optional(),
  fingers: z.object({ left: fingers, right: fingers }),
  fingerJoints: z.number().int().min(1).max(3),
  tailJoints: z.number().int().min(0).max(24),
})
export type PlanChoice = z.infer<typeof planSchema>
export const PLAN_DEFAULTS: PlanChoice = {
  kind: 'auto',
  flex: 0,
  fingers: { left: 'auto', right: 'auto' },
  fingerJoints: 3,
  tailJoints: 6,
}

export const placeSchema = z.object({
  scale: z.number().min(1e-6).max(1e6),
  /** x y z w */
  turn: z.tuple([z.number(), z.number(), z.number(), z.number()]),
  at: vec3,
})
export type Place = z.infer<typeof placeSchema>

/** Everything that was decided about a figure. All else is derived from it and from the files it names. */
/** Takes by figures: which, and how their files are called and written. */
const manySchema = z.object({
  /** Ids of takes. */
  takes: z.array(z.string().max(300)).max(20_000).default([]),
  /** Rigged figures beside this one. */
  figures: z
    .array(z.object({ name: z.string().max(300), file: fileRefSchema }))
    .max(500)
    .default([]),
  /** What files are called. */
  file: z.string().min(1).max(200).default('{figure}-{take}-{performer}'),
  clash: z.enum(CLASHES).default('number'),
  /** How they are written; left out, GLB with skeleton and take. */
  profile: profileSchema.optional(),
})
export type Many = Readonly<z.infer<typeof manySchema>>

export const recipeSchema = z.object({
  version: z.literal(RECIPE_VERSION),
  name: z.string().max(NAME_LENGTH),
  body: fileRefSchema.nullable(),
  /** Files that came with the body: textures, material libraries, buffers. */
  beside: z.array(fileRefSchema).max(500),
  /** Bodies that came later as pieces for this one, in its own space, each with the files that came with it. */
  added: z
    .array(
      z.object({
        file: fileRefSchema,
        beside: z.array(fileRefSchema).max(500),
        /** Where it is put, in the space of the body's file: scaled, turned, then shifted. Left out, where its own file has it. */
        place: placeSchema.optional(),
        /** As an appendage that brings joints and skin of its own. */
        attached: z.object({ joint: z.string().max(200), prefix: z.string().max(40) }).optional(),
      }),
    )
    .max(200),
  straighten: z.object({
    up: axis.optional(),
    facing: axis.optional(),
    unit: z.enum(['m', 'cm', 'mm']).optional(),
    /** Turn about the vertical by hand, degrees; lift and shift by hand, metres. */
    turn: z.number().min(-180).max(180).optional(),
    /** Tilted forwards and leant to its left by hand, degrees. */
    tilt: z.number().min(-180).max(180).optional(),
    lean: z.number().min(-180).max(180).optional(),
    /** Metres a unit of the file is; how tall the body is to be, metres. */
    scale: z.number().min(1e-9).max(1e9).optional(),
    height: z.number().min(1e-3).max(1e3).optional(),
    lift: z.number().optional(),
    shift: z.number().optional(),
  }),
  /** The surface mended by hand: holes filled, rims brought together. */
  surface: z.array(surfaceEditSchema).max(2000),
  /** Faces turned outwards and freed of those without area. */
  cleanFaces: z.boolean(),
  /** The half that is mirrored to make a half body whole. */
  mirrorHalf: z.enum(['left', 'right']).nullable(),
  pieces: z.record(z.string(), pieceSchema),
  /** Whether pieces nobody told the role of move as what they are taken for, or all as part of the body. */
  pieceRoles: z.enum(['guessed', 'told']),
  /** Images that stand for a normal map although they came as colour, by material. */
  normalMaps: z.array(z.string()),
  landmarks: z.object({
    edits: z.record(z.string(), vec3),
    /** Begun from usual proportions, for a body that the search refuses. */
    byHand: z.boolean().optional(),
  }),
  bones: z.object({
    /** Whether the skeleton that came with the body is kept, or one is built on landmarks. */
    source: z.enum(['auto', 'plan', 'received', 'given']),
    /** A skeleton of another file that is laid on the body, with the files that came with it. */
    given: z.object({ file: fileRefSchema, beside: z.array(fileRefSchema).max(500) }).optional(),
    /** How the skeleton that came with the body is to be read, where somebody said so. */
    reading: readingChoiceSchema.optional(),
    plan: planSchema,
    edits: z.array(rigEditSchema).max(20_000),
  }),
  skin: z.object({
    source: z.enum(['auto', 'received']),
    influences: z.number().int().min(1).max(8),
    firmness: z.number().min(0.1).max(10),
    edits: z.array(skinEditSchema).max(200_000),
  }),
  /** Poses of the user's own that the skin is checked in. */
  checkPoses: z.array(ownPoseSchema).max(500).optional(),
  /** What was settled about handles, the figure's mass and the pose it is worked on in. */
  handles: handleChoicesSchema.optional(),
  /** What the figure carries. */
  props: z.array(propSchema).max(MOST_PROPS).optional(),
  /** When props are carried otherwise in takes that came with the body, by the take's id. */
  ownProps: z.record(z.string().min(1).max(300), z.array(propKeySchema).max(MOST_PROP_KEYS)).optional(),
  /** What was told of contacts of takes that came with the body, by the take's id. */
  ownContacts: z.record(z.string().min(1).max(300), z.array(toldContactSchema).max(MOST_CONTACTS)).optional(),
  /** Layers over takes that came with the body, by the take's id. */
  ownLayers: z.record(z.string().min(1).max(300), z.array(layerSchema).max(MOST_LAYERS)).optional(),
  /** How takes travel: on a root joint, on the hips; left out as they came. */
  root: rootSettingsSchema.optional(),
  /** How takes that came with the body travel, where that is otherwise, by the take's id. */
  ownRoot: z.record(z.string().min(1).max(300), rootSettingsSchema).optional(),
  /** What moments and curves are found in every take. */
  cues: cueSettingsSchema.optional(),
  /** Moments and curves told of takes that came with the body, by the take's id. */
  ownCues: z.record(z.string().min(1).max(300), takeCuesSchema).optional(),
  /** What is delivered, and how receivers want it. */
  delivery: z
    .object({
      /** Left out, the plainest. */
      profile: profileSchema.optional(),
      /** Profiles of one's own. */
      profiles: z.array(profileSchema).max(MOST_PROFILES).optional(),
      /** Ids of takes that go along; left out, those of the first performer and all that came with the body. */
      takes: z.array(z.string().max(300)).max(20_000).optional(),
      /** A moment a surface alone stands as the figure does in it: a take by its id, and seconds into it; left out, at rest. */
      moment: z.object({ take: z.string().max(300), at: z.number().min(0) }).optional(),
      /** Many at once: takes by figures. */
      many: manySchema.optional(),
    })
    .optional(),
  /** How the figure is tried out; what is left out is as it is of itself. */
  trial: z
    .object({
      /** Ids of takes it is led with. */
      takes: z.array(z.string().max(300)).max(200).optional(),
      states: statesSchema.optional(),
      /** The ground it is led over: a mesh of one's own. */
      floor: fileRefSchema.optional(),
      /** Sounds of footsteps of one's own, by what is stepped on. */
      sounds: z.partialRecord(z.enum(SURFACES), fileRefSchema).optional(),
      crowd: crowdSettingsSchema.optional(),
    })
    .optional(),
  /** What was settled about the face. */
  face: faceChoicesSchema.optional(),
  /** What was settled about the light body; left out where there is none. */
  light: lightChoicesSchema.optional(),
  /** Shapes the surface takes while joints are turned. */
  correctives: z.array(correctiveSchema).max(MOST_CORRECTIVES).optional(),
  takes: z.array(takeRefSchema).max(20_000),
  transfer: transferSettingsSchema,
  /** What was settled by hand about performers, by their key. */
  performers: z.record(z.string(), performerNoteSchema),
})
export type Recipe = z.infer<typeof recipeSchema>

export const emptyRecipe = (name = 'Untitled figure'): Recipe => ({
  version: RECIPE_VERSION,
  name,
  body: null,
  beside: [],
  added: [],
  straighten: {},
  surface: [],
  cleanFaces: false,
  mirrorHalf: null,
  pieces: {},
  pieceRoles: 'guessed',
  normalMaps: [],
  landmarks: { edits: {} },
  bones: { source: 'auto', plan: PLAN_DEFAULTS, edits: [] },
  skin: { source: 'auto', influences: 4, firmness: 1, edits: [] },
  takes: [],
  transfer: TRANSFER_DEFAULTS,
  performers: {},
})

/** What recipes of older versions lack, version by version. */
function migrate(data: Record<string, unknown>): Record<string, unknown> {
  const fresh = emptyRecipe()
  if (data.version === 1)
    return migrate({ ...fresh, ...data, version: 2, skin: { ...fresh.skin, ...(data.skin as object) } })
  if (data.version === 2) return migrate({ ...data, version: 3, skin: { ...fresh.skin, ...(data.skin as object) } })
  // takes looked as they did before hands and arms were kept
  if (data.version === 3)
    return migrate({
      ...data,
      version: 4,
      transfer: { ...fresh.transfer, hands: 0, elbowRoom: null, ...(data.transfer as object) },
      performers: {},
    })
  // pieces moved as they were told, and otherwise with the body
  if (data.version === 4) return { ...data, version: 5, pieceRoles: 'told', added: [], surface: [] }
  return data
}

/**
 * Reads a stored recipe of this or an older version.
 * @throws ChiraxisError `bad-version` for newer ones, `bad-syntax` for what is none
 */
export function parseRecipe(data: unknown): Recipe {
  const version = typeof data === 'object' && data !== null ? (data as { version?: unknown }).version : undefined
  if (typeof version === 'number' && version > RECIPE_VERSION) {
    throw new ChiraxisError(
      'bad-version',
      'This project was saved by a newer Chiraxis and cannot be opened by this one.',
    )
  }
  const parsed = recipeSchema.safeParse(version === undefined ? data : migrate(data as Record<string, unknown>))
  if (!parsed.success) {
    throw new ChiraxisError('bad-syntax', 'The project file does not hold a readable recipe.', {
      issues: parsed.error.issues.slice(0, 5),
    })
  }
  return parsed.data
}

/** Records of recipes that were checked before: they never change. */
const checked = new WeakSet<object>()

/**
 * Checks that a recipe can be read again, as a reader will. Records checked before are not looked at again, so a change
 * costs what it adds.
 * @throws ChiraxisError `bad-settings` telling what does not fit
 */
export function checkRecipe(recipe: Recipe): void {
  const fresh = <T extends object>(list: readonly T[]): T[] => list.filter(item => !checked.has(item))
  const { bones, skin, takes, beside, correctives = [] } = recipe
  const thin = {
    ...recipe,
    bones: { ...bones, edits: fresh(bones.edits) },
    skin: { ...skin, edits: fresh(skin.edits) },
    takes: fresh(takes),
    beside: fresh(beside),
    correctives: fresh(correctives),
  }
  const parsed = recipeSchema.safeParse(thin)
  const crowded = (
    [
      ['joint edits', bones.edits, 20_000],
      ['skin repairs', skin.edits, 200_000],
      ['takes', takes, 20_000],
      ['files', beside, 500],
      ['correctives', correctives, MOST_CORRECTIVES],
    ] as const
  ).find(([, list, most]) => list.length > most)
  if (crowded) throw new ChiraxisError('too-large', `A project holds ${crowded[2]} ${crowded[0]} at the most.`)
  if (!parsed.success) {
    const { path, message } = parsed.error.issues[0]
    throw new ChiraxisError('bad-settings', `This change cannot be kept: ${path.join('.')} – ${message}.`)
  }
  for (const list of [thin.bones.edits, thin.skin.edits, thin.takes, thin.beside, thin.correctives])
    for (const item of list) checked.add(item)
}

/** Whether the skeleton that came with a body is kept. */
export const keepsReceived = (
  recipe: Pick<Recipe, 'bones'>,
  { skeleton }: { readonly skeleton?: { readonly names: readonly string[] } },
): boolean => {
  const { source } = recipe.bones
  return skeleton !== undefined && (source === 'received' || (source === 'auto' && skeleton.names.length > 1))
}

/** Whether a skeleton of another file is laid on the body. */
export const laysGiven = ({ bones }: Pick<Recipe, 'bones'>): boolean =>
  bones.source === 'given' && bones.given !== undefined

/** The recipe with a finding's remedy in it. */
export function applyRemedy(recipe: Recipe, remedy: Remedy): Recipe {
  return {
    ...recipe,
    landmarks: remedy.edits
      ? { ...recipe.landmarks, edits: { ...(remedy.edits as Record<string, Vec3>) } }
      : recipe.landmarks,
    transfer: remedy.ground === undefined ? recipe.transfer : { ...recipe.transfer, ground: remedy.ground },
    bones: remedy.rig
      ? { ...recipe.bones, edits: [...recipe.bones.edits, ...(remedy.rig as RigEdit[])] }
      : recipe.bones,
    straighten: remedy.straighten ? { ...recipe.straighten, ...remedy.straighten } : recipe.straighten,
    normalMaps: remedy.normalMap ? [...new Set([...recipe.normalMaps, remedy.normalMap])] : recipe.normalMaps,
    cleanFaces: remedy.cleanFaces ?? recipe.cleanFaces,
    mirrorHalf: remedy.mirrorHalf ?? recipe.mirrorHalf,
    skin: {
      ...recipe.skin,
      influences: remedy.influences ?? recipe.skin.influences,
      edits: remedy.skin ? [...recipe.skin.edits, ...(remedy.skin as SkinEdit[])] : recipe.skin.edits,
    },
    pieces: remedy.leaveOut
      ? { ...recipe.pieces, [remedy.leaveOut]: { ...recipe.pieces[remedy.leaveOut], role: 'left-out' } }
      : recipe.pieces,
  }
}
