import { z } from 'zod'
import { ChiraxisError } from '@chiraxis/core/math'
import { jobFile } from '@chiraxis/pool'

const LARGEST = 64 * 2 ** 20
/** Files at a time; further ones are asked to come again. */
const AT_ONCE = 8
let running = 0
const query = z.object({ name: z.string().min(1).max(300) })

/** What a posted file holds: `POST /api/inspect?name=body.glb` with the bytes as body. Nothing is stored. */
export default defineEventHandler(async event => {
  const asked = await getValidatedQuery(event, q => query.safeParse(q))
  if (!asked.success) return refuse(event, 400, 'bad-input', 'Name the file: /api/inspect?name=body.glb')
  // counted before the first byte is waited for
  if (running >= AT_ONCE) return refuse(event, 429, 'bad-settings', 'The server looks at as many files as it can; try again in a moment.') // prettier-ignore
  running++
  const signal = whileItWaits(event)
  try {
    const bytes = await boundedBody(event, LARGEST)
    if (!bytes) return refuse(event, 413, 'too-large', 'The file is larger than 64 MiB, or did not arrive whole.')
    return { ok: true, ...(await jobPool().run('inspect', { file: jobFile(asked.data.name, bytes) }, signal)) }
  } catch (error) {
    if (!(error instanceof ChiraxisError)) throw error
    return refuse(event, 422, error.code, error.message)
  } finally {
    running--
  }
})
