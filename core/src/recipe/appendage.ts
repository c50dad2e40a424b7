import type { Vec3 } from '../math'
import type { EditOf } from '../rig'
import type { Place, Recipe } from './recipe'

/** How an appendage is to be attached. */
export interface AttachChoice {
  /** What it hangs on. */
  readonly joint: string
  readonly prefix: string
  readonly scale: number
  /** x y z w, in the space of the body's file. */
  readonly turn: Place['turn']
  /** How far it is shifted there, metres; left out, its root stays where it was, at first where its own file has it. */
  readonly at?: Vec3
  /** Its root put on the joint, whatever the shift. */
  readonly onJoint?: boolean
}
export const ATTACH_DEFAULTS: AttachChoice = { joint: 'hips', prefix: '', scale: 1, turn: [0, 0, 0, 1] }

/** The record that an appendage's joints are kept in, by the hash of its file. */
export const attachmentOf = (recipe: Recipe, hash: string): EditOf<'attach'> | undefined =>
  recipe.bones.edits.find((e): e is EditOf<'attach'> => e.kind === 'attach' && e.file === hash)

/** A recipe without an appendage: its pieces and its joints. */
export const withoutAppendage = (recipe: Recipe, hash: string): Recipe => ({
  ...recipe,
  added: recipe.added.filter(a => a.file.hash !== hash || !a.attached),
  bones: { ...recipe.bones, edits: recipe.bones.edits.filter(e => e.kind !== 'attach' || e.file !== hash) },
})
