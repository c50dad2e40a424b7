import { FORMATS, stemOf } from '../formats'
import type { WorkOptions } from '../math'
import { Bundle, manifestOf } from './bundle'
import { deliverAs, prepared, type Deliverable, type DeliveredFile } from './delivery'
import type { Profile } from './profile'

/** What was put into an archive, without its bytes. */
export type ArchivedFile = Omit<DeliveredFile, 'bytes' | 'beside'> & {
  readonly size: number
  readonly beside: readonly { readonly name: string }[]
}

/**
 * Delivers a figure into one archive with a manifest of files, takes, moments, curves and proofs. Files go in one by one.
 * @param sink takes the archive as it is written; left out, it is handed back whole
 */
export async function archiveAs(
  deliverable: Deliverable,
  profile: Profile,
  { sink, ...work }: WorkOptions & { readonly sink?: (part: Uint8Array) => void } = {},
): Promise<{ readonly bytes: Uint8Array<ArrayBuffer>; readonly files: readonly ArchivedFile[] }> {
  const bundle = new Bundle(sink)
  const files: ArchivedFile[] = []
  await deliverAs(deliverable, profile, {
    ...work,
    each: ({ bytes, beside = [], ...file }) => {
      bundle.add(file.name, bytes)
      for (const b of beside) bundle.add(b.name, b.bytes)
      files.push({ ...file, size: bytes.length, beside: beside.map(b => ({ name: b.name })) })
    },
  })
  bundle.addJson(
    'manifest.json',
    manifestOf(prepared(deliverable.content, profile), profile, files, deliverable.performers),
  )
  return { bytes: bundle.done(), files }
}

/** What is handed over: the file itself where it is one, else an archive of all. */
export async function deliverTogether(
  deliverable: Deliverable,
  profile: Profile,
  work: WorkOptions = {},
): Promise<{
  readonly name: string
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly files: readonly ArchivedFile[]
}> {
  const several = FORMATS[profile.format].takes === 'one' || profile.split === 'each' || FORMATS[profile.format].beside
  if (several) {
    const { bytes, files } = await archiveAs(deliverable, profile, work)
    const [first] = files
    // one file with nothing beside it needs no archive
    if (files.length === 1 && first.beside.length === 0) {
      const [alone] = await deliverAs(deliverable, profile, work)
      return { name: alone.name, bytes: alone.bytes, files }
    }
    return { name: `${stemOf(deliverable.content.name)}.zip`, bytes, files }
  }
  const [{ bytes, beside: _, ...file }] = await deliverAs(deliverable, profile, work)
  return { name: file.name, bytes, files: [{ ...file, size: bytes.length, beside: [] }] }
}
