import { ChiraxisError, partOf, type WorkOptions } from '../math'
import type { ImageFile, Material, Mesh } from '../mesh'
import { ownTakeIds, type Recipe } from '../recipe'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import { withTakes } from '../delivery'
import { writeGlb } from '../formats'
import { deliverableOf } from './content'
import type { Derivation } from './derivation'
import { trialClips, type TrialClips } from './trial-clips'

/** Another figure in the place of one's own, for a trial: how it looks, and the takes carried over onto it. */
export interface Guest {
  readonly name: string
  readonly mesh: Mesh
  readonly materials: readonly Material[]
  readonly images: readonly ImageFile[]
  readonly skeleton: Skeleton
  readonly skin: Skin
  readonly clips: TrialClips
}

/** The guest with what is carried over onto it. */
const dressed = (host: Recipe, guest: Recipe, ids: readonly string[]): Recipe => ({
  ...guest,
  takes: host.takes.filter(t => ids.includes(t.id)),
  transfer: host.transfer,
  performers: host.performers,
})

/**
 * A figure as a GLB with takes, each under a name of its own: as agents of a crowd play them.
 * @param guest another figure in the place of the host
 */
export async function crowdFile(
  derivation: Derivation,
  host: Recipe,
  guest: Recipe | undefined,
  takes: readonly { readonly id: string; readonly name: string }[],
  work: WorkOptions = {},
): Promise<Uint8Array<ArrayBuffer>> {
  const ids = takes.map(t => t.id)
  const recipe = guest ? dressed(host, guest, ids) : host
  const { content } = await deliverableOf(derivation, recipe, ids, work)
  const { takes: own } = await derivation.get('rig', recipe, work)
  // takes go along in an order of their own: those that came with the body first
  const order = [...ownTakeIds(own), ...recipe.takes.map(t => t.id)].filter(id => ids.includes(id))
  const asked = withTakes(
    content,
    ids.map(id => order.indexOf(id)),
  )
  const written = (asked.takes ?? []).map((t, i) => ({ ...t, name: takes[i].name }))
  // under another name a take is no longer the one the document holds
  const source = asked.source && { ...asked.source, takeFrom: written.map(() => -1) }
  return writeGlb({ ...asked, takes: written, source })
}

/**
 * Puts another figure in the place of the host: it keeps what was decided about itself and is given the host's takes, with how the
 * host wants takes carried over and what is known of their performers. Takes that came with the host's body stay with
 * it; where none is left, the guest's own are taken.
 * @param ids takes of the host
 * @throws ChiraxisError `no-take` where there is none at all
 */
export async function guestOf(
  derivation: Derivation,
  host: Recipe,
  guest: Recipe,
  ids: readonly string[],
  work: WorkOptions = {},
): Promise<Guest> {
  const recipe = dressed(host, guest, ids)
  const { takes } = recipe
  const { mesh, received } = await derivation.get('shape', recipe, partOf(work, 0, 0.2))
  const rig = await derivation.get('rig', recipe, partOf(work, 0.2, 0.35))
  const skin = await derivation.get('skin', recipe, partOf(work, 0.35, 0.5))
  const kept = takes.length > 0 ? takes.map(t => t.id) : ownTakeIds(rig.takes ?? []).slice(0, 12)
  const clips = kept.length > 0 ? await trialClips(derivation, recipe, kept, partOf(work, 0.5, 1)) : undefined
  if (!clips)
    throw new ChiraxisError(
      'no-take',
      `${guest.name} has no takes of its own, and none of those that are marked can be carried over.`,
    )
  return {
    name: guest.name,
    mesh,
    materials: received.materials ?? [],
    images: received.images ?? [],
    skeleton: rig.skeleton,
    skin,
    clips,
  }
}
