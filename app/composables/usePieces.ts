import { choiceOf, PIECE_KINDS, type PieceGuess, type PieceRole } from '@chiraxis/core/pieces'
import type { PieceChoice } from '@chiraxis/core/recipe'

export interface ShownPiece {
  readonly name: string
  readonly label: string
  readonly triangles: number
  readonly hidden: boolean
  /** How it moves: as somebody told, else as it is taken for; undefined where the skin came with the body and nobody told. */
  readonly role: PieceRole | undefined
  /** The joint it rides on, where it rides on one. */
  readonly joint: string | undefined
  readonly told: boolean
  readonly guess: PieceGuess | undefined
}

/** The pieces of the body: what they are called, what they are taken for, how they move; and how to tell otherwise. */
export function usePieces(): {
  readonly pieces: ComputedRef<readonly ShownPiece[]>
  readonly piece: (name: string | undefined) => ShownPiece | undefined
  readonly tell: (change: string, names: readonly string[], what: Partial<PieceChoice>) => void
} {
  const derived = useDerived()
  const project = useProject()
  const guesses = computed(() => new Map(derived.guesses.map(g => [g.name, g.guess])))
  const pieces = computed(() =>
    (derived.shape?.pieces ?? []).map((p): ShownPiece => {
      const choice = choiceOf(project.recipe.pieces, p)
      const guess = guesses.value.get(p.name)
      const role = choice?.role ?? (derived.ownSkin ? undefined : (guess?.role ?? 'body'))
      return {
        name: p.name,
        label: choice?.label ?? p.name,
        triangles: p.triangles,
        hidden: choice?.hidden === true,
        role,
        joint: choice?.role ? choice.joint : guess?.joint,
        told: choice?.role !== undefined,
        guess,
      }
    }),
  )
  function tell(change: string, names: readonly string[], what: Partial<PieceChoice>): void {
    const next = { ...project.recipe.pieces }
    for (const name of names) {
      const shown = derived.shape?.pieces.find(p => p.name === name)
      const before = shown ? choiceOf(project.recipe.pieces, shown) : undefined
      next[name] = { ...before, ...what }
    }
    project.change(change, { ...project.recipe, pieces: next })
  }
  return { pieces, piece: name => pieces.value.find(p => p.name === name), tell }
}

/** What a piece is taken for, in words. */
export const kindLabel = (guess: PieceGuess): string => PIECE_KINDS.find(k => k.id === guess.kind)!.label
