import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buildChild } from '@chiraxis/pool/build-child'
import type { QueueAddress } from '@chiraxis/pool/queue'

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

/** A queue and its store as options tell them. @throws ChiraxisError where they cannot be used */
export async function addressOf(url: string, store: string | undefined, script: string): Promise<QueueAddress> {
  const { checkAddress, folderStore, ownStore, programOf } = await import('@chiraxis/pool/queue')
  checkAddress(url)
  return { url, store: await folderStore(store ?? ownStore()), program: programOf(readFileSync(script)) }
}
