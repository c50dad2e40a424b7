import { z } from 'zod'
import { partnerOf } from '../body'
import { smoothly } from './in-time'

/**
 * What a person says of a contact over a stretch of a recording, over what is found: that it is there, or that it is not.
 * Later ones hold over earlier ones.
 */
export const toldContactSchema = z.object({
  /** `leftFoot` (heel and ball), `leftHeel`, `leftBall`, `leftHand`, or the role of a part that carries a lying body. */
  part: z.string().min(1).max(60),
  /** `ground`, the other hand, or the role of the part of the body a hand rests on. */
  onto: z.string().min(1).max(60),
  /** Seconds of the recording. */
  from: z.number().min(0),
  to: z.number().min(0),
  holds: z.boolean(),
})
export type ToldContact = Readonly<z.infer<typeof toldContactSchema>>
/** Most that is told of one take. */
export const MOST_CONTACTS = 500

/** The same on the frames of a take, both ends included; feet told apart into heel and ball. */
export interface PlacedContact {
  readonly part: string
  readonly onto: string
  readonly from: number
  readonly to: number
  readonly holds: boolean
}

/** A take as its frames are counted. */
interface Clocked {
  readonly fps: number
  readonly frames: number
}

/** Frames of a take that a stretch of seconds covers; undefined where it is cut away. */
export function framesOf(
  from: number,
  to: number,
  { fps, frames }: Clocked,
): { readonly from: number; readonly to: number } | undefined {
  const first = Math.max(0, Math.round(from * fps)),
    last = Math.min(frames - 1, Math.round(to * fps))
  return last < first ? undefined : { from: first, to: last }
}

/**
 * Puts what was told onto the frames of a take made of the recording.
 * @param toResult seconds of the take at seconds of the recording
 * @param mirrored left and right were exchanged: what was told of the one is now true of the other
 */
export function placeContacts(
  told: readonly ToldContact[],
  take: Clocked,
  toResult: (seconds: number) => number = s => s,
  mirrored = false,
): PlacedContact[] {
  const name = mirrored ? partnerOf : (part: string): string => part
  return told.flatMap(({ part, onto, from, to, holds }): PlacedContact[] => {
    const frames = framesOf(toResult(from), toResult(to), take)
    if (!frames) return []
    const own = name(part)
    const parts = own.endsWith('Foot') ? [own.slice(0, -4) + 'Heel', own.slice(0, -4) + 'Ball'] : [own]
    return parts.map(p => ({ part: p, onto: name(onto), ...frames, holds }))
  })
}

/**
 * What was told of one contact by frame: 1 it is there, -1 it is not, 0 nothing.
 * @returns undefined where nothing was told
 */
export function toldOf(
  told: readonly PlacedContact[],
  part: string,
  onto: string,
  frames: number,
): Int8Array | undefined {
  let out: Int8Array | undefined
  for (const t of told) {
    const same = (t.part === part && t.onto === onto) || (t.part === onto && t.onto === part)
    if (same) (out ??= new Int8Array(frames)).fill(t.holds ? 1 : -1, t.from, t.to + 1)
  }
  return out
}

/** Flags with what was told laid over them; the flags themselves where nothing was. */
export function withTold(flags: Uint8Array, told: Int8Array | undefined): Uint8Array {
  return told ? flags.map((flag, f) => (told[f] === 0 ? flag : told[f] > 0 ? 1 : 0)) : flags
}

/** How firmly a stretch of frames counts, N: wholly within, easing to nothing over so many frames outside. */
export function easedAround(
  flags: { readonly [f: number]: number; readonly length: number },
  ease: number,
): Float32Array {
  const n = flags.length
  const out = new Float32Array(n)
  const reach = Math.max(1, Math.round(ease))
  let since = Infinity
  for (let f = 0; f < n; f++) {
    since = flags[f] > 0 ? 0 : since + 1
    out[f] = smoothly(1 - since / (reach + 1))
  }
  since = Infinity
  for (let f = n - 1; f >= 0; f--) {
    since = flags[f] > 0 ? 0 : since + 1
    out[f] = Math.max(out[f], smoothly(1 - since / (reach + 1)))
  }
  return out
}

/** The same of the frames in which one thing was told: that it is there (1), or that it is not (-1). */
export const easedWhere = (flags: Int8Array, value: 1 | -1, ease: number): Float32Array =>
  easedAround(
    flags.map(flag => (flag === value ? 1 : 0)),
    ease,
  )
