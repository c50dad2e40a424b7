/** Whatever is asked for under /api and is not there. */
export default defineEventHandler(event => refuse(event, 404, 'bad-input', 'There is nothing here by that name.'))
