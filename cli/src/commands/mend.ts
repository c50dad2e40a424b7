import type { Finding } from '@chiraxis/core/findings'
import { deliver, formatFor } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'
import { keepsReceived } from '@chiraxis/core/recipe'
import { bodyContentOf, contentOf, mendAll } from '@chiraxis/core/steps'
import { writeBytes } from '../files'
import { runJob } from '../report'
import { openPath } from '../session'

/** `mend FILE --out G`: every mismatch that can be mended safely is. A body without a skeleton is straightened and cleaned. */
export async function mend(file: string, options: { out: string; report?: string }): Promise<void> {
  await runJob({ report: options.report, out: options.out, reads: [file] }, async job => {
    formatFor(options.out)
    const { recipe, derivation } = await openPath(file)
    const shape = await job.step('read', () => derivation.get('shape', recipe))
    const stood = (await derivation.get('findings', recipe, { of: [] }))
      .filter(f => STANCE.has(f.rule))
      .map(f => f.rule)
    const result = await job.step('mend', () => mendAll(derivation, recipe))
    const content = keepsReceived(result.recipe, shape.received)
      ? await contentOf(derivation, result.recipe, [])
      : await bodyContentOf(derivation, result.recipe)
    if (!content.mesh) throw new ChiraxisError('no-triangles', `${file} holds no body to mend.`)
    const { bytes, proof } = await job.step('write', () => deliver(content, formatFor(options.out)))
    writeBytes(options.out, bytes)
    job.findings.push(...result.left.filter(f => !STANCE.has(f.rule)))
    const told = (found: readonly Finding[]): object[] =>
      found.map(({ rule, severity, where, value, unit }) => ({ rule, severity, where, value, unit }))
    return {
      mended: [...new Set([...stood, ...result.mended])],
      before: told(result.before),
      after: told(result.left),
      takenBack: result.takenBack,
      proof,
    }
  })
}

/** What straightening mends by itself. */
const STANCE: ReadonlySet<string> = new Set([
  'lying-body',
  'facing-away',
  'turned-body',
  'unit-off',
  'off-ground',
  'off-midline',
])
