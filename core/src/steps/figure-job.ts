import { ChiraxisError, partOf, type WorkOptions } from '../math'
import { deliver, type Delivered, type FileReader, type Proof } from '../formats'
import type { Finding } from '../findings'
import { emptyRecipe, hashBytes, readProject, shortName, withSettings, type FileRef, type Recipe } from '../recipe'
import type { Tangents } from '../light'
import { jointsInWorld, type Skeleton } from '../skeleton'
import { takeNamed } from './bake'
import { contentOf } from './content'
import { createDerivation, type Derivation } from './derivation'

/** A body or a saved project, its files at hand. */
export interface OpenedFigure {
  readonly recipe: Recipe
  readonly derivation: Derivation
  /** Puts another file at hand. */
  put(name: string, bytes: Uint8Array): FileRef
  bytesOf(file: FileRef): Uint8Array
}

export interface FigureFile {
  readonly name: string
  readonly bytes: Uint8Array
  readonly beside?: ReadonlyMap<string, Uint8Array>
}

/**
 * Opens a project archive, or a body as a project that nothing was decided about yet.
 * @throws ChiraxisError as the readers do
 */
export async function openFigure(
  { name, bytes, beside }: FigureFile,
  read?: FileReader,
  tangents?: Tangents,
): Promise<OpenedFigure> {
  const files = new Map<string, Uint8Array>()
  const put = (file: string, content: Uint8Array): FileRef => {
    const hash = hashBytes(content)
    files.set(hash, content)
    return { name: file, hash, size: content.length }
  }
  const bytesOf = (file: FileRef): Uint8Array => {
    const known = files.get(file.hash)
    if (!known) throw new ChiraxisError('missing-file', `The file ${file.name} is not at hand.`)
    return known
  }
  const derivation = createDerivation(async file => bytesOf(file), {
    ...(read && { read }),
    ...(tangents && { tangents }),
  })
  if (/\.chiraxis$/i.test(name)) {
    const project = await readProject(bytes)
    for (const [hash, content] of project.files) files.set(hash, content)
    return { recipe: project.recipe, derivation, put, bytesOf }
  }
  const body = put(name, bytes)
  const others = [...(beside ?? [])].map(([n, content]) => put(n, content))
  const stem = name.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '')
  return { recipe: { ...emptyRecipe(shortName(stem || 'figure')), body, beside: others }, derivation, put, bytesOf }
}

/** A joint as reports tell it, in metres. */
export interface ToldJoint {
  readonly name: string
  readonly role: string | null
  readonly parent: string | null
  readonly position: readonly number[]
}
export const toldJoints = (skeleton: Skeleton): ToldJoint[] =>
  jointsInWorld(skeleton).map(j => ({
    name: j.name,
    role: j.role ?? null,
    parent: j.parent >= 0 ? skeleton.names[j.parent] : null,
    position: j.position,
  }))

export interface FigureJob {
  readonly figure: FigureFile
  /** Laid over what was decided, see `withSettings`. */
  readonly settings?: unknown
  /** Names of takes that go along, or all that fit. Default none. */
  readonly takes?: 'all' | readonly string[]
}

export interface FigureJobResult {
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly report: {
    readonly name: string
    readonly height: number
    readonly joints: readonly ToldJoint[]
    readonly takes: readonly string[]
    readonly proof: Proof
    readonly findings: readonly Omit<Finding, 'place' | 'target'>[]
  }
}

/** From a body or a project to a delivered figure: the whole way in one job. */
export async function figureJob(
  { figure, settings, takes = [] }: FigureJob,
  read?: FileReader,
  work: WorkOptions = {},
): Promise<FigureJobResult> {
  const opened = await openFigure(figure, read)
  const recipe = settings === undefined ? opened.recipe : withSettings(opened.recipe, settings)
  const { derivation } = opened
  const { content, chosen } = await chosenContent(derivation, recipe, takes, partOf(work, 0, 0.85))
  const { bytes, proof }: Delivered<Proof> = await deliver(content)
  const { straightened } = await derivation.get('shape', recipe)
  const found = await derivation.get('findings', recipe, { of: [], ...partOf(work, 0.9, 1) })
  const { skeleton } = await derivation.get('rig', recipe)
  return {
    bytes,
    report: {
      name: recipe.name,
      height: straightened.height,
      joints: toldJoints(skeleton),
      takes: chosen,
      proof,
      findings: found.map(({ place: _, target: __, ...rest }) => rest),
    },
  }
}

/** Everything that is to be delivered with the takes that were named. @throws ChiraxisError `no-take` for a name there is none of */
export async function chosenContent(
  derivation: Derivation,
  recipe: Recipe,
  takes: 'all' | readonly string[],
  work: WorkOptions = {},
): Promise<{ content: Awaited<ReturnType<typeof contentOf>>; chosen: string[] }> {
  const wanted =
    takes === 'all' ? recipe.takes : takes.map(name => recipe.takes.find(t => t.id === takeNamed(recipe, name))!)
  const content = await contentOf(
    derivation,
    recipe,
    wanted.map(t => t.id),
    work,
  )
  return { content, chosen: wanted.map(t => t.name) }
}
