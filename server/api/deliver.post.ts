/**
 * A saved project delivered: `POST /api/deliver`, a form with the part `project` (.chiraxis) and `settings` (JSON; `takes` is "all" or a
 * list of names, everything else is laid over what was decided).
 */
export default defineEventHandler(event =>
  answerWithFigure(event, ({ settings, file }) => {
    const project = file('project')
    if (!project) return 'The form must have a part "project" with a project file, and may have "settings".'
    const { takes = 'all', rest } = takesOf(settings)
    const figure = { ...project, name: /\.chiraxis$/i.test(project.name) ? project.name : `${project.name}.chiraxis` }
    return (signal, onProgress) =>
      jobPool().run('figure', { figure, beside: [], settings: rest, takes }, signal, onProgress)
  }),
)
