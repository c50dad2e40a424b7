import { z } from 'zod'
import { doubtfulReading, findAll } from '@chiraxis/core/findings'
import {
  asRead,
  deliver,
  DELIVERY_FORMATS,
  figureWithTakes,
  FORMATS,
  formatFor,
  readReceived,
} from '@chiraxis/core/formats'
import type { AdjustSettings } from '@chiraxis/core/adjust'
import { ChiraxisError } from '@chiraxis/core/math'
import { bodySurfaceOf } from '@chiraxis/core/surface'
import { EMPTY_NOTE, parsePerformerNote, type PerformerNote } from '@chiraxis/core/retarget'
import { EXACT_TRANSFER, perform, TRANSFER_DEFAULTS, type TransferSettings } from '@chiraxis/core/perform'
import { nameOf, readJson, receive, writeDelivered } from '../files'
import { runJob } from '../report'

const names = z.record(z.string(), z.string())
const mapFile = z.union([z.object({ performer: names.optional(), figure: names.optional() }).strict(), names])

export interface TransferCommandOptions {
  take: string
  onto: string
  out: string
  map?: string
  rest: TransferSettings['rest']
  exact?: boolean
  /** Held unless told otherwise; `--ground` is its older name. */
  holdFeet: boolean
  report?: string
  limits: boolean
  asPerformed: boolean
  leaveOutCalibration?: boolean
  girdle?: boolean
  hands: string
  elbowRoom?: string
  restFrom: string
  fps?: string
  trim?: string
  pace?: string
  stepLength?: string
  swing?: string
  /** Older name of `swing`. */
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
    vigour: value(o.swing ?? o.vigour),
    mirror: o.mirror,
    onTheSpot: o.onTheSpot,
    loopBlend: value(o.loopBlend),
  }
  return Object.fromEntries(Object.entries(settings).filter(([, v]) => v !== undefined))
}

/** `transfer --take T --onto F.glb --out G.glb`: a recorded motion onto a figure. */
export async function transferCommand(options: TransferCommandOptions): Promise<void> {
  await runJob(
    { report: options.report, out: options.out, reads: [options.take, options.onto, options.map] },
    async job => {
      const format = formatFor(options.out, DELIVERY_FORMATS)
      const source = await job.step('readTake', () => receive(options.take))
      const figure = await job.step('readFigure', () => receive(options.onto))
      if (!source.skeleton || source.takes.length === 0)
        throw new ChiraxisError('no-take', `${options.take} holds no motion.`)
      if (!figure.skeleton)
        throw new ChiraxisError(
          'no-skeleton',
          `${options.onto} holds no skeleton to carry a motion onto. Rig it first.`,
        )
      const note = options.map ? readMap(options.map) : undefined
      // which joints stand for what is told by the skin as well
      const reading = readReceived(figure)!
      const onto = asRead(figure.skeleton, reading)
      const { doubts } = reading
      job.findings.push(...(await doubtfulReading.detect({ skeleton: onto, source: 'received', doubts })))
      const settings = settingsOf(options)
      const body = figure.mesh && figure.skin ? { mesh: figure.mesh, skin: figure.skin } : undefined
      if (!body && options.elbowRoom !== undefined && settings.elbowRoom !== null)
        throw new ChiraxisError(
          'bad-settings',
          `${options.onto} holds no skinned body, so its arms cannot be kept off it.`,
        )
      const surface = body && (await bodySurfaceOf(body.mesh, onto, body.skin, reading.joints))
      const adjust = adjustOf(options)
      const performer = source.skeleton
      const performerNote: PerformerNote = {
        ...EMPTY_NOTE,
        restFrom:
          options.restFrom === 'auto' || options.restFrom === 'file' ? options.restFrom : Number(options.restFrom),
        ...note?.performer,
      }
      const performed = await job.step('transfer', () =>
        Promise.all(
          source.takes.map(take =>
            perform(performer, take, onto, {
              settings,
              surface,
              note: performerNote,
              figureMap: note?.figure,
              adjust,
              leaveOutCalibration: options.leaveOutCalibration,
            }),
          ),
        ),
      )
      const takes = performed.map(p => p.take)
      const { content, replaced } = figureWithTakes(nameOf(options.onto), figure, takes, {
        alone: FORMATS[format].takes !== 'many',
      })
      const delivered = await job.step('write', () => deliver(content, format, { stem: nameOf(options.out) }))
      writeDelivered(options.out, delivered)
      job.findings.push(...(await findAll({ performed, grounded: settings.ground })))
      const first = performed[0]
      return {
        roleMap: first.roleMap,
        restMatch: first.restMatch,
        measures: first.measures,
        travel: first.travel,
        takes: performed.map(p => ({
          name: p.take.name,
          frames: p.take.frames,
          fps: p.take.fps,
          measures: p.measures,
        })),
        replaced,
        proof: delivered.proof,
      }
    },
  )
}

/** The settings of window and batches, but for what is asked for otherwise. */
function settingsOf(o: TransferCommandOptions): TransferSettings {
  if (o.exact) return { ...EXACT_TRANSFER, rest: o.rest }
  return {
    rest: o.rest,
    asPerformed: o.asPerformed,
    ground: o.holdFeet,
    limits: o.limits,
    girdle: o.girdle === true,
    hands: Number(o.hands),
    elbowRoom:
      o.elbowRoom === undefined
        ? TRANSFER_DEFAULTS.elbowRoom
        : o.elbowRoom === 'off'
          ? null
          : Number(o.elbowRoom) / 100,
  }
}

/** What a role map file settles: about the performer, and which joints of the figure play which role. */
interface Told {
  performer?: Partial<PerformerNote>
  figure?: Record<string, string>
}

/** A role map, alone or with the rest match of a performer as the window saves it. */
function readMap(path: string): Told {
  const data = readJson(path, 'role map')
  if (typeof data === 'object' && data !== null && 'chiraxisPerformer' in data) {
    const { restFrom, ...note } = parsePerformerNote(data)
    return { performer: { ...note, ...(restFrom !== 'auto' && { restFrom }) } }
  }
  const parsed = mapFile.safeParse(data)
  if (!parsed.success)
    throw new ChiraxisError(
      'bad-syntax',
      'The role map must be { "performer": { role: joint name }, "figure": { role: joint name } }.',
    )
  const { performer, figure } = parsed.data
  if (typeof performer === 'object' || typeof figure === 'object')
    return {
      ...(typeof performer === 'object' && { performer: { map: performer } }),
      ...(typeof figure === 'object' && { figure }),
    }
  return { performer: { map: parsed.data as Record<string, string> } }
}
