import type { Vec3 } from '@chiraxis/core/math'
import type { Placed } from '~/stage/stage'

/** A landmark or joint in play. */
export interface Mark {
  id: string
  label: string
  value?: string
  side: 'left' | 'right' | 'middle'
  place: Vec3
  chosen: boolean
  unsure: boolean
  /** Chosen beside the one in play. */
  also?: boolean
  /** The end of a bone, not a joint. */
  end?: boolean
}
/** The same where it lies in a view. */
export interface Dot extends Mark {
  x: number
  y: number
  depth: number
}
export interface Line {
  x1: number
  y1: number
  x2: number
  y2: number
  chosen: boolean
}
/** What is drawn over one view. */
export interface Overlay {
  placed: Placed
  bones: Line[]
  performer: (Omit<Line, 'chosen'> & { /** A finger's bone. */ small: boolean; side: Mark['side'] })[]
  /** Who the performer is, above the head. */
  performerName?: { text: string; x: number; y: number }
  dots: Dot[]
}

/** The colour of a side of the body on the plate. */
export const colorOfSide = (side: string): string =>
  ({ left: 'var(--g-verdigris)', right: 'var(--g-ochre)', middle: 'var(--g-slate)' })[side] ?? 'var(--on-ground)'
