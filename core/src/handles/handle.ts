import type { Side } from '../body'

/**
 * What a handle does: `turn` turns a joint, `end` brings the end of a limb or chain somewhere, `bend` aims its middle, `move`
 * shifts the hips, `figure` the whole figure over the ground.
 */
export const HANDLE_KINDS = ['turn', 'end', 'bend', 'move', 'figure'] as const
export type HandleKind = (typeof HANDLE_KINDS)[number]

/** A line around a part of the body, riding on a joint. */
export interface Contour {
  readonly joint: number
  /** 3 numbers a point, in the joint's own space. */
  readonly points: Float32Array
  readonly closed: boolean
}

export interface Handle {
  /** Known by this whatever the body: kind and joint, by role, else by what the joint is known by. */
  readonly id: string
  readonly kind: HandleKind
  readonly joint: number
  readonly ref: string
  readonly side: Side | 'middle'
  readonly shape: Contour
  /** Of a finger or the face: shown where its hand or head is worked on. */
  readonly minor: boolean
}

export const handleId = (kind: HandleKind, ref: string): string => (kind === 'figure' ? kind : `${kind} ${ref}`)
