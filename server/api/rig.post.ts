/**
 * A body rigged: `POST /api/rig`, a form with the part `body`, files it names as parts `beside`, and `settings` (JSON, as for
 * `chiraxis open --set`). A skeleton that came along is kept unless the settings say otherwise.
 */
export default defineEventHandler(event =>
  answerWithFigure(event, ({ settings, file, beside }) => {
    const body = file('body')
    if (!body) return 'The form must have a part "body" with the file of a body, and may have "beside" and "settings".'
    return (signal, onProgress) => jobPool().run('figure', { figure: body, beside, settings }, signal, onProgress)
  }),
)
