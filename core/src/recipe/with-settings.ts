import { ChiraxisError } from '../math'
import { recipeSchema, type Recipe } from './recipe'

/** What a settings file may set: everything that is decided about a figure but for the files it is made of. */
const SETTABLE = [
  'name',
  'straighten',
  'surface',
  'cleanFaces',
  'mirrorHalf',
  'pieces',
  'pieceRoles',
  'normalMaps',
  'landmarks',
  'bones',
  'skin',
  'transfer',
  'root',
  'cues',
  'delivery',
  'performers',
] as const

type Tree = Readonly<Record<string, unknown>>
const isTree = (v: unknown): v is Tree => typeof v === 'object' && v !== null && !Array.isArray(v)

/**
 * A recipe with settings laid over it, part by part: `{ "skin": { "influences": 8 } }` leaves the rest of the skin alone, null
 * takes a setting back, a list stands in place of the list that was there.
 * @throws ChiraxisError `bad-settings` telling the path of what does not fit
 */
export function withSettings(recipe: Recipe, settings: unknown): Recipe {
  if (!isTree(settings))
    throw new ChiraxisError('bad-settings', 'Settings are an object, as { "skin": { "influences": 8 } }.')
  const strange = Object.keys(settings).find(key => !SETTABLE.includes(key as never))
  if (strange !== undefined)
    throw new ChiraxisError(
      'bad-settings',
      `Settings have no ${strange.slice(0, 60)}; there are ${SETTABLE.join(', ')}.`,
    )
  const merged = lay(recipe as unknown as Tree, settings)
  const parsed = recipeSchema.safeParse(merged)
  if (!parsed.success) {
    const { path, message } = parsed.error.issues[0]
    throw new ChiraxisError('bad-settings', `The setting ${path.join('.')} cannot be: ${message}.`)
  }
  const unknown = unread(settings, parsed.data)
  if (unknown !== undefined) throw new ChiraxisError('bad-settings', `There is no setting ${unknown}.`)
  return parsed.data
}

function lay(under: Tree, over: Tree): Tree {
  const out: Record<string, unknown> = { ...under }
  for (const [key, value] of Object.entries(over)) {
    if (key === '__proto__') continue
    if (value === null && key !== 'mirrorHalf' && key !== 'elbowRoom') delete out[key]
    else out[key] = isTree(value) && isTree(out[key]) ? lay(out[key], value) : value
  }
  return out
}

/** The path of a setting that the reader passed over, because there is none of that name. */
function unread(settings: Tree, read: unknown, at = ''): string | undefined {
  for (const [key, value] of Object.entries(settings)) {
    if (value === null || value === undefined) continue
    const path = at ? `${at}.${key}` : key
    const got = (read as Tree | undefined)?.[key]
    if (got === undefined) return path
    const below = isTree(value) ? unread(value, got, path) : undefined
    if (below) return below
  }
  return undefined
}
