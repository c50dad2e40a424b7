import { ChiraxisError, conjugate, nearestAxis, rotate } from '../math'
import type { Received } from '../formats'
import { transformSkeleton, transformTake, type Rig } from '../rig'
import type { StraightenChoice } from '../shape'
import { pickRows } from '../skin'
import { jointIds, recogniseRoles } from '../skeleton'
import { bodyFrame } from '../retarget'
import type { ShapeResult } from './shape-result'

/** Up and facing of a body as its own skeleton tells them, which is surer than its shape. */
export function toldBySkeleton(file: Received): StraightenChoice {
  if (!file.skeleton) return {}
  const roles = recogniseRoles(file.skeleton)
  if (roles.missing.length > 0) return {}
  try {
    const back = conjugate(bodyFrame(file.skeleton, roles.joints))
    return { up: nearestAxis(rotate(back, [0, 1, 0])), facing: nearestAxis(rotate(back, [0, 0, 1])) }
  } catch (error) {
    if (error instanceof ChiraxisError) return {}
    throw error
  }
}

/** The skeleton, skin and takes that came with a body, straightened with it, roles told as far as they are recognised. */
export function receivedRig(shape: Pick<ShapeResult, 'received' | 'straightened' | 'mesh' | 'from'>): Rig {
  const { received, straightened, mesh, from } = shape
  const own = received.skeleton!
  const read = recogniseRoles(own)
  const roles: (string | undefined)[] = own.names.map(() => undefined)
  for (const [role, j] of Object.entries(read.joints)) roles[j] = role
  const named = { ...own, roles }
  // many files have joints of one name: each is known by an id of its own from here on
  const skeleton = transformSkeleton({ ...named, ids: jointIds(named) }, straightened.matrix)
  const sameBody = mesh.positions.length === (from ? from.length * 3 : received.mesh!.positions.length)
  const skin = received.skin && sameBody ? (from ? pickRows(received.skin, from) : received.skin) : undefined
  return { skeleton, mesh, skin, takes: received.takes.map(t => transformTake(t, own.parents, straightened.matrix)) }
}
