import { batchSettingsSchema } from '@chiraxis/core/batch'
import { ChiraxisError } from '@chiraxis/core/math'
import { TRANSFER_DEFAULTS } from '@chiraxis/core/perform'

/**
 * A take carried onto a figure: `POST /api/transfer`, a form with the parts `take` and `figure` and perhaps `settings` (JSON, as those of a
 * batch; `index` tells which take of the file).
 */
export default defineEventHandler(event =>
  answerWithFigure(event, ({ settings, file }) => {
    const [take, figure] = [file('take'), file('figure')]
    if (!take || !figure) return 'The form must have the parts "take" and "figure", and may have "settings".'
    const { index = 0, ...rest } = (settings ?? {}) as { index?: unknown }
    if (typeof index !== 'number' || !Number.isInteger(index) || index < 0)
      throw new ChiraxisError('bad-settings', 'The index of the take must be a whole number.')
    const parsed = batchSettingsSchema.safeParse({ ...TRANSFER_DEFAULTS, content: 'whole', ...rest })
    if (!parsed.success)
      throw new ChiraxisError('bad-settings', `The setting ${parsed.error.issues[0]?.path.join('.')} cannot be: ${parsed.error.issues[0]?.message}.`) // prettier-ignore
    const name = take.name.replace(/\.[^.]*$/, '')
    return async (signal, onProgress) => {
      const asked = { figure, take, index, takeName: name, settings: parsed.data }
      const { bytes, ...report } = await jobPool().run('transfer', asked, signal, onProgress)
      return { bytes, report }
    }
  }),
)
