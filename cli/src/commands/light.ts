import { deliver, formatFor } from '@chiraxis/core/formats'
import { BAKE_SIZES, LIGHT_LIMITS } from '@chiraxis/core/light'
import { ChiraxisError } from '@chiraxis/core/math'
import type { Recipe } from '@chiraxis/core/recipe'
import { contentOf, toldJoints } from '@chiraxis/core/steps'
import { writeDelivered } from '../files'
import { runJob } from '../report'
import { openPath } from '../session'

/** `light BODY --out F.glb|F.obj --quads N`: a new surface of quads, bound to the skeleton. */
export async function lightCommand(
  body: string,
  options: { out: string; quads: string; bake?: string; report?: string },
): Promise<void> {
  await runJob({ report: options.report, out: options.out, reads: [body] }, async job => {
    const format = formatFor(options.out, ['glb', 'obj'])
    const quads = Number(options.quads)
    if (!Number.isInteger(quads) || quads < LIGHT_LIMITS.fewest || quads > LIGHT_LIMITS.most)
      throw new ChiraxisError(
        'bad-settings',
        `A light body has from ${LIGHT_LIMITS.fewest} to ${LIGHT_LIMITS.most} quads; ${options.quads} was asked for.`,
      )
    const bake = BAKE_SIZES.find(s => String(s) === options.bake)
    if (options.bake !== undefined && !bake)
      throw new ChiraxisError('bad-settings', `Images are baked at ${BAKE_SIZES.join(', ')} pixels.`)
    const { recipe: fresh, derivation } = await openPath(body)
    const recipe: Recipe = { ...fresh, light: { ...fresh.light, quads, deliver: true, ...(bake && { bake }) } }
    const shape = await job.step('read', () => derivation.get('shape', recipe))
    const { height } = shape.straightened
    const { placed } = await job.step('landmarks', () => derivation.get('landmarks', recipe))
    await job.step('skin', () => derivation.get('skin', recipe))
    const { report } = await job.step('light', () => derivation.get('light', recipe))
    const { skeleton } = await derivation.get('rig', recipe)
    const maps = bake ? await job.step('bake', () => derivation.get('lightMaps', recipe)) : undefined
    const content = await contentOf(derivation, recipe, [])
    const { proof, ...written } = await job.step('write', () => deliver(content, format))
    writeDelivered(options.out, written)
    const { deviation: d, uncovered: u } = report
    return {
      quads: report.quads,
      triangles: report.triangles,
      vertices: report.vertices,
      irregularVertices: report.irregular,
      loops: report.loops.map(l => ({ ...l, loops: l.loops.length })),
      deviation: { ...d, ofHeight: { mean: d.mean / height, p95: d.p95 / height, worst: d.worst / height } },
      uncovered: u,
      crossings: report.crossings,
      offTheSculpt: report.off,
      told: report.told,
      landmarks: placed.map(l => ({ name: l.id, position: l.position, confidence: l.confidence })),
      joints: toldJoints(skeleton),
      ...(maps && { baked: { size: bake, meanAngleDegrees: maps.angle, missed: maps.missed } }),
      height,
      proof,
    }
  })
}
