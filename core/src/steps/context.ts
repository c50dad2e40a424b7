import { ChiraxisError } from '../math'
import type { FindingContext } from '../findings'
import { keepsReceived, laysGiven, type Recipe } from '../recipe'
import { lostChoices } from './lost-choices'
import { doubtsOn } from './received-rig'
import type { StepContext } from './types'

export interface ContextOptions {
  /** Takes that are looked at. */
  readonly takes?: readonly string[]
  /** `kept` looks only at what the file itself holds: no landmarks are searched for. Default all. */
  readonly reach?: 'kept' | 'all'
}

/** What one step refused for a reason that is told elsewhere is left out; a stop is passed on. */
const orNothing = (error: unknown): undefined => {
  if (error instanceof ChiraxisError && error.code !== 'stopped') return undefined
  throw error
}

/** What the rules look at: as much of the figure as can be worked out. */
export async function contextOf(
  recipe: Recipe,
  get: StepContext['get'],
  { takes = [], reach = 'all' }: ContextOptions = {},
): Promise<FindingContext> {
  const shape = await get('shape')
  const { received } = shape
  const base: FindingContext = {
    mesh: shape.mesh,
    weld: shape.weld,
    straightened: shape.straightened,
    dropped: received.dropped,
    edits: recipe.landmarks.edits,
    grounded: recipe.transfer.ground,
    materials: received.materials,
    images: received.images,
    normalMaps: recipe.normalMaps,
    bumpy: await get('bumpy'),
    half: recipe.mirrorHalf ? undefined : await get('half'),
    check: await get('check'),
    influences: recipe.skin.influences,
    lostChoices: lostChoices(recipe, received, shape.mesh, undefined, shape.lost),
    ...(recipe.trial?.states && { states: recipe.trial.states }),
  }
  if (base.half || (reach === 'kept' && !keepsReceived(recipe, received))) return base
  const rig = await get('rig').catch(orNothing)
  if (!rig) return base
  const performed = []
  for (const id of takes) {
    const one = await get('take', id).catch(orNothing)
    const name = recipe.takes.find(t => t.id === id)?.name
    if (one) performed.push(name ? { ...one, take: { ...one.take, name } } : one)
  }
  return {
    ...base,
    performed,
    solid: await get('solid'),
    landmarks: rig.source === 'plan' ? (await get('landmarks')).placed : undefined,
    skeleton: rig.skeleton,
    source: rig.source,
    edited: rig.source === 'plan' && !laysGiven(recipe) && recipe.bones.edits.length > 0,
    doubts:
      rig.source === 'received'
        ? doubtsOn(rig.skeleton, shape)
        : laysGiven(recipe)
          ? (await get('given'))?.reading.doubts
          : undefined,
    skin: rig.skin,
    bleeding: await get('bleeding'),
    lost: rig.lost,
    lostChoices: lostChoices(recipe, received, shape.mesh, rig.skeleton, shape.lost),
    lostSkin: recipe.skin.edits.length > 0 ? ((await get('openSkin').catch(orNothing))?.lost ?? []) : [],
  }
}
