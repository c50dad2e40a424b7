import { ChiraxisError, partOf, type WorkOptions } from '../math'
import { settleNormalMaps } from '../mesh'
import type { Take } from '../motion'
import type { GltfContent } from '../formats'
import type { Recipe } from '../recipe'
import type { Derivation } from './derivation'

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
  const { mesh, received } = await derivation.get('shape', recipe, work)
  const rig = await derivation.get('rig', recipe, work)
  const chosen = recipe.takes.filter(t => takes.includes(t.id))
  const performed: Take[] = [...rig.takes]
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
  return {
    name: recipe.name,
    mesh,
    materials: received.materials && settleNormalMaps(received.materials, recipe.normalMaps),
    images: received.images,
    skeleton: rig.skeleton,
    skin,
    takes: performed,
  }
}
