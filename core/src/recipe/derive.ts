import { ChiraxisError, type Vec3, type WorkOptions, partOf } from '../math'
import { weldByPosition, type Mesh, type Weld } from '../mesh'
import { readFile, type Received } from '../formats'
import { applyEdits, detectLandmarks, type Landmark } from '../landmarks'
import { applyStraighten, straighten, type Straightened } from '../shape'
import { buildBiped, type Skeleton } from '../skeleton'
import { bind, type Skin } from '../skin'
import { perform, type Performed } from '../transfer'
import { stepKey } from './hash'
import type { FileRef, Recipe, TakeRef } from './recipe'

/** Bytes of a file by its reference. */
export type FileSource = (file: FileRef) => Promise<Uint8Array>

export interface ShapeResult { readonly received: Received; readonly straightened: Straightened; readonly mesh: Mesh; readonly weld: Weld }

/** The derived results of a recipe, each worked out once for the inputs it depends on. */
export interface Derivation {
  shape(recipe: Recipe, work?: WorkOptions): Promise<ShapeResult>
  landmarks(recipe: Recipe, work?: WorkOptions): Promise<{ found: readonly Landmark[]; placed: readonly Landmark[] }>
  skeleton(recipe: Recipe, work?: WorkOptions): Promise<Skeleton>
  skin(recipe: Recipe, work?: WorkOptions): Promise<Skin>
  performer(take: TakeRef, work?: WorkOptions): Promise<Received>
  take(recipe: Recipe, take: TakeRef, work?: WorkOptions): Promise<Performed>
}

/** Results kept per step; the oldest make room. */
const KEPT = 24

/**
 * The steps of a recipe as pure functions of what they depend on, behind a cache by content hash.
 * A step that was stopped or failed leaves nothing behind, so it is worked out again when asked.
 */
export function createDerivation(source: FileSource): Derivation {
  const cache = new Map<string, Promise<unknown>>()
  function once<T>(key: string, make: () => Promise<T>): Promise<T> {
    const known = cache.get(key) as Promise<T> | undefined
    if (known) {
      cache.delete(key)
      cache.set(key, known)
      return known
    }
    const made = make()
    cache.set(key, made)
    made.catch(() => { if (cache.get(key) === made) cache.delete(key) })
    while (cache.size > KEPT) cache.delete(cache.keys().next().value!)
    return made
  }

  const shapeKey = (r: Recipe): unknown[] => [r.body?.hash, r.straighten]
  const landmarkKey = (r: Recipe): unknown[] => [...shapeKey(r), r.landmarks.edits]

  async function received(file: FileRef): Promise<Received> {
    return once(stepKey('read', file.hash, file.name), async () => readFile(await source(file), file.name))
  }

  const derivation: Derivation = {
    shape: (recipe, work = {}) => {
      const body = recipe.body
      if (!body) return Promise.reject(new ChiraxisError('missing-file', 'There is no body yet. Drop one on the window or open the sample figure.'))
      return once(stepKey('shape', ...shapeKey(recipe)), async () => {
        const file = await received(body)
        if (!file.mesh) throw new ChiraxisError('no-triangles', `${body.name} holds a motion but no body. Drop it again in Motion.`)
        const straightened = await straighten(file.mesh, recipe.straighten, work)
        const mesh = applyStraighten(file.mesh, straightened)
        return { received: file, straightened, mesh, weld: weldByPosition(mesh.positions) }
      })
    },
    landmarks: async (recipe, work = {}) => {
      const { mesh, straightened } = await derivation.shape(recipe, partOf(work, 0, 0.4))
      const found = await once(stepKey('landmarks', ...shapeKey(recipe)), () => detectLandmarks(mesh, partOf(work, 0.4, 1)))
      return { found, placed: applyEdits(found, recipe.landmarks.edits as Record<string, Vec3>, straightened.height) }
    },
    skeleton: async (recipe, work = {}) => {
      const { placed } = await derivation.landmarks(recipe, work)
      return once(stepKey('skeleton', ...landmarkKey(recipe)), async () => buildBiped(placed))
    },
    skin: async (recipe, work = {}) => {
      const { mesh } = await derivation.shape(recipe, partOf(work, 0, 0.2))
      const skeleton = await derivation.skeleton(recipe, partOf(work, 0.2, 0.4))
      return once(stepKey('skin', ...landmarkKey(recipe), recipe.skin), () => bind(mesh, skeleton, { ...recipe.skin, ...partOf(work, 0.4, 1) }))
    },
    performer: take => received(take.file),
    take: async (recipe, take, work = {}) => {
      const file = await received(take.file)
      const motion = file.takes[take.index]
      if (!file.skeleton || !motion) throw new ChiraxisError('no-take', `${take.file.name} holds no motion that could be carried over.`)
      const figure = await derivation.skeleton(recipe, partOf(work, 0, 0.3))
      return once(stepKey('take', ...landmarkKey(recipe), take.file.hash, take.index, recipe.transfer), () =>
        perform(file.skeleton!, { ...motion, name: take.name }, figure, { rest: recipe.transfer.rest, ground: recipe.transfer.ground, ...partOf(work, 0.3, 1) }))
    },
  }
  return derivation
}
