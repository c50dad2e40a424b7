import { randomUUID } from 'node:crypto'
import { link, mkdir, open, readdir, readFile, rename, rm, stat, unlink, utimes } from 'node:fs/promises'
import { homedir } from 'node:os'
import { dirname, join } from 'node:path'
import { ChiraxisError } from '@chiraxis/core/math'
import { sha256 } from '../sha256'

/** What machines that work together share: files by their content, and the answers of jobs by the jobs' keys. */
export interface Store {
  /** Tells stores apart, so that machines with different ones do not take each other's jobs. */
  readonly id: string
  /** Keeps bytes. @returns their SHA-256, hex */
  put(bytes: Uint8Array): Promise<string>
  /** @throws ChiraxisError `missing-file` where it is not there, `bad-input` where it is damaged */
  get(hash: string): Promise<Uint8Array>
  /** A job's answer, where it has one. */
  answer(key: string): Promise<unknown>
  /** Gives a job its answer, once and for all. @returns false where it had one, which then stays */
  settle(key: string, answer: unknown): Promise<boolean>
  /** Takes an answer back whose files are gone. */
  forget(key: string): Promise<void>
  /** Removes what was not asked for or written for so many days. @returns files removed */
  sweep(days: number): Promise<number>
}

/** Where a machine keeps a store of its own unless told otherwise. */
export const ownStore = (): string =>
  process.env.CHIRAXIS_STORE ?? join(process.env.XDG_CACHE_HOME ?? join(homedir(), '.cache'), 'chiraxis', 'store')

const FILES = 'files'
const ANSWERS = 'answers'
const DRAFTS = 'drafts'
/** What is asked for again is young again, but not with every asking. */
const FRESH_MS = 3_600_000

const isCode = (error: unknown, ...codes: string[]): boolean => codes.includes((error as { code?: string }).code ?? '')

/**
 * A store in a folder, which machines may share by any network file system that renames whole files. Everything is
 * written beside its place, flushed and then given its name, so that nobody ever reads half of it.
 * @throws ChiraxisError where the folder cannot be used
 */
export async function folderStore(folder: string): Promise<Store> {
  const place = (room: string, name: string): string => join(folder, room, name.slice(0, 2), name)

  async function draft(bytes: Uint8Array): Promise<string> {
    const path = join(folder, DRAFTS, randomUUID())
    const file = await open(path, 'wx')
    try {
      await file.writeFile(bytes)
      await file.sync()
    } finally {
      await file.close()
    }
    return path
  }
  /** Gives a draft its name unless there is something of that name. */
  async function name(path: string, target: string): Promise<boolean> {
    await mkdir(dirname(target), { recursive: true })
    try {
      await link(path, target)
    } catch (error) {
      if (isCode(error, 'EEXIST')) return false
      // file systems that know no second names
      if (!isCode(error, 'EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EXDEV')) throw error
      if (await isThere(target)) return false
      await rename(path, target)
      return true
    } finally {
      await unlink(path).catch(() => undefined)
    }
    return true
  }
  const isThere = async (path: string): Promise<boolean> => (await agoOf(path)) !== undefined
  async function agoOf(path: string): Promise<number | undefined> {
    try {
      return Date.now() - (await stat(path)).mtimeMs
    } catch (error) {
      if (isCode(error, 'ENOENT')) return undefined
      throw error
    }
  }
  const touch = async (path: string): Promise<void> => {
    const now = new Date()
    await utimes(path, now, now).catch(() => undefined)
  }

  let id: string
  try {
    await mkdir(join(folder, DRAFTS), { recursive: true })
    const label = join(folder, 'store.json')
    if (!(await isThere(label))) {
      const text = JSON.stringify({ store: 1, id: randomUUID() })
      await name(await draft(Buffer.from(text)), label)
    }
    const told = JSON.parse(await readFile(label, 'utf8')) as { store?: number; id?: string }
    if (told.store !== 1 || typeof told.id !== 'string')
      throw new ChiraxisError('bad-version', `${label} is of another kind of store; give the store a folder of its own.`) // prettier-ignore
    ;({ id } = told)
  } catch (error) {
    if (error instanceof ChiraxisError) throw error
    throw new ChiraxisError('missing-file', `The store ${folder} cannot be used: ${(error as Error).message}.`)
  }

  return {
    id,
    async put(bytes) {
      const hash = sha256(bytes)
      const path = place(FILES, hash)
      const ago = await agoOf(path)
      if (ago === undefined) await name(await draft(bytes), path)
      else if (ago > FRESH_MS) await touch(path)
      return hash
    },
    async get(hash) {
      let bytes: Buffer
      try {
        bytes = await readFile(place(FILES, hash))
      } catch (error) {
        if (!isCode(error, 'ENOENT')) throw error
        throw new ChiraxisError('missing-file', `The store holds no file ${hash.slice(0, 12)}.`)
      }
      if (sha256(bytes) !== hash)
        throw new ChiraxisError('bad-input', `The file ${hash.slice(0, 12)} in the store is damaged.`)
      return new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.length)
    },
    async answer(key) {
      try {
        return JSON.parse(await readFile(place(ANSWERS, key), 'utf8')) as unknown
      } catch (error) {
        if (isCode(error, 'ENOENT')) return undefined
        throw error
      }
    },
    settle: async (key, answer) => name(await draft(Buffer.from(JSON.stringify(answer))), place(ANSWERS, key)),
    forget: async key => {
      await rm(place(ANSWERS, key), { force: true })
    },
    async sweep(days) {
      let removed = 0
      // answers first: one that is left has its files
      for (const room of [ANSWERS, FILES, DRAFTS])
        for (const entry of await readdir(join(folder, room), { withFileTypes: true, recursive: true }).catch(
          () => [],
        )) {
          if (!entry.isFile()) continue
          const path = join(entry.parentPath, entry.name)
          if (((await agoOf(path)) ?? 0) < days * 86_400_000) continue
          await rm(path, { force: true })
          removed++
        }
      return removed
    },
  }
}
