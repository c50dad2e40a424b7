import { z } from 'zod'
import { VOWELS } from '../voice'
import { EXPRESSIONS } from './expressions'
import { FACE_LANDMARKS } from './landmark'

const place = z.tuple([z.number().min(-10).max(10), z.number().min(-10).max(10), z.number().min(-10).max(10)])
const bind = z.object({ shape: z.string().min(1).max(300), weight: z.number().min(0).max(1) })

/** What was settled about a figure's face. */
export const faceChoicesSchema = z.object({
  /** Places told by hand, as shares of the figure's height. */
  places: z.partialRecord(z.enum(FACE_LANDMARKS), place).optional(),
  /** Which shapes make an expression, where it is otherwise than their names say. */
  binds: z.partialRecord(z.enum(EXPRESSIONS), z.array(bind).max(40)).optional(),
  /** Whether expressions that nothing makes are made from the places of the face. */
  make: z.boolean().optional(),
})
export type FaceChoices = Readonly<z.infer<typeof faceChoicesSchema>>

/** Parts of a face that can take part more or less. */
export const FACE_PARTS = ['mouth', 'mood', 'lids', 'gaze'] as const
export type FacePart = (typeof FACE_PARTS)[number]

const said = z.object({
  from: z.number().min(0).max(600),
  to: z.number().min(0).max(600),
  shape: z.enum([...VOWELS, 'closed', 'breath', 'rest']),
  strength: z.number().min(0).max(1),
})
/** Most stretches that are told of one voice. */
const MOST_SAID = 20_000

/**
 * What the face of a take does beside what its recording told.
 * @param file how files are told
 */
export const takeFaceSchema = <F extends z.ZodType>(file: F) =>
  z.object({
    /** A voice that is spoken: the sound, when in the recording it begins (seconds), and what is said where that was told by hand. */
    voice: z
      .object({
        sound: file,
        at: z.number().min(-600).max(36_000),
        said: z.array(said).max(MOST_SAID).optional(),
        /** How far the mouth goes ahead of the sound, seconds. */
        lead: z.number().min(0).max(0.2).optional(),
      })
      .optional(),
    /** A face made elsewhere: weights of shapes over time, when they begin, and which of this figure's each means. */
    solution: z
      .object({
        file,
        at: z.number().min(-600).max(36_000),
        names: z.record(z.string().max(120), z.string().max(300)).optional(),
      })
      .optional(),
    /** How strongly parts of the face take part, 0 to 2; left out, as told. */
    strength: z.partialRecord(z.enum(FACE_PARTS), z.number().min(0).max(2)).optional(),
  })
