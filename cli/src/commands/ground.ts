import { basename } from 'node:path'
import { deliver, DELIVERY_FORMATS, formatFor, type DeliveryFormat } from '@chiraxis/core/formats'
import { FOUND_CUES, FOUND_CURVES, type CueSettings } from '@chiraxis/core/cues'
import { ChiraxisError } from '@chiraxis/core/math'
import { ROOT_CHANNELS, runsOf, takeSeconds, type RootChannel } from '@chiraxis/core/motion'
import type { RootPlace, RootSettings, RootWay } from '@chiraxis/core/root-motion'
import type { Recipe } from '@chiraxis/core/recipe'
import { askedRoot } from '@chiraxis/core/rig'
import { recogniseRoles } from '@chiraxis/core/skeleton'
import { chosenContent, groundReceived } from '@chiraxis/core/steps'
import { nameOf, receive, writeDelivered } from '../files'
import { runJob, type Job } from '../report'
import { openPath } from '../session'

export interface GroundOptions {
  out: string
  carry?: string
  onHips?: string
  drop?: string
  root?: string
  onTheSpot?: boolean
  travelFromFeet?: boolean
  smooth?: string
  start?: string
  close?: string
  straight?: boolean
  cues?: string
  curves?: string
  surface?: string
  bend?: string
  floor?: string
  along?: string
  report?: string
}

/**
 * `ground FILE --out G [--carry across,ahead,height,turn] [--root NAME] [--on-the-spot] [--travel-from-feet] …`: where the takes
 * of a file travel: on a root joint, on the hips or nowhere; found from the feet, led another way, begun at rest.
 */
export async function groundCommand(path: string, options: GroundOptions): Promise<void> {
  const { report, out } = options
  await runJob({ report, out, reads: [path] }, async job => {
    const format = formatFor(out, DELIVERY_FORMATS)
    const settings = settingsOf(options)
    const cues = cuesOf(options)
    if (/\.chiraxis$/i.test(path)) return groundProject(job, path, options, { settings, cues, format })
    const received = await job.step('read', () => receive(path))
    const made = await job.step('ground', () =>
      groundReceived(nameOf(path), received, settings, { root: options.root, cues }),
    )
    const delivered = await job.step('write', () => deliver(made.content, format, { stem: nameOf(out) }))
    writeDelivered(out, delivered)
    return {
      file: basename(path),
      root: made.root ?? null,
      rootAdded: made.added,
      settings,
      takes: made.takes.map(({ played: { take }, travelled, contacts }) => ({
        name: take.name,
        frames: take.frames,
        fps: take.fps,
        seconds: takeSeconds(take),
        distance: travelled.pace.way,
        straight: travelled.pace.straight,
        metresPerSecond: travelled.pace.speed,
        turnDegrees: travelled.pace.turn,
        inPlace: travelled.inPlace,
        cues: take.events ?? [],
        contacts: Object.fromEntries(
          Object.entries(contacts).map(([leg, flags]) => [leg, runsOf(flags).map(r => r.map(f => f / take.fps))]),
        ),
      })),
      proof: delivered.proof,
    }
  })
}

/** The same of a project: how every take travels and what is found in it are settings of the figure, which is delivered with all its takes. */
async function groundProject(
  job: Job,
  path: string,
  { out, root }: GroundOptions,
  { settings, cues, format }: { settings: RootSettings; cues: CueSettings; format: DeliveryFormat },
): Promise<Record<string, unknown>> {
  const { recipe, derivation } = await job.step('open', () => openPath(path))
  const { skeleton } = await job.step('skeleton', () => derivation.get('rig', recipe))
  const { joints } = recogniseRoles(skeleton)
  if (joints.hips === undefined)
    throw new ChiraxisError('no-roles', `Which joint of ${basename(path)} is the hips cannot be told.`)
  const asked = askedRoot(skeleton, joints, settings, root)
  const grounded: Recipe = {
    ...recipe,
    root: { ...settings, ...(root !== undefined && { joint: root }) },
    cues,
    bones: { ...recipe.bones, edits: [...recipe.bones.edits, ...(asked.add ? [asked.add] : [])] },
  }
  const { content } = await job.step('takes', () => chosenContent(derivation, grounded, 'all'))
  const delivered = await job.step('write', () => deliver(content, format, { stem: nameOf(out) }))
  writeDelivered(out, delivered)
  return {
    file: basename(path),
    root: asked.root ?? null,
    rootAdded: asked.add !== undefined,
    settings,
    takes: (content.takes ?? []).map(take => ({
      name: take.name,
      frames: take.frames,
      fps: take.fps,
      seconds: takeSeconds(take),
      cues: take.events ?? [],
    })),
    proof: delivered.proof,
  }
}

/** What moments and curves are wanted: all, unless told otherwise. */
const cuesOf = (o: GroundOptions): CueSettings => ({
  find: o.cues === undefined ? [...FOUND_CUES] : o.cues === 'none' ? [] : listOf(o.cues, FOUND_CUES, 'A moment'),
  curves: listOf(o.curves, FOUND_CURVES, 'A curve'),
  ...(o.surface && { surface: o.surface }),
})

/** @throws ChiraxisError `bad-settings` */
function settingsOf(o: GroundOptions): RootSettings {
  const channels = new Map<RootChannel, RootPlace>()
  for (const [place, told] of [
    ['dropped', o.onTheSpot ? 'across,ahead' : undefined],
    ['root', o.carry],
    ['hips', o.onHips],
    ['dropped', o.drop],
  ] as const)
    for (const c of listOf(told, ROOT_CHANNELS, 'A channel of travel')) channels.set(c, place)
  const ways: RootWay[] = []
  if (o.straight) ways.push({ kind: 'straight' })
  if (o.bend !== undefined) ways.push({ kind: 'bent', degrees: Number(o.bend) })
  if (o.along !== undefined) ways.push({ kind: 'points', points: pointsOf(o.along) })
  if (ways.length > 1)
    throw new ChiraxisError('bad-settings', 'A take goes one way: --straight, --bend or --along, not several of them.')
  return {
    ...Object.fromEntries(channels),
    ...(o.smooth !== undefined && { smooth: Number(o.smooth) }),
    ...(o.travelFromFeet && { fromFeet: true }),
    ...(o.start !== undefined && { start: listOf(o.start, ['place', 'facing'] as const, 'What starts at rest') }),
    ...(o.close !== undefined && { close: listOf(o.close, ROOT_CHANNELS, 'A channel that closes') }),
    ...(ways.length > 0 && { way: ways[0] }),
    ...(o.floor !== undefined && { floor: floorOf(o.floor) }),
  }
}
function listOf<T extends string>(text: string | undefined, offered: readonly T[], what: string): T[] {
  if (text === undefined || text === '') return []
  return text.split(',').map(word => {
    const known = offered.find(c => c === word.trim())
    if (!known)
      throw new ChiraxisError('bad-settings', `${what} is ${offered.join(', ')}, not ${word.trim() || 'nothing'}.`)
    return known
  })
}

/** @throws ChiraxisError `bad-settings` */
function floorOf(text: string): RootSettings['floor'] {
  const [ahead, across = 0, height = 0] = text.split(',').map(Number)
  const fits = [ahead, across].every(v => Math.abs(v) <= 40) && Math.abs(height) <= 20
  if (!fits) throw new ChiraxisError('bad-settings', 'A floor rises by up to 40 degrees ahead and across, and lies up to 20 m higher, as 8,0,0.5.') // prettier-ignore
  return { ahead, across, height }
}

function pointsOf(text: string): [number, number][] {
  const points = text.split(';').map(p => p.split(',').map(Number))
  if (points.some(p => p.length !== 2 || !p.every(Number.isFinite)))
    throw new ChiraxisError('bad-settings', 'Points of a way are metres to its left and ahead, as 0,2;1,4.')
  return points as [number, number][]
}
