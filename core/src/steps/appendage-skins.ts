import { compose, multiplyMat4, transformPoint, vec3At } from '../math'
import type { Mesh } from '../mesh'
import { attachmentOf, type Recipe } from '../recipe'
import { skinOver, type Skin } from '../skin'
import { jointIds, type Skeleton } from '../skeleton'
import { matrixOf } from './attach'
import type { ShapeResult } from './shape-result'
import type { StepContext } from './types'

/**
 * The skin that attached appendages brought along laid on their pieces; those without one keep the weights worked out.
 * @param skin of the whole body
 */
export async function withOwnSkins(
  { recipe, get }: StepContext<'automaticSkin'>,
  shape: ShapeResult,
  skeleton: Skeleton,
  skin: Skin,
): Promise<Skin> {
  let out = skin
  for (const { file, beside, place, attached } of recipe.added) {
    const record = attached && attachmentOf(recipe, file.hash)
    if (!record) continue
    const came = await get('read', { file, beside })
    if (!came.mesh || !came.skin) continue
    const joints = jointsNow(came.skeleton!.names, record.joints, skeleton)
    // a joint that was taken out left its skin to whoever took it over
    if (joints.some(j => j < 0)) continue
    const upright = multiplyMat4(shape.straightened.matrix, place ? matrixOf(place) : compose([0, 0, 0], [0, 0, 0, 1]))
    const positions = came.mesh.positions.slice()
    for (let v = 0; v < positions.length / 3; v++) positions.set(transformPoint(upright, vec3At(positions, v)), 3 * v)
    const own: Skin = { ...came.skin, joints: came.skin.joints.map(j => joints[j]) }
    out = skinOver(shape.mesh, out, piecesOf(recipe, shape.mesh, record.joints[0].name), positions, own)
  }
  return out
}

/** Where each joint of the file is in the figure; -1 where it is there no more. */
function jointsNow(
  names: readonly string[],
  attached: readonly { readonly name: string }[],
  skeleton: Skeleton,
): number[] {
  const ids = jointIds(skeleton)
  return names.map((_, j) => ids.indexOf(attached[j]?.name ?? ''))
}

/** Pieces that move as this appendage. */
const piecesOf = (recipe: Recipe, mesh: Mesh, joint: string): Mesh['parts'] =>
  mesh.parts.filter(p => {
    const told = recipe.pieces[p.name]
    return told?.role === 'appendage' && told.joint === joint
  })
