import { ChiraxisError } from '@chiraxis/core/math'
import type { FileRef } from '@chiraxis/core/recipe'

/** What the list of files that come with the program tells of one. */
interface Shipped {
  readonly hashes: Readonly<Record<string, string>>
}

let known: Promise<ReadonlyMap<string, string>> | undefined

/** Names of the shipped files by the hash of their bytes; empty where the list cannot be had. */
const names = (): Promise<ReadonlyMap<string, string>> =>
  (known ??= fetch('/demo/index.json')
    .then(async answer => {
      if (!answer.ok) throw new Error(String(answer.status))
      const { hashes } = (await answer.json()) as Shipped
      return new Map(Object.entries(hashes).map(([name, hash]) => [hash, name]))
    })
    .catch(() => {
      // asked for anew next time
      known = undefined
      return new Map<string, string>()
    }))

/**
 * A file that comes with the program and was not fetched until now.
 * @param digest hash of bytes, lower-case hexadecimal
 * @returns its bytes; nothing where no shipped file has this hash
 * @throws ChiraxisError `missing-file` where it ships but cannot be had now, or is another one there
 */
export async function shippedFile(
  file: FileRef,
  digest: (bytes: Uint8Array) => Promise<string>,
): Promise<Uint8Array | undefined> {
  const name = (await names()).get(file.hash)
  if (name === undefined) return undefined
  const bytes = await fetch(`/demo/${name}`)
    .then(async answer => (answer.ok ? new Uint8Array(await answer.arrayBuffer()) : undefined))
    .catch(() => undefined)
  if (!bytes || (await digest(bytes)) !== file.hash)
    throw new ChiraxisError(
      'missing-file',
      `${file.name} comes with the program and cannot be fetched just now. Try again when the program can be reached.`,
    )
  return bytes
}
