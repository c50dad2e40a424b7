import { stemOf } from '../formats'
import { Bundle } from './bundle'
import { deliverAs, prepared, type Deliverable, type DeliveredFile, type DeliveryWork } from './delivery'
import { figureTold, manifestOf } from './manifest'
import type { Profile } from './profile'

/** What was put into an archive, without its bytes. */
export type ArchivedFile = Omit<DeliveredFile, 'bytes' | 'beside'> & {
  readonly size: number
  readonly beside: readonly { readonly name: string }[]
}

/** Puts delivered files into an archive one by one, and what they are into its manifest. */
function archiving(
  { content, performers, contacts }: Deliverable,
  profile: Profile,
  sink?: (part: Uint8Array) => void,
) {
  const bundle = new Bundle(sink)
  const files: ArchivedFile[] = []
  function add(file: DeliveredFile): void {
    bundle.add(file.name, file.bytes)
    for (const b of file.beside ?? []) bundle.add(b.name, b.bytes)
    files.push(withoutBytes(file))
  }
  function done(): { readonly bytes: Uint8Array<ArrayBuffer>; readonly files: readonly ArchivedFile[] } {
    const told = figureTold(prepared(content, profile), performers, contacts)
    bundle.addJson('manifest.json', manifestOf(profile, [{ told, files }]))
    return { bytes: bundle.done(), files }
  }
  return { add, done }
}

/** What is told of a file once its bytes are put away. */
export const withoutBytes = ({ bytes, beside = [], ...file }: DeliveredFile): ArchivedFile => ({
  ...file,
  size: bytes.length,
  beside: beside.map(b => ({ name: b.name })),
})

/**
 * Delivers a figure into one archive with a manifest of files, takes, moments, curves and proofs. Files go in one by one.
 * @param sink takes the archive as it is written; left out, it is handed back whole
 */
export async function archiveAs(
  deliverable: Deliverable,
  profile: Profile,
  { sink, ...work }: DeliveryWork & { readonly sink?: (part: Uint8Array) => void } = {},
): Promise<{ readonly bytes: Uint8Array<ArrayBuffer>; readonly files: readonly ArchivedFile[] }> {
  const archive = archiving(deliverable, profile, sink)
  await deliverAs(deliverable, profile, { ...work, each: archive.add })
  return archive.done()
}

/** What is handed over: the file itself where it is one with nothing beside it, else an archive of all. */
export async function deliverTogether(
  deliverable: Deliverable,
  profile: Profile,
  work: DeliveryWork = {},
): Promise<{
  readonly name: string
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly files: readonly ArchivedFile[]
}> {
  let alone: DeliveredFile | undefined
  let archive: ReturnType<typeof archiving> | undefined
  await deliverAs(deliverable, profile, {
    ...work,
    each: file => {
      if (!archive && !alone && !file.beside?.length) {
        alone = file
        return
      }
      archive ??= archiving(deliverable, profile)
      if (alone) archive.add(alone)
      alone = undefined
      archive.add(file)
    },
  })
  return archive
    ? { name: `${stemOf(deliverable.content.name)}.zip`, ...archive.done() }
    : { name: alone!.name, bytes: alone!.bytes, files: [withoutBytes(alone!)] }
}
