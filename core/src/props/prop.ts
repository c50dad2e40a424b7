import { z } from 'zod'
import { partnerOf, sideOf } from '../body'
import { mirroredName } from '../skeleton'

/** Most props of a figure, places on one, and keys in a take. */
export const MOST_PROPS = 100
export const MOST_PLACES = 50
export const MOST_PROP_KEYS = 1000

const vec3 = z.tuple([z.number().min(-1e4).max(1e4), z.number().min(-1e4).max(1e4), z.number().min(-1e4).max(1e4)])
const quat = z.tuple([z.number(), z.number(), z.number(), z.number()])
const ref = z.string().min(1).max(220)
const id = z.string().min(1).max(100)

/** A place on a prop: it is held there, or turned about it. In the prop's own space, metres. */
export const propPlaceSchema = z.object({
  id,
  name: z.string().min(1).max(120),
  at: vec3,
  /** Brings x to where the thumb points, and y to where the fingers point, into the prop's axes; x y z w. */
  turn: quat,
  /** How thick what is held there is: half across, metres. */
  thick: z.number().min(0).max(10).optional(),
  /** Whether a hand may turn about it freely, as around a pole. */
  round: z.boolean().optional(),
  /** Whether the prop hangs from there upright, whatever way the hand is turned. */
  hangs: z.boolean().optional(),
  /** Turned about alone, and not held by. */
  pivot: z.boolean().optional(),
})
export type PropPlace = Readonly<z.infer<typeof propPlaceSchema>>

/** What carries a prop. */
export const carrySchema = z.object({
  /** A joint, by role, else by what it is known by; `ground` where nobody does. */
  by: ref,
  /** The place a hand holds it by. */
  grip: id.optional(),
  /** How it lies to what carries it, beside that: heights of the hips, and x y z w. */
  shift: vec3.optional(),
  turn: quat.optional(),
  /** Another hand that holds on to it. */
  second: z.object({ by: ref, grip: id }).optional(),
  /** The prop points from the first hand to the second, so that hands stay where they are. */
  aim: z.literal('between').optional(),
  /** Fingers stay as they are. */
  open: z.literal(true).optional(),
  /** Hands stay where they are: none is brought to the prop. */
  loose: z.literal(true).optional(),
})
export type Carry = Readonly<z.infer<typeof carrySchema>>

/** From a moment of a take on, a prop is carried otherwise. */
export const propKeySchema = carrySchema.extend({
  prop: id,
  /** Seconds of the recording. */
  at: z.number().min(0),
  /** Seconds in which it comes to where it is carried now. */
  over: z.number().min(0).max(10).optional(),
  /** It keeps the place to what carries it that it has at that moment. */
  stays: z.literal(true).optional(),
})
export type PropKey = Readonly<z.infer<typeof propKeySchema>>
/** Where nothing is said, a prop goes from one hand into the other in no less than so many seconds, no faster than so many metres a second. */
export const USUAL_OVER = 0.25
export const USUAL_PACE = 2

const fileSchema = z.object({
  name: z.string().max(1000),
  hash: z.string().regex(/^[0-9a-f]{64}$/),
  size: z.number().int().nonnegative(),
})

/** Something a figure carries: a file of its own, which stays as it came. */
export const propSchema = z.object({
  id,
  name: z.string().min(1).max(200),
  file: fileSchema,
  beside: z.array(fileSchema).max(500),
  /** Metres that a unit of the file is. */
  scale: z.number().min(1e-6).max(1e6).optional(),
  /** Places of one's own, and places of the file that were changed, by their id. */
  places: z.array(propPlaceSchema).max(MOST_PLACES).optional(),
  /** Kilograms; left out, told from its volume. */
  mass: z.number().min(0).max(1e6).optional(),
  carry: carrySchema,
})
export type Prop = Readonly<z.infer<typeof propSchema>>

export const GROUND = 'ground'

const otherSide = (joint: string): string =>
  joint === GROUND ? joint : sideOf(joint) === 'middle' ? mirroredName(joint) : partnerOf(joint)

/** What carries a prop as a mirror across the midline shows it. */
export function mirroredCarry<T extends Carry>(carry: T): T {
  const { shift, turn, second } = carry
  return {
    ...carry,
    by: otherSide(carry.by),
    ...(shift && { shift: [-shift[0] + 0, shift[1], shift[2]] }),
    ...(turn && { turn: [turn[0], -turn[1] + 0, -turn[2] + 0, turn[3]] }),
    ...(second && { second: { ...second, by: otherSide(second.by) } }),
  }
}

/** Keys in order with one set: at the moment of another of its prop, in that one's place. */
export function withPropKey(keys: readonly PropKey[], key: PropKey): PropKey[] {
  const others = keys.filter(k => k.prop !== key.prop || Math.abs(k.at - key.at) > 5e-4)
  return [...others, key].sort((a, b) => a.at - b.at)
}
