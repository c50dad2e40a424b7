import { partOf, type Quat, type WorkOptions } from '../math'
import { solesOf, type Sole } from '../surface'
import { clipOf, type Clip } from '../trial'
import type { Recipe } from '../recipe'
import type { Derivation } from './derivation'

/** What a figure can be led with, made of its takes. */
export interface TrialClips {
  readonly joints: Readonly<Record<string, number>>
  readonly frame: Quat
  readonly soles: Readonly<Record<string, Sole>>
  /** Each by its take's id. */
  readonly clips: readonly { readonly id: string; readonly clip: Clip }[]
}

/** Makes clips of takes as they are delivered: cycles of steps, stands, and what is done once. */
export async function trialClips(
  derivation: Derivation,
  recipe: Recipe,
  ids: readonly string[],
  work: WorkOptions = {},
): Promise<TrialClips | undefined> {
  const clips: { id: string; clip: Clip }[] = []
  let about: Omit<TrialClips, 'clips'> | undefined
  for (const [i, id] of ids.entries()) {
    const performed = await derivation.get('take', recipe, {
      of: id,
      ...partOf(work, i / ids.length, (i + 1) / ids.length),
    })
    const { figureSkeleton: skeleton, figure, figureFrame: frame, take, contacts, movingGround: ground } = performed
    const { joints } = figure
    if (joints.hips === undefined) continue
    about ??= { joints, frame, soles: solesOf(skeleton, joints, frame) }
    // as the take is called in the list; two of one name are told apart
    const told = recipe.takes.find(t => t.id === id)?.name ?? take.name
    const same = clips.filter(c => c.clip.name === told || c.clip.name.startsWith(`${told} (`)).length
    const name = same > 0 ? `${told} (${same + 1})` : told
    clips.push({ id, clip: clipOf({ skeleton, joints, take: { ...take, name }, frame }, contacts, ground) })
  }
  return about && { ...about, clips }
}
