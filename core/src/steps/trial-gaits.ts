import { partOf, type Quat, type WorkOptions } from '../math'
import { takeSeconds, rootPath, type Played } from '../motion'
import { solesOf, type Sole } from '../surface'
import { gaitOf, standOf, type Gait } from '../trial'
import type { Recipe } from '../recipe'
import type { Derivation } from './derivation'

/** What a figure can be led with, made of its takes. */
export interface TrialGaits {
  readonly joints: Readonly<Record<string, number>>
  readonly frame: Quat
  readonly soles: Readonly<Record<string, Sole>>
  /** Takes that go straight somewhere in steps, and takes that stand; each by its id. */
  readonly gaits: readonly { readonly id: string; readonly gait: Gait }[]
  readonly stands: readonly { readonly id: string; readonly gait: Gait }[]
  /** Names of those that are neither. */
  readonly left: readonly string[]
}

/** Slower than this, metres a second, no take goes anywhere; one that turns more in a cycle, radians, goes no straight way. */
const SLOW = 0.35,
  TURNS = 0.35
/** A take that stands ends no farther than this from where it began, metres. */
const STAYS = 0.3

/** Makes gaits of takes as they are delivered. */
export async function trialGaits(
  derivation: Derivation,
  recipe: Recipe,
  ids: readonly string[],
  work: WorkOptions = {},
): Promise<TrialGaits | undefined> {
  const gaits: { id: string; gait: Gait }[] = []
  const stands: { id: string; gait: Gait }[] = []
  const left: string[] = []
  let about: Omit<TrialGaits, 'gaits' | 'stands' | 'left'> | undefined
  for (const [i, id] of ids.entries()) {
    const performed = await derivation.get('take', recipe, {
      of: id,
      ...partOf(work, i / ids.length, (i + 1) / ids.length),
    })
    const { figureSkeleton: skeleton, figure, figureFrame: frame, take, contacts, movingGround: ground } = performed
    const { joints } = figure
    if (joints.hips === undefined) continue
    about ??= { joints, frame, soles: solesOf(skeleton, joints, frame) }
    // as the take is called in the list
    const name = recipe.takes.find(t => t.id === id)?.name ?? take.name
    const played: Played = { skeleton, joints, take: { ...take, name }, frame }
    const gait = gaitOf(played, contacts, { ground })
    const path = rootPath(played)
    const last = take.frames - 1
    const turned = Math.abs(path.turn[last] - path.turn[0]) / Math.max(0.1, takeSeconds(take))
    if (gait && gait.speed > SLOW && turned * gait.seconds < TURNS) gaits.push({ id, gait })
    else if (!ground && Math.hypot(path.across[last] - path.across[0], path.ahead[last] - path.ahead[0]) < STAYS)
      stands.push({ id, gait: standOf(played) })
    else left.push(name)
  }
  return about && { ...about, gaits, stands, left }
}
