import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buildChild } from '@chiraxis/pool/build-child'

/** The program of job children, built into a folder that goes when it is no longer needed. */
export async function childProgram(): Promise<{ script: string; remove: () => void }> {
  const folder = mkdtempSync(join(tmpdir(), 'chiraxis-'))
  const remove = (): void => rmSync(folder, { recursive: true, force: true })
  try {
    return { script: await buildChild(join(folder, 'child.mjs')), remove }
  } catch (error) {
    remove()
    throw error
  }
}
