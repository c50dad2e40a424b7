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
import { withoutAppendage, type AttachChoice, type Place, type Recipe } from '../recipe'
import { attachRecord, type EditOf } from '../rig'
import { bindPose, findJoint, jointRef, type Skeleton } from '../skeleton'
import type { Derivation } from './derivation'
import type { FileSet } from './types'

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
  const was = recipe.added.find(a => a.attached && a.file.hash === set.file.hash)?.place
  const joint = vec3At(bindPose(skeleton).positions, parent)
  const place = placeOf(choice, own, was, joint, before.straightened.matrix)
  const attached = { joint: jointRef(skeleton, parent), prefix: choice.prefix }
  const added: Recipe = {
    ...bare,
    added: [...bare.added, { file: set.file, beside: [...set.beside], place, attached }],
  }
  const { straightened, mesh, received } = await derivation.get('shape', added, work)
  const edit = attachRecord(
    skeleton,
    parent,
    own,
    multiplyMat4(straightened.matrix, matrixOf(place)),
    straightened.height,
    { prefix: choice.prefix, file: set.file.hash },
  )
  const first = received.mesh!.parts.length - came.mesh.parts.length
  const names = received.mesh!.parts.slice(first).map(p => p.name)
  const stem = set.file.name.replace(/\.[^.]*$/, '').slice(0, 60)
  const told = Object.fromEntries(
    mesh.parts
      .filter(p => names.includes(p.name))
      .map(p => [
        p.name,
        {
          label: names.length === 1 ? stem : `${stem} ${p.name}`,
          ...choiceOf(added.pieces, p),
          role: 'appendage' as const,
          joint: edit.joints[0].name,
        },
      ]),
  )
  return {
    ...added,
    pieces: { ...added.pieces, ...told },
    bones: { ...added.bones, edits: inPlaceOf(recipe, added, edit) },
  }
}

/** Edits with an attachment where it was before, so that what was done to its joints afterwards still finds them. */
function inPlaceOf(before: Recipe, bare: Recipe, edit: EditOf<'attach'>): Recipe['bones']['edits'] {
  const was = before.bones.edits.findIndex(e => e.kind === 'attach' && e.file === edit.file)
  const edits = [...bare.bones.edits]
  edits.splice(was < 0 ? edits.length : was, 0, edit)
  return edits
}

export const matrixOf = ({ scale: s, turn, at }: Place): Mat4 => compose(at, turn, [s, s, s])

/** Where an appendage is put, in the space of the body's file. */
function placeOf(
  { scale: size, turn, at, onJoint }: AttachChoice,
  own: Skeleton,
  before: Place | undefined,
  joint: Vec3,
  upright: Mat4,
): Place {
  const root = vec3At(bindPose(own).positions, 0)
  const turned = transformPoint(matrixOf({ scale: size, turn, at: [0, 0, 0] }), root)
  if (onJoint) return { scale: size, turn, at: sub(backFrom(upright, joint), turned) }
  // scaled or turned, it keeps its root where that is
  const stays: Vec3 = before ? sub(transformPoint(matrixOf(before), root), turned) : [0, 0, 0]
  return { scale: size, turn, at: at ?? stays }
}

/** A place in the upright body told in the space of its file, which was turned, evenly scaled and shifted. */
function backFrom(m: Mat4, p: Vec3): Vec3 {
  const d = sub(p, transformPoint(m, [0, 0, 0]))
  const size2 = m[0] ** 2 + m[1] ** 2 + m[2] ** 2
  return [0, 1, 2].map(k => (m[4 * k] * d[0] + m[4 * k + 1] * d[1] + m[4 * k + 2] * d[2]) / size2) as Vec3
}
