import { runJob } from '../report'
import { openPath } from '../session'
import { strainReport } from '../strain-report'

/** `strain FILE`: what the skin of a figure goes through in the check poses; a body without a skin gets an automatic one. */
export async function strainCommand(file: string, options: { report?: string }): Promise<void> {
  await runJob({ report: options.report, reads: [file] }, async job => {
    const { recipe, derivation } = await openPath(file)
    await job.step('read', () => derivation.get('read', recipe, { of: { file: recipe.body!, beside: recipe.beside } }))
    await job.step('skin', () => derivation.get('skin', recipe))
    const assessment = await job.step('strain', () => derivation.get('strain', recipe))
    return strainReport(assessment, (await derivation.get('rig', recipe)).skeleton)
  })
}
