import { strFromU8, strToU8, unzip, zip, type Zippable } from 'fflate'
import { ChiraxisError } from '../math'
import { parseRecipe, type FileRef, type Recipe } from './recipe'
import { hashBytes } from './hash'

/** Bytes of a file by its reference. */
export type FileSource = (file: FileRef) => Promise<Uint8Array>

/** Bounds on an opened project archive. */
export const PROJECT_LIMITS = { files: 4000, expanded: 2 ** 31 - 1 } as const

/** Every file a recipe names, each once. */
export function filesOf(recipe: Recipe): FileRef[] {
  const all = [
    ...(recipe.body ? [recipe.body] : []),
    ...recipe.beside,
    ...recipe.takes.map(t => t.file),
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
  return new Promise((resolve, reject) => {
    zip(content, (error, bytes) =>
      error
        ? reject(new ChiraxisError('bad-input', 'The project could not be packed.', { reason: error.message }))
        : resolve(bytes as Uint8Array<ArrayBuffer>),
    )
  })
}

/**
 * Opens a project archive.
 * @throws ChiraxisError where it is no project, too large, or lacks or alters a file it names
 */
export async function readProject(
  bytes: Uint8Array,
): Promise<{ recipe: Recipe; files: ReadonlyMap<string, Uint8Array> }> {
  if (bytes.length === 0) throw new ChiraxisError('empty-file', 'The project file is empty.')
  let expanded = 0
  let count = 0
  let excess = false
  const entries = await new Promise<Record<string, Uint8Array>>((resolve, reject) => {
    const refuse = (): void =>
      reject(new ChiraxisError('bad-syntax', 'This is not a Chiraxis project, or it is damaged.'))
    try {
      unzip(
        bytes,
        {
          filter: entry => {
            expanded += entry.originalSize
            excess ||= ++count > PROJECT_LIMITS.files || expanded > PROJECT_LIMITS.expanded
            return !excess && (entry.name === 'recipe.json' || /^files\/[0-9a-f]{64}$/.test(entry.name))
          },
        },
        (error, data) => (error ? refuse() : resolve(data)),
      )
    } catch {
      refuse()
    }
  })
  if (excess) throw new ChiraxisError('too-large', 'The project archive is larger than can be opened.')
  const text = entries['recipe.json']
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
    const content = entries[`files/${file.hash}`]
    if (!content || hashBytes(content) !== file.hash)
      throw new ChiraxisError('missing-file', `The project lacks ${file.name}, or it was changed inside the archive.`)
    files.set(file.hash, content)
  }
  return { recipe, files }
}
