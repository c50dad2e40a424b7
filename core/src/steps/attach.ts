import {
  ChiraxisError,
  compose,
  multiplyMat4,
  sub,
  transformPoint,
  vec3At,
  type Mat4,
  type Vec3,
  type WorkOptions,
} from '../math'
import { choiceOf } from '../pieces'
import type { Place, Recipe } from '../recipe'
import { graftRecord, type EditOf } from '../rig'
import { bindPose, findJoint, jointRef, type Skeleton } from '../skeleton'
import type { Derivation } from './derivation'
import type { FileSet } from './types'

export interface AttachChoice {
  /** What it hangs on. */
  readonly joint: string
  readonly prefix: string
  readonly scale: number
  /** x y z w, in the space of the body's file. */
  readonly turn: Place['turn']
  /** Its root put on the joint, else where its own file has it. */
  readonly onJoint: boolean
  /** From there, in the body's own axes, metres. */
  readonly shift: Vec3
}
export const ATTACH_DEFAULTS: AttachChoice = {
  joint: 'hips',
  prefix: '',
  scale: 1,
  turn: [0, 0, 0, 1],
  onJoint: false,
  shift: [0, 0, 0],
}

/** The record that an appendage's joints are kept in; undefined where its file has none. */
export const graftOf = (recipe: Recipe, hash: string): EditOf<'graft'> | undefined =>
  recipe.bones.edits.find((e): e is EditOf<'graft'> => e.kind === 'graft' && e.file === hash)

/** A recipe without an appendage: its piece, its joints, and what was decided about them. */
export function withoutAppendage(recipe: Recipe, hash: string): Recipe {
  return {
    ...recipe,
    added: recipe.added.filter(a => a.file.hash !== hash || !a.attached),
    bones: { ...recipe.bones, edits: recipe.bones.edits.filter(e => e.kind !== 'graft' || e.file !== hash) },
  }
}

/**
 * Attaches what a file holds to a joint: its surface becomes pieces of the body, its skeleton hangs on the joint under names
 * of its own, and its skin moves it. Attached once more, it is put otherwise.
 * @throws ChiraxisError `no-skeleton`, `no-triangles` where the file has not what is asked for; `bad-settings` without that joint
 */
export async function attachAppendage(
  derivation: Derivation,
  recipe: Recipe,
  set: FileSet,
  choice: AttachChoice,
  work: WorkOptions = {},
): Promise<Recipe> {
  const came = await derivation.get('read', recipe, { of: set, ...work })
  const own = came.skeleton
  if (!came.mesh) throw new ChiraxisError('no-triangles', `${set.file.name} holds no surface that could be attached.`)
  if (!own || own.names.length === 0)
    throw new ChiraxisError(
      'no-skeleton',
      `${set.file.name} holds no joints of its own. Bring it in as a piece, and draw a chain in it.`,
    )
  const bare = withoutAppendage(recipe, set.file.hash)
  const before = await derivation.get('shape', bare, work)
  const { skeleton } = await derivation.get('rig', bare, work)
  const parent = findJoint(skeleton, choice.joint)
  if (parent < 0) throw new ChiraxisError('bad-settings', `There is no joint ${choice.joint} to attach it to.`)
  const place = placeOf(choice, own, skeleton, parent, before.straightened.matrix)
  const attached = { joint: jointRef(skeleton, parent), prefix: choice.prefix }
  const added: Recipe = {
    ...bare,
    added: [...bare.added, { file: set.file, beside: [...set.beside], place, attached }],
  }
  // a piece may make the whole body taller, and places are shares of its height
  const { straightened, mesh, received } = await derivation.get('shape', added, work)
  const edit = graftRecord(
    (await derivation.get('rig', added, work)).skeleton,
    parent,
    own,
    multiplyMat4(straightened.matrix, matrixOf(place)),
    straightened.height,
    { prefix: choice.prefix, file: set.file.hash },
  )
  const first = received.mesh!.parts.length - came.mesh.parts.length
  const names = received.mesh!.parts.slice(first).map(p => p.name)
  const told = Object.fromEntries(
    mesh.parts
      .filter(p => names.includes(p.name))
      .map(p => [p.name, { ...choiceOf(added.pieces, p), role: 'appendage' as const, joint: edit.joints[0].name }]),
  )
  return {
    ...added,
    pieces: { ...added.pieces, ...told },
    bones: { ...added.bones, edits: inPlaceOf(recipe, added, edit) },
  }
}

/** Edits with a graft where it was before, so that what was done to its joints afterwards still finds them. */
function inPlaceOf(before: Recipe, bare: Recipe, edit: EditOf<'graft'>): Recipe['bones']['edits'] {
  const was = before.bones.edits.findIndex(e => e.kind === 'graft' && e.file === edit.file)
  const edits = [...bare.bones.edits]
  edits.splice(was < 0 ? edits.length : was, 0, edit)
  return edits
}

export const matrixOf = ({ scale: s, turn, at }: Place): Mat4 => compose(at, turn, [s, s, s])

/** Where an appendage is put, in the space of the body's file. */
function placeOf(choice: AttachChoice, own: Skeleton, skeleton: Skeleton, parent: number, upright: Mat4): Place {
  const m = matrixOf({ scale: choice.scale, turn: choice.turn, at: [0, 0, 0] })
  const back = inverse(upright)
  const root = transformPoint(m, vec3At(bindPose(own).positions, 0))
  const to = back.point(vec3At(bindPose(skeleton).positions, parent))
  const shift = back.way(choice.shift)
  const at: Vec3 = choice.onJoint ? sub(to, root) : [0, 0, 0]
  return { scale: choice.scale, turn: choice.turn, at: [at[0] + shift[0], at[1] + shift[1], at[2] + shift[2]] }
}

/** Back from the upright body to its file: turned, evenly scaled and shifted as it was brought upright. */
function inverse(m: Mat4): { point: (p: Vec3) => Vec3; way: (v: Vec3) => Vec3 } {
  const origin = transformPoint(m, [0, 0, 0])
  const column = (k: number): Vec3 => [m[4 * k], m[4 * k + 1], m[4 * k + 2]]
  const size2 = column(0).reduce((s, v) => s + v * v, 0)
  const way = (v: Vec3): Vec3 => [0, 1, 2].map(k => column(k).reduce((s, c, i) => s + c * v[i], 0) / size2) as Vec3
  return { point: p => way(sub(p, origin)), way }
}
