import { z } from 'zod'
import { findAll } from '@chiraxis/core/findings'
import { proveGlb, writeGlb } from '@chiraxis/core/formats'
import type { AdjustSettings } from '@chiraxis/core/adjust'
import { ChiraxisError, type Quat } from '@chiraxis/core/math'
import { recogniseRoles } from '@chiraxis/core/skeleton'
import { girthsOf } from '@chiraxis/core/skin'
import { parsePerformerNote, perform, restTurnsOf, type PerformOptions } from '@chiraxis/core/transfer'
import { readJson, receive, writeBytes } from '../files'
import { runJob } from '../report'

const names = z.record(z.string(), z.string())
const mapFile = z.union([z.object({ performer: names.optional(), figure: names.optional() }).strict(), names])

export interface TransferCommandOptions {
  take: string
  onto: string
  out: string
  map?: string
  rest: string
  ground?: boolean
  report?: string
  limits?: boolean
  hands: string
  elbowRoom?: string
  restFrom: string
  fps?: string
  trim?: string
  pace?: string
  stepLength?: string
  vigour?: string
  mirror?: boolean
  onTheSpot?: boolean
  loopBlend?: string
}

/** What is changed about the take. */
function adjustOf(o: TransferCommandOptions): Partial<AdjustSettings> {
  const value = (text: string | undefined): number | undefined => (text === undefined ? undefined : Number(text))
  const settings = {
    fps: value(o.fps),
    trim: o.trim?.split(',').map(Number) as [number, number] | undefined,
    pace: value(o.pace),
    stepLength: value(o.stepLength),
    vigour: value(o.vigour),
    mirror: o.mirror,
    onTheSpot: o.onTheSpot,
    loopBlend: value(o.loopBlend),
  }
  return Object.fromEntries(Object.entries(settings).filter(([, v]) => v !== undefined))
}

/** `transfer --take T --onto F.glb --out G.glb`: a recorded motion onto a figure. */
export async function transferCommand(options: TransferCommandOptions): Promise<void> {
  await runJob(options.report, async job => {
    const source = await job.step('readTake', () => receive(options.take))
    const figure = await job.step('readFigure', () => receive(options.onto))
    if (!source.skeleton || source.takes.length === 0)
      throw new ChiraxisError('no-take', `${options.take} holds no motion.`)
    if (!figure.skeleton)
      throw new ChiraxisError('no-skeleton', `${options.onto} holds no skeleton to carry a motion onto. Rig it first.`)
    const note = options.map ? readMap(options.map) : undefined
    const joints = recogniseRoles(figure.skeleton).joints
    const room = options.elbowRoom === undefined ? undefined : Number(options.elbowRoom) / 100
    if (room !== undefined && !(figure.mesh && figure.skin))
      throw new ChiraxisError(
        'bad-settings',
        `${options.onto} holds no skinned body, so its arms cannot be kept off it.`,
      )
    const elbowRoom =
      room === undefined
        ? undefined
        : { girths: girthsOf(figure.mesh!, figure.skeleton, figure.skin!, joints), metres: room }
    const adjust = adjustOf(options)
    const performer = source.skeleton
    const onto = figure.skeleton
    const performed = await job.step('transfer', () =>
      Promise.all(
        source.takes.map(take =>
          perform(performer, take, onto, {
            map: note?.map,
            restTurns: note?.turns,
            rest: options.rest === 'none' ? 'none' : 'auto',
            ground: options.ground === true,
            limits: options.limits === true,
            hands: Number(options.hands),
            elbowRoom,
            adjust,
            restFrom:
              note?.restFrom ??
              (options.restFrom === 'auto' || options.restFrom === 'file'
                ? options.restFrom
                : Number(options.restFrom)),
          }),
        ),
      ),
    )
    const content = {
      name: 'figure',
      mesh: figure.mesh,
      skeleton: onto,
      skin: figure.skin,
      takes: performed.map(p => p.take),
    }
    const bytes = await job.step('write', () => writeGlb(content))
    const proof = await job.step('prove', () => proveGlb(bytes, content))
    writeBytes(options.out, bytes)
    job.findings.push(...findAll({ performed, grounded: options.ground === true }))
    const first = performed[0]
    return {
      roleMap: first.roleMap,
      restMatch: first.restMatch,
      measures: first.measures,
      travel: first.travel,
      takes: performed.map(p => ({ name: p.take.name, frames: p.take.frames, fps: p.take.fps, measures: p.measures })),
      proof,
    }
  })
}

interface Told {
  map: { performer?: Record<string, string>; figure?: Record<string, string> }
  turns?: Record<string, Quat>
  restFrom?: PerformOptions['restFrom']
}

/** A role map, alone or with the rest match of a performer as the window saves it. */
function readMap(path: string): Told {
  const data = readJson(path, 'role map')
  if (typeof data === 'object' && data !== null && 'chiraxisPerformer' in data) {
    const note = parsePerformerNote(data)
    return {
      map: { performer: note.map },
      turns: restTurnsOf(note),
      restFrom: note.restFrom === 'auto' ? undefined : note.restFrom,
    }
  }
  const parsed = mapFile.safeParse(data)
  if (!parsed.success)
    throw new ChiraxisError(
      'bad-syntax',
      'The role map must be { "performer": { role: joint name }, "figure": { role: joint name } }.',
    )
  const isNested = typeof parsed.data.performer === 'object' || typeof parsed.data.figure === 'object'
  return { map: isNested ? (parsed.data as Told['map']) : { performer: parsed.data as Record<string, string> } }
}
