import type { MeshPart } from '../mesh'

/** How a piece is to move: as the recipe tells it. */
export interface PieceTreatment {
  readonly role: PieceRole
  /** The joint a rigid piece rides on, by role or name; left out, the one that moves most of it. */
  readonly joint?: string
  /** Whether somebody told it, in place of a guess. */
  readonly told?: boolean
}
export const PIECE_ROLES = ['body', 'rigid', 'garment', 'strips', 'appendage', 'left-out'] as const
export type PieceRole = (typeof PIECE_ROLES)[number]

/** What was chosen for a part: by its own name, or by one its file calls it. */
export function choiceOf<T>(pieces: Readonly<Record<string, T>>, part: Pick<MeshPart, 'name' | 'aka'>): T | undefined {
  if (Object.hasOwn(pieces, part.name)) return pieces[part.name]
  const other = part.aka?.find(name => Object.hasOwn(pieces, name))
  return other === undefined ? undefined : pieces[other]
}
