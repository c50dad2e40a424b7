import { ChiraxisError, conjugate, nearestAxis, rotate } from '../math'
import type { Received } from '../formats'
import { transformSkeleton, transformTake, type Rig } from '../rig'
import type { StraightenChoice, StraightenHints } from '../shape'
import { pickRows } from '../skin'
import { jointIds, withRoles, type Doubt, type RoleReading, type Skeleton } from '../skeleton'
import { bodyFrame, restShowsBody } from '../retarget'
import type { ShapeResult } from './shape-result'

/**
 * Up and facing of a body as its own skeleton tells them, which is surer than its shape; nothing where the reading is in doubt,
 * so that a body is never turned for it.
 */
function toldBySkeleton({ skeleton }: Received, reading: RoleReading | undefined): StraightenChoice {
  if (!skeleton || !reading || reading.missing.length > 0 || reading.doubts.length > 0) return {}
  try {
    const back = conjugate(bodyFrame(skeleton, reading.joints))
    const up = nearestAxis(rotate(back, [0, 1, 0]))
    const facing = nearestAxis(rotate(back, [0, 0, 1]))
    if (restShowsBody(skeleton, reading.joints)) return { up, facing }
    // somebody who sits or bends tells up by the trunk alone, which holds only where the file says the same
    return up === UP ? { up, facing } : {}
  } catch (error) {
    if (error instanceof ChiraxisError) return {}
    throw error
  }
}
const UP = '+y'

/** What is known of how a received body stands before its shape is looked at: by its skeleton, and by its format. */
export const toldByFile = (received: Received, reading: RoleReading | undefined): StraightenHints => ({
  ...toldBySkeleton(received, reading),
  ...((received.format === 'glb' || received.format === 'gltf') && { specifiedUp: UP }),
})

/** The skeleton, skin and takes that came with a body, straightened with it, roles told as far as they are recognised. */
export function receivedRig(shape: Pick<ShapeResult, 'received' | 'straightened' | 'mesh' | 'from' | 'reading'>): Rig {
  const { received, straightened, mesh, from, reading } = shape
  const own = received.skeleton!
  const named = withRoles(own, reading?.joints ?? {})
  // many files have joints of one name: each is known by an id of its own from here on
  const skeleton = transformSkeleton({ ...named, ids: jointIds(named) }, straightened.matrix)
  const sameBody = mesh.positions.length === (from ? from.length * 3 : received.mesh!.positions.length)
  const skin = received.skin && sameBody ? (from ? pickRows(received.skin, from) : received.skin) : undefined
  return { skeleton, mesh, skin, takes: received.takes.map(t => transformTake(t, own.parents, straightened.matrix)) }
}

/** Doubts about the skeleton as it came, told by the joints it has after its edits. */
export function doubtsOn(skeleton: Skeleton, shape: ShapeResult): readonly Doubt[] {
  const doubts = shape.reading?.doubts
  if (!doubts || doubts.length === 0) return []
  const came = jointIds(receivedRig(shape).skeleton)
  const now = new Map(jointIds(skeleton).map((id, j) => [id, j]))
  return doubts.map(d => ({ ...d, joint: d.joint === undefined ? undefined : now.get(came[d.joint]) }))
}
