import { ChiraxisError, partOf, type WorkOptions } from '../math'
import type { Take } from '../motion'
import { jointIds } from '../skeleton'
import { sourceAsRead, type SourceFigure } from '../document'
import type { GltfContent } from '../formats'
import { ownTakeIds, type Recipe } from '../recipe'
import type { Derivation } from './derivation'
import { performOwnTake } from './own-take'
import { receivedRig } from './received-rig'
import type { ShapeResult } from './shape-result'
import type { RigResult } from './types'

/**
 * Everything of a figure that a file can hold.
 * @param takes ids of carried takes to put in; takes of its own always go along
 */
export async function contentOf(
  derivation: Derivation,
  recipe: Recipe,
  takes: readonly string[],
  work: WorkOptions = {},
): Promise<GltfContent> {
  const skin = await derivation.get('skin', recipe, partOf(work, 0, 0.7))
  const shape = await derivation.get('shape', recipe, work)
  const { mesh, received } = shape
  const rig = await derivation.get('rig', recipe, work)
  const chosen = recipe.takes.filter(t => takes.includes(t.id))
  const performed: Take[] = layeredOwn(recipe, rig)
  for (const [i, { id, name }] of chosen.entries()) {
    const part = partOf(work, 0.7 + (0.3 * i) / chosen.length, 0.7 + (0.3 * (i + 1)) / chosen.length)
    try {
      performed.push({ ...(await derivation.get('take', recipe, { of: id, ...part })).take, name })
    } catch (error) {
      // which of many it is
      if (error instanceof ChiraxisError && error.code !== 'stopped')
        throw new ChiraxisError(error.code, `The take ${name} cannot go along. ${error.message}`, error.details)
      throw error
    }
  }
  const { shapes } = await derivation.get('correctives', recipe, work)
  return {
    name: recipe.name,
    mesh,
    materials: received.materials,
    images: received.images,
    normalMaps: recipe.normalMaps,
    ...(shapes.length > 0 && { shapes }),
    skeleton: rig.skeleton,
    skin,
    takes: performed,
    source: sourceOf(shape, rig, performed),
  }
}

/** Takes that came with the body, with what was changed of them by hand. */
const layeredOwn = (recipe: Recipe, rig: RigResult): Take[] =>
  ownTakeIds(rig.takes).map((id, i) => {
    const layers = recipe.ownLayers?.[id]
    return layers?.length ? performOwnTake(rig, id, layers).take : rig.takes[i]
  })

/** The body alone, upright and whole, as a file can hold it. */
export async function bodyContentOf(
  derivation: Derivation,
  recipe: Recipe,
  work: WorkOptions = {},
): Promise<GltfContent> {
  const shape = await derivation.get('shape', recipe, work)
  const { materials, images } = shape.received
  return {
    name: recipe.name,
    mesh: shape.mesh,
    materials,
    images,
    normalMaps: recipe.normalMaps,
    source: sourceOf(shape),
  }
}

/** The document a figure came in, and how it came from there; none for formats that are not kept whole. */
export function sourceOf(
  shape: ShapeResult,
  rig?: Pick<RigResult, 'skeleton' | 'takes' | 'source'>,
  written: readonly Take[] = rig?.takes ?? [],
): SourceFigure | undefined {
  const { received, straightened, from, parts, mirror } = shape
  const read = sourceAsRead(received)
  if (!read) return undefined
  const kept = rig?.source === 'received'
  const base = kept ? receivedRig(shape).skeleton : undefined
  const place = new Map(base && jointIds(base).map((id, r) => [id, r]))
  const joints = rig ? jointIds(rig.skeleton).map(id => place.get(id) ?? -1) : []
  return {
    ...read,
    matrix: straightened.matrix,
    from,
    parts,
    mirror,
    joints,
    roles: base && joints.map(r => (r >= 0 ? base.roles[r] : undefined)),
    // what was changed by hand is written anew
    takeFrom: kept ? rig!.takes.map((take, i) => (written[i] === take ? i : -1)) : [],
  }
}
