import { strFromU8, strToU8, unzipSync, zipSync, type Zippable } from 'fflate'
import { breather, ChiraxisError, type WorkOptions } from '../math'
import { parseRecipe, type FileRef, type Recipe } from './recipe'
import { hashBytes } from './hash'

/** Bytes of a file by its reference. */
export type FileSource = (file: FileRef) => Promise<Uint8Array>

/** Bounds on an opened project archive. */
export const PROJECT_LIMITS = {
  files: 4000,
  expanded: 2 ** 31 - 1,
  recipe: 256 * 2 ** 20,
  /** What an archive may grow to: this much, and as often its own size. Bodies and recordings shrink to a third or a tenth. */
  grows: { bytes: 64 * 2 ** 20, times: 30 },
} as const

/** Every file a recipe names, each once. */
export function filesOf(recipe: Recipe): FileRef[] {
  const all = [
    ...(recipe.body ? [recipe.body] : []),
    ...recipe.beside,
    ...recipe.added.flatMap(a => [a.file, ...a.beside]),
    ...(recipe.bones.given ? [recipe.bones.given.file, ...recipe.bones.given.beside] : []),
    ...recipe.takes.map(t => t.file),
    ...recipe.takes.flatMap(({ face }) => [face?.voice?.sound ?? [], face?.solution?.file ?? []].flat()),
    ...(recipe.props ?? []).flatMap(p => [p.file, ...p.beside]),
    ...(recipe.delivery?.many?.figures ?? []).map(f => f.file),
    ...(recipe.trial?.floor ? [recipe.trial.floor] : []),
    ...Object.values(recipe.trial?.sounds ?? {}),
    ...recipe.skin.edits.flatMap(e => (e.kind === 'load' ? [e.file] : [])),
  ]
  return [...new Map(all.map(f => [f.hash, f])).values()]
}

/**
 * A project as one open ZIP archive: `recipe.json`, every received file under `files/` by its hash,
 * and whatever derived files are handed along. Times are fixed, so the same project gives the same bytes.
 */
export async function writeProject(
  recipe: Recipe,
  source: FileSource,
  derived: Readonly<Record<string, Uint8Array>> = {},
): Promise<Uint8Array<ArrayBuffer>> {
  const mtime = new Date('2000-01-01T12:00:00')
  const content: Zippable = { 'recipe.json': [strToU8(JSON.stringify(recipe, null, 2)), { mtime }] }
  for (const file of filesOf(recipe)) content[`files/${file.hash}`] = [await source(file), { mtime, level: 6 }]
  for (const [name, bytes] of Object.entries(derived)) content[name] = [bytes, { mtime, level: 0 }]
  return zipSync(content) as Uint8Array<ArrayBuffer>
}

/**
 * Opens a project archive.
 * @throws ChiraxisError where it is no project, too large, or lacks or alters a file it names
 */
export async function readProject(
  bytes: Uint8Array,
  work: WorkOptions = {},
): Promise<{ recipe: Recipe; files: ReadonlyMap<string, Uint8Array> }> {
  if (bytes.length === 0) throw new ChiraxisError('empty-file', 'The project file is empty.')
  const pulse = breather(work)
  const sizes = listArchive(bytes)
  const text = sizes.has('recipe.json') ? expand(bytes, 'recipe.json') : undefined
  if (!text) throw new ChiraxisError('wrong-format', 'The archive holds no recipe, so it is not a Chiraxis project.')
  let data: unknown
  try {
    data = JSON.parse(strFromU8(text))
  } catch {
    throw new ChiraxisError('bad-syntax', 'The recipe of the project is damaged.')
  }
  const recipe = parseRecipe(data)
  const files = new Map<string, Uint8Array>()
  for (const file of filesOf(recipe)) {
    await pulse(files.size / 100)
    const name = `files/${file.hash}`
    const content = sizes.has(name) ? expand(bytes, name) : undefined
    if (!content || hashBytes(content) !== file.hash)
      throw new ChiraxisError('missing-file', `The project lacks ${file.name}, or it was changed inside the archive.`)
    files.set(file.hash, content)
  }
  return { recipe, files }
}

/** Names and told sizes of what an archive holds; nothing is expanded yet. @throws ChiraxisError `too-large`, `bad-syntax` */
function listArchive(bytes: Uint8Array): Map<string, number> {
  const sizes = new Map<string, number>()
  let expanded = 0
  let count = 0
  try {
    unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        expanded += originalSize
        count++
        if (name === 'recipe.json' || /^files\/[0-9a-f]{64}$/.test(name)) sizes.set(name, originalSize)
        return false
      },
    })
  } catch {
    throw notAProject()
  }
  const { files, expanded: most, grows, recipe } = PROJECT_LIMITS
  if (count > files || expanded > Math.min(most, grows.bytes + grows.times * bytes.length))
    throw new ChiraxisError(
      'too-large',
      `The project archive would grow from ${MiB(bytes.length)} to ${MiB(expanded)} MiB with ${count} files, which is more than can be opened.`,
    )
  if ((sizes.get('recipe.json') ?? 0) > recipe)
    throw new ChiraxisError('too-large', 'The recipe in the project archive is larger than can be opened.')
  return sizes
}

/** One file of an archive; never larger than its told size. */
function expand(bytes: Uint8Array, wanted: string): Uint8Array {
  try {
    return unzipSync(bytes, { filter: ({ name }) => name === wanted })[wanted]
  } catch {
    throw notAProject()
  }
}

const MiB = (n: number): string => (n / 2 ** 20).toFixed(1)
const notAProject = (): ChiraxisError =>
  new ChiraxisError('bad-syntax', 'This is not a Chiraxis project, or it is damaged.')
