import { findContacts, movingGround, type Played } from '@chiraxis/core/motion'
import { bodyFrame, transfer } from '@chiraxis/core/retarget'
import { recogniseRoles, type Skeleton } from '@chiraxis/core/skeleton'
import { solesOf } from '@chiraxis/core/surface'
import { clipOf, type Clip, type Walker } from '@chiraxis/core/trial'
import { makeFigure, trueSkeleton, variedProportions } from '../src/figures'
import { NORTH, record, SOUTH, type Move } from '../src/takes'

/** A body of a seed. */
export const bodyOf = (seed: number): Skeleton => trueSkeleton(makeFigure(variedProportions(seed), { vertices: 2000 }))

/** A figure that can be led, its clips made of moves recorded on either performer at several rates and carried over. */
export async function walkerOf(skeleton: Skeleton, moves: readonly Move[]): Promise<Walker> {
  const { joints } = recogniseRoles(skeleton)
  const frame = bodyFrame(skeleton, joints)
  const clips: Clip[] = []
  for (const [i, move] of moves.entries()) {
    const recorded = record(move, i % 2 ? NORTH : SOUTH, [30, 60, 24][i % 3])
    const { take } = await transfer(recorded.skeleton, recorded.take, skeleton)
    const p: Played = { skeleton, joints, take: { ...take, name: move.name }, frame }
    clips.push(clipOf(p, findContacts(p), movingGround(p)))
  }
  return { skeleton, joints, frame, soles: solesOf(skeleton, joints, frame), clips }
}
