import { z } from 'zod'
import { ChiraxisError } from '@chiraxis/core/math'
import { triangleCount, vertexCount } from '@chiraxis/core/mesh'
import { takeSeconds } from '@chiraxis/core/motion'
import { readAny } from '@chiraxis/loaders'

const LARGEST = 64 * 2 ** 20
const query = z.object({ name: z.string().min(1).max(300) })

/** What a posted file holds: `POST /api/inspect?name=body.glb` with the bytes as body. Nothing is stored. */
export default defineEventHandler(async event => {
  const asked = query.safeParse(getQuery(event))
  if (!asked.success) {
    setResponseStatus(event, 400)
    return { ok: false, error: { code: 'bad-input', message: 'Name the file: /api/inspect?name=body.glb' } }
  }
  if (Number(getRequestHeader(event, 'content-length') ?? 0) > LARGEST) {
    setResponseStatus(event, 413)
    return { ok: false, error: { code: 'too-large', message: 'The file is larger than 64 MiB.' } }
  }
  const bytes = await readRawBody(event, false)
  try {
    const { mesh, skeleton, takes, format } = await readAny(new Uint8Array(bytes ?? []), asked.data.name)
    return {
      ok: true,
      format,
      vertices: mesh ? vertexCount(mesh) : 0,
      triangles: mesh ? triangleCount(mesh) : 0,
      joints: skeleton?.names ?? [],
      takes: takes.map(t => ({ name: t.name, frames: t.frames, fps: t.fps, seconds: takeSeconds(t) })),
    }
  } catch (error) {
    if (!(error instanceof ChiraxisError)) throw error
    setResponseStatus(event, 422)
    return { ok: false, error: { code: error.code, message: error.message } }
  }
})
