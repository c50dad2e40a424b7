import { z } from 'zod'
import { findAll } from '@chiraxis/core/findings'
import { proveGlb, writeGlb } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'
import { perform } from '@chiraxis/core/transfer'
import { readJson, receive, writeBytes } from '../files'
import { runJob } from '../report'

const names = z.record(z.string(), z.string())
const mapFile = z.union([z.object({ performer: names.optional(), figure: names.optional() }).strict(), names])

export interface TransferCommandOptions { take: string; onto: string; out: string; map?: string; rest: string; ground?: boolean; report?: string }

/** `transfer --take T --onto F.glb --out G.glb`: a recorded motion onto a figure. */
export async function transferCommand(options: TransferCommandOptions): Promise<void> {
  await runJob(options.report, async job => {
    const source = await job.step('readTake', () => receive(options.take))
    const figure = await job.step('readFigure', () => receive(options.onto))
    if (!source.skeleton || source.takes.length === 0) throw new ChiraxisError('no-take', `${options.take} holds no motion.`)
    if (!figure.skeleton) throw new ChiraxisError('no-skeleton', `${options.onto} holds no skeleton to carry a motion onto. Rig it first.`)
    const map = options.map ? readMap(options.map) : undefined
    const performer = source.skeleton
    const onto = figure.skeleton
    const performed = await job.step('transfer', () => Promise.all(source.takes.map(take =>
      perform(performer, take, onto, { map, rest: options.rest === 'none' ? 'none' : 'auto', ground: options.ground === true }))))
    const content = { name: 'figure', mesh: figure.mesh, skeleton: onto, skin: figure.skin, takes: performed.map(p => p.take) }
    const bytes = await job.step('write', () => writeGlb(content))
    const proof = await job.step('prove', () => proveGlb(bytes, content))
    writeBytes(options.out, bytes)
    job.findings.push(...findAll({ performed, grounded: options.ground === true }))
    const first = performed[0]
    return {
      roleMap: first.roleMap, restMatch: first.restMatch, measures: first.measures, travel: first.travel,
      takes: performed.map(p => ({ name: p.take.name, frames: p.take.frames, fps: p.take.fps, measures: p.measures })), proof,
    }
  })
}

function readMap(path: string): { performer?: Record<string, string>; figure?: Record<string, string> } {
  const parsed = mapFile.safeParse(readJson(path, 'role map'))
  if (!parsed.success) throw new ChiraxisError('bad-syntax', 'The role map must be { "performer": { role: joint name }, "figure": { role: joint name } }.')
  const data = parsed.data as { performer?: Record<string, string>; figure?: Record<string, string> } & Record<string, unknown>
  const isNested = typeof data.performer === 'object' || typeof data.figure === 'object'
  return isNested ? data : { performer: parsed.data as Record<string, string> }
}
