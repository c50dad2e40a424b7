import { createTransferJobs } from '@chiraxis/core/batch'
import { ChiraxisError } from '@chiraxis/core/math'
import { triangleCount, vertexCount } from '@chiraxis/core/mesh'
import { takeSeconds } from '@chiraxis/core/motion'
import { figureJob } from '@chiraxis/core/steps'
import { readAny } from '@chiraxis/loaders'
import type { Ask, Inspected, JobFile, JobKinds, Reply } from './jobs'

/** Files a child holds on to for the jobs that follow. */
const HELD = 8
const held = new Map<string, Uint8Array>()

// what is read stays read for the next job
const carry = createTransferJobs(readAny)

class Needs extends Error {
  constructor(readonly keys: readonly string[]) {
    super()
  }
}

/** Files with their bytes, sent now or before. @throws Needs where some are neither */
function filesOf(...files: JobFile[]): { key: string; name: string; bytes: Uint8Array }[] {
  for (const { key, bytes } of files) {
    const known = bytes ?? held.get(key)
    if (!known) continue
    held.delete(key)
    held.set(key, known)
  }
  const missing = files.filter(f => !held.has(f.key)).map(f => f.key)
  if (missing.length > 0) throw new Needs(missing)
  const out = files.map(({ key, name }) => ({ key, name, bytes: held.get(key)! }))
  while (held.size > HELD) held.delete(held.keys().next().value!)
  return out
}

type Tell = (share: number) => void
const RUN: {
  readonly [K in keyof JobKinds]: (asked: JobKinds[K]['asked'], tell: Tell) => Promise<JobKinds[K]['given']>
} = {
  inspect: async ({ file }): Promise<Inspected> => {
    const [{ name, bytes }] = filesOf(file)
    const { mesh, skeleton, takes, format } = await readAny(bytes, name)
    return {
      format,
      vertices: mesh ? vertexCount(mesh) : 0,
      triangles: mesh ? triangleCount(mesh) : 0,
      joints: skeleton?.names ?? [],
      takes: takes.map(t => ({ name: t.name, frames: t.frames, fps: t.fps, seconds: takeSeconds(t) })),
    }
  },
  transfer: async (asked, tell) => {
    const [figure, take, ...propFiles] = filesOf(asked.figure, asked.take, ...(asked.propFiles ?? []))
    return carry({ ...asked, figure, take, propFiles }, { onProgress: tell })
  },
  figure: async ({ figure, beside, settings, takes }, tell) => {
    const [{ name, bytes }, ...besides] = filesOf(figure, ...beside)
    const others = new Map(besides.map(f => [f.name, f.bytes]))
    return figureJob({ figure: { name, bytes, beside: others }, settings, takes }, readAny, { onProgress: tell })
  },
}

const reply = (message: Reply): void => void process.send?.(message)

process.on('message', ({ id, kind, asked }: Ask) => {
  void (async () => {
    try {
      let told = 0
      const tell: Tell = share => {
        // a message for every hundredth is enough to look at
        if (share - told < 0.01) return
        told = share
        reply({ id, progress: share })
      }
      reply({ id, given: await RUN[kind](asked as never, tell) })
    } catch (error) {
      if (error instanceof Needs) return reply({ id, needs: error.keys })
      const known = error instanceof ChiraxisError
      reply({
        id,
        refused: {
          code: known ? error.code : 'bad-input',
          message: known ? error.message : 'The job failed: the file is damaged or holds something unexpected.',
        },
      })
    }
  })()
})
// who asked is gone
process.on('disconnect', () => process.exit(0))
