import type { MeshPart } from '../mesh'
import { choiceOf, type PieceTreatment } from '../pieces'
import type { Recipe } from '../recipe'

type Pieces = Recipe['pieces']

/** How pieces are to move, as far as somebody told. */
export const told = (pieces: Pieces): unknown[] =>
  Object.entries(pieces)
    .filter(([, p]) => p.role !== undefined && p.role !== 'left-out')
    .map(([name, p]) => [name, p.role, p.joint])
/** How somebody said a piece is to move; undefined where nobody did. */
export const toldOf = (pieces: Pieces, part: MeshPart): PieceTreatment | undefined => {
  const choice = choiceOf(pieces, part)
  return choice?.role === undefined ? undefined : { role: choice.role, joint: choice.joint, told: true }
}
