import { sourceAsRead } from '@chiraxis/core/document'
import { deliver, formatFor } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'
import { recogniseRoles, type Skeleton } from '@chiraxis/core/skeleton'
import { bind } from '@chiraxis/core/skin'
import { nameOf, receive, writeBytes } from '../files'
import { runJob } from '../report'
import { openPath } from '../session'
import { regionScores } from '../strain-report'

/** `bind BODY --skeleton F.glb --out G.glb`: skin only, body and skeleton taken where they stand. */
export async function bindCommand(
  body: string,
  options: { skeleton: string; out: string; influences: string; strain?: boolean; report?: string },
): Promise<void> {
  await runJob({ report: options.report, out: options.out, reads: [body, options.skeleton] }, async job => {
    formatFor(options.out)
    const received = await job.step('read', () => receive(body))
    const other = await job.step('readSkeleton', () => receive(options.skeleton))
    if (!received.mesh) throw new ChiraxisError('no-triangles', `${body} holds no body to bind.`)
    if (!other.skeleton) throw new ChiraxisError('no-skeleton', `${options.skeleton} holds no skeleton.`)
    const mesh = received.mesh
    const skeleton = withRoles(other.skeleton)
    const influences = Number(options.influences)
    const skin = await job.step('skin', () => bind(mesh, skeleton, { influences }))
    const read = sourceAsRead(received)
    // the skeleton is another one: whatever the body came with makes room for it
    const source = read && { ...read, joints: skeleton.names.map(() => -1), takeFrom: other.takes.map(() => -1) }
    const { materials, images } = received
    const content = { name: nameOf(body), mesh, skeleton, skin, materials, images, takes: other.takes, source }
    const { bytes, proof } = await job.step('write', () => deliver(content, formatFor(options.out)))
    writeBytes(options.out, bytes)
    const scores = options.strain && (await job.step('strain', () => strainOf(options.out)))
    return { ...scores, vertices: mesh.positions.length / 3, joints: skeleton.names.length, influences, proof }
  })
}

/** What the skin of a written figure goes through. */
async function strainOf(path: string): Promise<Record<string, unknown>> {
  const { derivation, recipe } = await openPath(path)
  return regionScores(derivation, recipe)
}

/** The same skeleton with the roles its names or structure tell, which keep the two sides apart. */
function withRoles(skeleton: Skeleton): Skeleton {
  const reading = recogniseRoles(skeleton)
  const roles: (string | undefined)[] = skeleton.names.map(() => undefined)
  if (reading.missing.length > 6) return skeleton
  for (const [role, j] of Object.entries(reading.joints)) roles[j] = role
  return { ...skeleton, roles }
}
