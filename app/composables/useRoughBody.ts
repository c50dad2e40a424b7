import type { Mesh } from '@chiraxis/core/mesh'
import type { ShallowRef } from 'vue'
import type { Stage } from '~/stage/stage'
import { core } from '~/workers/client'

/** Triangles of small and passing pictures where they are drawn in software. */
const TRIANGLES = 14_000
/** A body with hardly more is drawn whole. */
const ENOUGH = 1.4

/** Has the stage draw small and passing pictures of a large body with fewer triangles, where it draws in software. */
export function useRoughBody(stage: Readonly<ShallowRef<Stage | undefined>>) {
  let latest: Mesh | undefined
  /** To be told after every body the stage is given. */
  return async (mesh: Mesh | undefined): Promise<void> => {
    latest = mesh
    if (!mesh || !stage.value?.isSoft || mesh.indices.length < 3 * ENOUGH * TRIANGLES) return
    const { positions, indices, parts } = toRaw(mesh)
    const answer = await core().lightParts({ positions, indices, parts }, TRIANGLES)
    // without them every picture shows the whole
    if (answer.ok && latest === mesh) stage.value?.setRough(answer.value)
  }
}
