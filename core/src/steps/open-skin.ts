import { openCanvas, applySkinEdits, type LostSkinEdit, type SkinEdit } from '../paint'
import type { Skin } from '../skin'
import type { StepContext } from './types'

/** The skin of welded vertices with every repair made and no limit of influences, and the repairs that no longer fit. */
export interface OpenSkin {
  readonly skin: Skin
  readonly lost: readonly LostSkinEdit[]
}

/** Makes the repairs again, from the longest beginning of them that was made before. */
export async function repairOnto({ get, work, replay }: StepContext<'openSkin'>): Promise<OpenSkin> {
  const ground = await get('ground')
  const { skeleton } = await get('rig')
  const rough = await get('automaticSkin')
  const start = async (): Promise<OpenSkin> => ({ skin: openCanvas(ground, skeleton, rough).skin, lost: [] })
  return replay<SkinEdit>('skin.edits', start, async (before, edit, fresh) => {
    const { influences, joints, weights } = before.skin
    const skin = fresh ? before.skin : { influences, joints: joints.slice(), weights: weights.slice() }
    const canvas = { ...ground, skeleton, skin }
    const lost = await applySkinEdits(canvas, [edit], { ...work, load: file => get('weights', file) })
    return { skin, lost: [...before.lost, ...lost] }
  })
}
