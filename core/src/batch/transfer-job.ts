import { ChiraxisError, IDENTITY, type WorkOptions } from '../math'
import {
  asRead,
  figureWithTakes,
  FORMATS,
  propsToWrite,
  readFile,
  readReceived,
  thingOf,
  type FileReader,
  type GltfContent,
  type Received,
} from '../formats'
import type { Take } from '../motion'
import { handHolds, propsOnFigure, propsThroughTake, type HandHold, type Prop, type PropKey } from '../props'
import { recogniseRoles, type Skeleton } from '../skeleton'
import { bodySurfaceOf, type BodySurface } from '../surface'
import { EMPTY_NOTE, performerKey, type TransferMeasures } from '../retarget'
import { cued, perform, takeClock, type Performed } from '../perform'
import {
  contactsTold,
  deliverAs,
  figureTold,
  prepared,
  withoutBytes,
  type DeliveredFile,
  type FigureTold,
  type ManifestPart,
} from '../delivery'
import { batchProfile, type BatchSettings } from './settings'
import type { TakeTold } from './take-told'

/** A file by its name and bytes; `key` knows it again. */
export interface BatchFile {
  readonly key: string
  readonly name: string
  readonly bytes: Uint8Array
}

export interface TransferJob extends TakeTold {
  readonly figure: BatchFile
  readonly take: BatchFile
  /** Which take of the file, and what it is to be called. */
  readonly index: number
  readonly takeName: string
  /** Who performed it, and what its file is to be called, without an ending; left out, by the profile. */
  readonly performer?: string
  readonly fileName?: string
  readonly settings: BatchSettings
  /** What the figure carries, and how that is carried in this take. */
  readonly props?: { readonly list: readonly Prop[]; readonly keys?: readonly PropKey[] }
  /** The files of props and what lies beside them, by their hashes. */
  readonly propFiles?: readonly BatchFile[]
}

export interface TransferJobResult extends DeliveredFile {
  /** What is told of figure and take in a manifest. */
  readonly told: FigureTold
  readonly measures: TransferMeasures
  readonly frames: number
  readonly fps: number
}

/** What a manifest tells of a job's file. @param name what it is called in the end */
export function manifestPart(
  { told, measures: _, frames: __, fps: ___, ...file }: TransferJobResult,
  name = file.name,
): ManifestPart {
  return { told, files: [withoutBytes({ ...file, name })] }
}

interface Figure {
  readonly received: Received
  readonly skeleton: Skeleton
  surface?: BodySurface
  hands?: readonly HandHold[]
}

/** Files kept read, so that takes by figures do not read each again. */
const KEPT = 6

/** Carries takes onto figures one after another; figures and recordings stay read while they are in use. */
export function createTransferJobs(
  read: FileReader = readFile,
): (job: TransferJob, work?: WorkOptions) => Promise<TransferJobResult> {
  const figures = new Map<string, Figure>()
  const takes = new Map<string, Received>()
  async function kept<T>(cache: Map<string, T>, key: string, make: () => Promise<T>): Promise<T> {
    const known = cache.get(key) ?? (await make())
    cache.delete(key)
    cache.set(key, known)
    while (cache.size > KEPT) cache.delete(cache.keys().next().value!)
    return known
  }
  /** The take with hands on what the figure carries, and that as nodes of their own. */
  async function carried(
    { props, propFiles = [] }: TransferJob,
    figure: Figure,
    { take, figure: { joints } }: Performed,
    clock: ReturnType<typeof takeClock>,
  ): Promise<{ take: Take; props?: GltfContent['props'] }> {
    const { mesh, skin } = figure.received
    if (!props?.list.length || !mesh || !skin) return { take }
    const { skeleton } = figure
    const files: Received[] = []
    const byHash = new Map(propFiles.map(f => [f.key, f]))
    for (const { name, file, beside } of props.list) {
      const own = byHash.get(file.hash)
      if (!own) throw new ChiraxisError('missing-file', `The file of ${name} did not come along with the job.`)
      const others = new Map(beside.flatMap(b => (byHash.has(b.hash) ? [[b.name, byHash.get(b.hash)!.bytes]] : [])))
      files.push(await kept(takes, own.key, () => read(own.bytes, own.name, { beside: others })))
    }
    const known = props.list.map((prop, i) => ({ prop, thing: thingOf(files[i], prop) }))
    const on = propsOnFigure(
      skeleton,
      joints,
      [...IDENTITY],
      (figure.hands ??= handHolds(mesh, skeleton, skin, joints)),
      known,
    )
    const held = propsThroughTake(on, { skeleton, take }, props.keys, clock)
    return { take: held.take, props: propsToWrite(on, files, skeleton, joints, [held.take], [held.courses]) }
  }
  return async (job, work = {}) => {
    const settings = { ...job.settings, ...job.correct }
    const figure = await kept(figures, job.figure.key, async (): Promise<Figure> => {
      const received = await read(job.figure.bytes, job.figure.name, work)
      if (!received.skeleton)
        throw new ChiraxisError(
          'no-skeleton',
          `${job.figure.name} holds no skeleton to carry a motion onto. Rig it first.`,
        )
      return { received, skeleton: asRead(received.skeleton, readReceived(received)!) }
    })
    const source = await kept(takes, job.take.key, () => read(job.take.bytes, job.take.name, work))
    const recording = source.takes[job.index]
    if (!source.skeleton || !recording)
      throw new ChiraxisError(
        'no-take',
        `${job.take.name} holds no motion${job.index > 0 ? ` number ${job.index + 1}` : ''}.`,
      )
    const { mesh, skin } = figure.received
    if (!figure.surface && mesh && skin)
      figure.surface = await bodySurfaceOf(mesh, figure.skeleton, skin, recogniseRoles(figure.skeleton).joints)
    const told = settings.performers[performerKey(source.skeleton)] ?? EMPTY_NOTE
    const note = { ...told, restFrom: job.restFrom ?? told.restFrom }
    const performed = await perform(source.skeleton, { ...recording, name: job.takeName }, figure.skeleton, {
      ...work,
      settings,
      note,
      surface: figure.surface,
      adjust: { ...settings.adjust, ...job.adjust },
      told: { contacts: job.contacts, stretches: job.stretches },
      layers: job.layers,
      root: job.root ?? settings.root,
    })
    const clock = takeClock({ adjust: { ...settings.adjust, ...job.adjust }, recording })
    const finished = cued(performed, settings.cues, job.cues, clock)
    const { take, props } = await carried(job, figure, finished, clock)
    const name = job.figure.name.replace(/\.[^.]+$/, '') || 'figure'
    const profile = batchProfile(settings)
    if (!(FORMATS[profile.format].holds as readonly string[]).includes('motion'))
      throw new ChiraxisError('bad-settings', `${profile.format.toUpperCase()} holds no motion. Choose another profile for the batch.`) // prettier-ignore
    // a file for every take: those that came with the figure are files of their own
    const content =
      profile.content === 'motion'
        ? { name, skeleton: figure.skeleton, takes: [take] }
        : { ...figureWithTakes(name, figure.received, [take], { alone: true }).content, props }
    const performers = job.performer === undefined ? [] : [job.performer]
    const contacts = [contactsTold(finished.contacts, take.fps)]
    const file = job.fileName?.replace(/[{}]/g, '-') ?? profile.file
    const [made] = await deliverAs({ content, performers, contacts }, { ...profile, file }, { signal: work.signal })
    return {
      ...made,
      told: figureTold(prepared(content, profile), performers, contacts),
      measures: performed.measures,
      frames: performed.take.frames,
      fps: performed.take.fps,
    }
  }
}
