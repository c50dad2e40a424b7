/** Tells that the server answers. */
export default defineEventHandler(() => ({ ok: true }))
