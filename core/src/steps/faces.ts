import type { CorrectiveShape } from '../corrective'
import {
  bindsByName,
  EXPRESSIONS,
  findFace,
  headOf,
  makeExpressions,
  type Bind,
  type Binds,
  type Expression,
  type FaceChoices,
  type FaceLandmarkId,
  type FoundFace,
  type HeadPlace,
  type SpokenFace,
} from '../face'
import { scale, type Vec3, type WorkOptions } from '../math'
import type { Mesh } from '../mesh'
import type { Recipe } from '../recipe'
import type { Expressions, StepContext, StepRef } from './types'

/** The head by the body's landmarks; by its breadth alone where no body is to be found. */
export async function headPlace(get: StepContext<'face'>['get']): Promise<HeadPlace> {
  try {
    const { placed } = await get('landmarks')
    const of = (id: string): Vec3 | undefined => placed.find(l => l.id === id)?.position as Vec3 | undefined
    const [chin, crown] = [of('chin'), of('crown')]
    if (chin && crown) return { chin, crown }
  } catch (error) {
    if ((error as { code?: string }).code === 'stopped') throw error
  }
  return headOf((await get('shape')).mesh)
}

/** The face on a head, with the places told by hand. @param places shares of `height` */
export function faceOf(
  mesh: Mesh,
  head: HeadPlace,
  places: FaceChoices['places'] = {},
  height: number,
): FoundFace | undefined {
  const found = findFace(mesh, head)
  // where nothing of a face is sure there is none
  if (!found.landmarks.some(l => l.confidence > 0.5)) return undefined
  return {
    ...found,
    landmarks: found.landmarks.map(l => {
      const told = places[l.id as FaceLandmarkId]
      return told ? { ...l, position: scale(told, height), confidence: 1 } : l
    }),
  }
}

/** A figure's expressions: by the names of the shapes it came with, as somebody told, and made where that is wanted. */
export async function expressionsFor(
  mesh: Mesh,
  face: FoundFace | undefined,
  choices: FaceChoices = {},
  taken: readonly string[] = [],
  byFile: Binds = {},
  work: WorkOptions = {},
): Promise<Expressions> {
  const own = mesh.morphs?.map(m => m.name) ?? []
  const binds: Partial<Record<Expression, readonly Bind[]>> = { ...bindsByName(own), ...byFile }
  for (const e of EXPRESSIONS) if (choices.binds?.[e]) binds[e] = choices.binds[e]
  const told: string[] = []
  const shapes: CorrectiveShape[] = []
  if (face && choices.make) {
    const names = new Set([...own, ...taken])
    const made = await makeExpressions(
      mesh,
      face,
      EXPRESSIONS.filter(e => !binds[e]),
      work,
    )
    told.push(...made.told)
    for (const { name, offsets } of made.shapes) {
      let called = name
      for (let n = 2; names.has(called); n++) called = `${name} ${n}`
      names.add(called)
      shapes.push({ id: 'face', name: called, offsets, turns: [], ease: 1 })
      binds[name as Expression] = [{ shape: called, weight: 1 }]
    }
  } else if (choices.make) told.push('No face is to be seen on this body.')
  return { binds: binds as Binds, shapes, told }
}

/** Files that the face of a take needs read. */
export function faceFiles(recipe: Recipe, take: string): StepRef[] {
  const { voice, solution } = recipe.takes.find(t => t.id === take)?.face ?? {}
  return [
    ...(voice && !voice.said ? [['heard', voice.sound] as const] : []),
    ...(solution ? [['solution', solution.file] as const] : []),
  ]
}

/** What the face of a take does, its files read. */
export async function spokenFace(recipe: Recipe, take: string, get: StepContext<'take'>['get']): Promise<SpokenFace> {
  const { voice, solution, strength } = recipe.takes.find(t => t.id === take)?.face ?? {}
  const said = voice && (voice.said ?? (await get('heard', voice.sound)).said)
  return {
    ...(voice && said && { voice: { at: voice.at, said, lead: voice.lead, seconds: said[said.length - 1]?.to ?? 0 } }),
    ...(solution && {
      solution: { at: solution.at, names: solution.names, weights: await get('solution', solution.file) },
    }),
    ...(strength && { strength }),
  }
}
