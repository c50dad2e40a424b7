import { vertexCount, triangleCount } from '@chiraxis/core/mesh'
import { findAll } from '@chiraxis/core/findings'
import { readReceived } from '@chiraxis/core/formats'
import { contextIn } from '@chiraxis/core/steps'
import { jointsInWorld, unitOfSkeleton, type RoleReading, type Skeleton } from '@chiraxis/core/skeleton'
import { bodyFrame, restShowsBody, restStance } from '@chiraxis/core/retarget'
import { takeSeconds } from '@chiraxis/core/motion'
import { angleBetween, nearestAxis, rotate, conjugate, ChiraxisError } from '@chiraxis/core/math'
import { runJob } from '../report'
import { openPath } from '../session'

/** `inspect FILE`: what a file holds and how it stands. */
export async function inspect(file: string, options: { report?: string }): Promise<void> {
  await runJob({ report: options.report, reads: [file] }, async job => {
    const { recipe, derivation } = await openPath(file)
    const received = await job.step('read', () =>
      derivation.get('read', recipe, { of: { file: recipe.body!, beside: recipe.beside } }),
    )
    const { mesh, skeleton } = received
    let stance: Record<string, unknown> = {}
    if (mesh) {
      const { straightened: s } = await job.step('straighten', () => derivation.get('shape', recipe))
      job.findings.push(
        ...(await job.step('findings', async () =>
          findAll({ ...(await contextIn(derivation, recipe, { reach: 'kept' })), asReceived: true }),
        )),
      )
      stance = { upAxis: s.up, facing: s.facing, unit: s.unit, height: s.height, unitMetres: s.scale }
    } else job.findings.push(...(await findAll({ dropped: received.dropped })))
    let joints: unknown[] = []
    let read: unknown = null
    if (skeleton) {
      const roles = readReceived(received)!
      read = readingOf(roles, skeleton)
      const roleOf = new Map(Object.entries(roles.joints).map(([r, j]) => [j, r]))
      joints = jointsInWorld(skeleton).map((j, i) => ({
        name: j.name,
        role: roleOf.get(i) ?? null,
        parent: j.parent >= 0 ? skeleton.names[j.parent] : null,
        position: j.position,
      }))
      // what may stand on four legs or face the other way tells nothing of how the file stands
      const sure = !roles.doubts.some(d => d.about === 'kind' || d.about === 'sides')
      if (roles.missing.length === 0 && sure) {
        try {
          const frame = bodyFrame(skeleton, roles.joints)
          const back = conjugate(frame)
          const arms = restStance(skeleton, roles.joints, frame).stance
          const drop = arms.leftUpperArm
            ? (angleBetween(rotate(arms.leftUpperArm, [1, 0, 0]), [1, 0, 0]) * 180) / Math.PI
            : 0
          stance = {
            upAxis: nearestAxis(rotate(back, [0, 1, 0])),
            facing: nearestAxis(rotate(back, [0, 0, 1])),
            ...(mesh ? {} : { unit: unitOfSkeleton(skeleton).name }),
            ...(mesh ? { unit: stance.unit, height: stance.height } : {}),
            restPose:
              roles.kind === 'fourleg'
                ? 'on four legs'
                : !restShowsBody(skeleton, roles.joints)
                  ? 'not standing'
                  : drop < 25
                    ? 'T-pose'
                    : drop < 65
                      ? 'A-pose'
                      : 'arms down',
          }
        } catch (error) {
          if (!(error instanceof ChiraxisError)) throw error
        }
      }
    }
    const kind = mesh && skeleton ? 'figure' : mesh ? 'body' : received.takes.length > 0 ? 'motion' : 'skeleton'
    return {
      kind,
      format: received.format,
      meshes: mesh?.parts.length ?? 0,
      vertices: mesh ? vertexCount(mesh) : 0,
      triangles: mesh ? triangleCount(mesh) : 0,
      joints,
      reading: read,
      takes: received.takes.map(t => ({ name: t.name, frames: t.frames, fps: t.fps, seconds: takeSeconds(t) })),
      upAxis: null,
      facing: null,
      unit: null,
      restPose: null,
      ...stance,
    }
  })
}

/** How a skeleton was read, how sure that is, and what is missing or in doubt. */
const readingOf = ({ kind, by, confidence, missing, doubts }: RoleReading, { names }: Skeleton): object => ({
  kind: missing.length === 0 ? kind : null,
  by,
  confidence: Math.round(confidence * 1000) / 1000,
  missing,
  doubtful: doubts.map(d => ({ about: d.about, joint: d.joint === undefined ? null : names[d.joint], why: d.why })),
})
