import { z } from 'zod'
import { IMAGE_PLACES, PACKINGS, type Packing } from '../packing'
import { axesFit, DELIVERY_FORMATS, FILE_AXES, FORMATS, type DeliveryFormat, type FileAxes } from '../formats'
import { ChiraxisError } from '../math'

export const UNITS = { m: 1, cm: 0.01, mm: 0.001, inch: 0.0254 } as const
export type UnitName = keyof typeof UNITS

/** What goes along. */
export const CONTENTS = ['whole', 'motion', 'body'] as const
export type DeliveryContent = (typeof CONTENTS)[number]

export const PROFILE_LIMITS = {
  fps: [1, 240],
  degrees: [0.001, 10],
  millimetres: [0.001, 100],
  largest: [16, 8192],
  armsDown: [-90, 90],
} as const

/** Which way the third axis runs. */
export const HANDS = ['right', 'left'] as const

const text = z.string().max(300)

/** How a receiver wants its files: format, axes and unit, names, rate, keys. */
export const profileSchema = z.object({
  name: z.string().min(1).max(120),
  format: z.enum(DELIVERY_FORMATS as [DeliveryFormat, ...DeliveryFormat[]]),
  /** Axes and unit, of formats that leave them open; others have their own. */
  up: z.enum(FILE_AXES).default('+y'),
  ahead: z.enum(FILE_AXES).default('+z'),
  unit: z.enum(Object.keys(UNITS) as [UnitName, ...UnitName[]]).default('m'),
  hand: z.enum(HANDS).default('right'),
  /** The figure with its takes, takes on its skeleton alone, or the figure without takes. */
  content: z.enum(CONTENTS).default('whole'),
  /** All takes in one file, or a file for each. */
  split: z.enum(['one', 'each']).default('one'),
  /** Frames a second; left out, each take keeps its own. */
  fps: z.number().min(PROFILE_LIMITS.fps[0]).max(PROFILE_LIMITS.fps[1]).optional(),
  /** How far keys may stray when some are left out; left out, every frame is written. */
  thin: z
    .object({
      degrees: z.number().min(PROFILE_LIMITS.degrees[0]).max(PROFILE_LIMITS.degrees[1]),
      millimetres: z.number().min(PROFILE_LIMITS.millimetres[0]).max(PROFILE_LIMITS.millimetres[1]),
      /** Curved keys where they take fewer bytes. */
      curved: z.boolean().optional(),
    })
    .optional(),
  /** How numbers of vertices and turns are written. */
  numbers: z.enum(PACKINGS).default('plain'),
  /** Where images go. */
  images: z.enum(IMAGE_PLACES).default('with'),
  /** Pixels a side no image may pass; left out, as they are. */
  largest: z.number().int().min(PROFILE_LIMITS.largest[0]).max(PROFILE_LIMITS.largest[1]).optional(),
  /** How it stands at rest: as it was bound, or with both arms so far below straight out; left out, as it rests here. */
  rest: z
    .union([
      z.literal('bound'),
      z.object({ armsDown: z.number().min(PROFILE_LIMITS.armsDown[0]).max(PROFILE_LIMITS.armsDown[1]) }),
    ])
    .optional(),
  /** Joints a vertex may follow; left out, as the skin has it. */
  influences: z.number().int().min(1).max(8).optional(),
  /** Whether shapes of the surface go along. */
  morphs: z.boolean().default(true),
  /** Where takes carry their travel: on the joint above the hips, or on the hips; left out, as they are. */
  root: z.enum(['root', 'hips']).optional(),
  /** How joints are called: by a scheme, or by a table of roles or names; left out, as they are. */
  names: z
    .union([
      z.object({
        style: z.enum(['camel', 'snake', 'words']),
        side: z.enum(['first', 'last']),
        letter: z.boolean(),
        prefix: z.string().max(40),
        others: z.boolean().optional(),
      }),
      z.object({ table: z.record(z.string().max(300), z.string().min(1).max(300)) }).strict(),
    ])
    .optional(),
  /** In which order a BVH tells turns. */
  order: z.enum(['XYZ', 'XZY', 'YXZ', 'YZX', 'ZXY', 'ZYX']).default('ZXY'),
  /** What files are called. */
  file: z.string().min(1).max(200).default('{figure}'),
  /** Who made it, for formats that tell. */
  meta: z
    .object({
      name: text,
      version: text,
      authors: z.array(text).max(20),
      copyright: text,
      contact: text,
      references: z.array(text).max(20),
      otherLicenseUrl: text,
    })
    .partial()
    .optional(),
})
export type Profile = Readonly<z.infer<typeof profileSchema>>
export const MOST_PROFILES = 60

export const axesOf = ({ up, ahead, unit, hand }: Pick<Profile, 'up' | 'ahead' | 'unit' | 'hand'>): FileAxes => ({
  up,
  ahead,
  unit: UNITS[unit],
  ...(hand === 'left' && { left: true }),
})

/** How small the files are made, as far as their format has a form for it. */
export function packingOf({ format, numbers, images, largest }: Profile): Packing {
  const { packs, images: places }: { packs: readonly string[]; images: readonly string[] } = FORMATS[format]
  return {
    numbers: packs.includes(numbers) ? numbers : 'plain',
    images: places.includes(images) ? images : 'with',
    ...(largest !== undefined && { largest }),
  }
}

const made = (told: z.input<typeof profileSchema>): Profile => profileSchema.parse(told)

/** Those that ship with it, told by their conventions. */
export const SHIPPED_PROFILES: readonly Profile[] = [
  made({ name: 'GLB: Y up, metres, +Z ahead', format: 'glb' }),
  made({ name: 'GLB for the web: fewer keys, four influences', format: 'glb', thin: { degrees: 0.1, millimetres: 0.5 }, influences: 4 }), // prettier-ignore
  made({ name: 'GLB, small: whole numbers, compressed, images of 1024', format: 'glb', numbers: 'meshopt', largest: 1024, influences: 4, thin: { degrees: 0.1, millimetres: 0.5, curved: true } }), // prettier-ignore
  made({ name: 'GLB: motion alone, a file for each take', format: 'glb', content: 'motion', split: 'each', file: '{figure}-{take}' }), // prettier-ignore
  made({ name: 'glTF with its files beside it', format: 'gltf' }),
  made({ name: 'VRM 1.0 humanoid', format: 'vrm', content: 'body' }),
  made({ name: 'VRM Animation, a file for each take', format: 'vrma', content: 'motion', split: 'each', file: '{take}' }), // prettier-ignore
  made({ name: 'USD text: Y up, metres', format: 'usda' }),
  made({ name: 'USD text: Z up, centimetres, -Y ahead', format: 'usda', up: '+z', ahead: '-y', unit: 'cm' }),
  made({ name: 'BVH: Y up, centimetres, 30 frames', format: 'bvh', content: 'motion', split: 'each', unit: 'cm', fps: 30, file: '{take}' }), // prettier-ignore
  made({ name: 'BVH: Z up, metres, turns XYZ', format: 'bvh', content: 'motion', split: 'each', up: '+z', ahead: '-y', order: 'XYZ', file: '{take}' }), // prettier-ignore
  made({ name: 'OBJ of the body at rest', format: 'obj', content: 'body' }),
]

/** Format of a profile file, so that other JSON is not taken for one. */
const MARK = 'chiraxisProfile'

export const writeProfile = (profile: Profile): Uint8Array<ArrayBuffer> =>
  new TextEncoder().encode(`${JSON.stringify({ [MARK]: 1, ...profile }, null, 2)}\n`)

/**
 * A profile from what a file holds.
 * @throws ChiraxisError `bad-settings` telling what does not fit
 */
export function readProfile(data: unknown): Profile {
  const parsed = profileSchema.safeParse(data)
  if (!parsed.success) {
    const { path, message } = parsed.error.issues[0]
    throw new ChiraxisError(
      'bad-settings',
      `This is no delivery profile: ${path.length > 0 ? path.join('.') : 'the whole'} – ${message}.`,
    )
  }
  return checkProfile(parsed.data)
}

/** @throws ChiraxisError `bad-settings` for axes that lie along one line */
export function checkProfile(profile: Profile): Profile {
  if (!axesFit(profile))
    throw new ChiraxisError('bad-settings', `Up (${profile.up}) and ahead (${profile.ahead}) lie along one line.`)
  return profile
}

/** The shipped profile of a name. */
export const shippedProfile = (name: string): Profile | undefined => SHIPPED_PROFILES.find(p => p.name === name)

/** The plainest profile of a format. */
export const plainProfile = (format: DeliveryFormat): Profile =>
  SHIPPED_PROFILES.find(p => p.format === format) ?? made({ name: format, format })

/** Whether files of a profile name others that lie beside them, so that they cannot be called otherwise afterwards. */
export const keepsFilesBeside = (profile: Profile): boolean =>
  ['gltf', 'usda', 'obj'].includes(profile.format) || packingOf(profile).images === 'beside'
