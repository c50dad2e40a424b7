// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- the validator ships no types, and every project that includes this file must see ours
/// <reference path="../gltf-validator.d.ts" />
import { besideFile, type BesideFiles } from './received'

export interface ValidatorReport {
  issues: { numErrors: number; numWarnings: number; messages: { code: string; message: string; severity: number }[] }
}

type Validate = (
  bytes: Uint8Array,
  options: { maxIssues: number; externalResourceFunction: (uri: string) => Promise<Uint8Array> },
) => Promise<ValidatorReport>

/** What the format's own validator says of a glTF with the files beside it. */
export async function validate(bytes: Uint8Array, beside?: BesideFiles): Promise<ValidatorReport> {
  const validator = (await import('gltf-validator')) as unknown as {
    validateBytes?: Validate
    default?: { validateBytes: Validate }
  }
  return (validator.validateBytes ?? validator.default!.validateBytes)(bytes, {
    maxIssues: 200,
    externalResourceFunction: async uri => {
      const found = besideFile(beside, uri)
      if (!found) throw new Error(`${uri} did not come along`)
      return found
    },
  })
}
