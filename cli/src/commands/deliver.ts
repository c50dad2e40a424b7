import { basename } from 'node:path'
import {
  archiveAs,
  deliverAs,
  plainProfile,
  prepared,
  withTakes,
  type Deliverable,
  type Profile,
} from '@chiraxis/core/delivery'
import { asRead, DELIVERY_FORMATS, figureWithTakes, formatFor, readReceived } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'
import { ownTakeIds } from '@chiraxis/core/recipe'
import { deliverableOf, takeNamed } from '@chiraxis/core/steps'
import { nameOf, receive, writeBytes, writeDelivered } from '../files'
import { profileNamed } from '../profiles'
import { runJob } from '../report'
import { openPath } from '../session'

export interface DeliverOptions {
  out: string
  take: string
  body: string
  profile?: string
  insist?: boolean
  at?: string
  report?: string
}

/**
 * `deliver FILE [--take NAME|all|none] [--body yes|no] [--profile P] --out F`: a figure, a recording or a project as a receiver wants
 * it, proven. The ending chooses the writer; `.zip` holds every file of the profile and a manifest.
 */
export async function deliverCommand(path: string, options: DeliverOptions): Promise<void> {
  const { report, out } = options
  const file = options.profile !== undefined && /\.json$/i.test(options.profile) ? options.profile : undefined
  await runJob({ report, out, reads: [path, file] }, async job => {
    const archive = /\.zip$/i.test(out)
    const told = profileOf(options, archive)
    const moment = { at: options.at === undefined ? undefined : Number(options.at) }
    if (moment.at !== undefined && !(moment.at >= 0)) throw new ChiraxisError('bad-settings', `--at tells seconds into a take; ${options.at} is none.`) // prettier-ignore
    const profile = archive ? told : { ...told, format: formatFor(out, DELIVERY_FORMATS) }
    const deliverable = await job.step('read', () => readDeliverable(path, options.take))
    if (archive) {
      const { bytes, files } = await job.step('write', () =>
        archiveAs(deliverable, profile, { ...moment, insist: options.insist }),
      )
      writeBytes(out, bytes)
      return {
        profile,
        files: files.map(({ name, size, takes, proof, notes }) => ({ name, bytes: size, takes, proof, notes })),
      }
    }
    const { takes = [] } = prepared(deliverable.content, profile)
    if (profile.split === 'each' && takes.length > 1)
      throw new ChiraxisError(
        'bad-settings',
        `This profile writes a file for each of ${takes.length} takes. Name an archive (.zip), or one take (--take).`,
      )
    const [made] = await job.step('write', () =>
      deliverAs(
        deliverable,
        { ...profile, file: nameOf(out).replace(/[{}]/g, '-'), split: 'one' },
        {
          ...moment,
          insist: options.insist,
        },
      ),
    )
    writeDelivered(out, made)
    return {
      profile,
      takes: made.takes,
      notes: made.notes,
      beside: (made.beside ?? []).map(b => b.name),
      proof: made.proof,
    }
  })
}

/** @throws ChiraxisError `bad-settings` for a profile there is not */
function profileOf({ profile, body, out }: DeliverOptions, archive: boolean): Profile {
  const format = archive ? 'glb' : formatFor(out, DELIVERY_FORMATS)
  const told = profile === undefined ? plainProfile(format) : profileNamed(profile)
  return body === 'no' ? { ...told, content: 'motion' } : told
}

/** What a file or a project holds, with the takes that were asked for. */
async function readDeliverable(path: string, take: string): Promise<Deliverable> {
  if (/\.chiraxis$/i.test(path)) {
    const { recipe, derivation } = await openPath(path)
    const { takes } = await derivation.get('rig', recipe)
    const named = take === 'all' ? recipe.takes.map(t => t.id) : take === 'none' ? [] : take.split(',')
    // takes that came with the body always go along
    return deliverableOf(derivation, recipe, [...ownTakeIds(takes), ...named.map(n => takeNamed(recipe, n))])
  }
  const received = await receive(path)
  const reading = readReceived(received)
  const { content } = figureWithTakes(nameOf(path), received, [])
  const names = take === 'all' || take === 'none' ? [] : take.split(',')
  const gone = names.find(n => !content.takes?.some(t => t.name === n))
  if (gone !== undefined) throw new ChiraxisError('no-take', `${basename(path)} holds no take ${gone}.`)
  const keep = (content.takes ?? []).flatMap((t, i) => (take === 'all' || names.includes(t.name) ? [i] : []))
  const { skeleton } = content
  return {
    content: withTakes({ ...content, ...(skeleton && reading && { skeleton: asRead(skeleton, reading) }) }, keep),
  }
}
