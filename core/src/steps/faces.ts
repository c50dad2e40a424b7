import type { CorrectiveShape } from '../corrective'
import {
  bindsByName,
  EXPRESSIONS,
  findFace,
  headOf,
  makeExpressions,
  solveFromPoints,
  type Bind,
  type Binds,
  type Expression,
  type FaceChoices,
  type FaceLandmarkId,
  type FoundFace,
  type HeadPlace,
  type SpokenFace,
} from '../face'
import { ChiraxisError, scale, type Vec3, type WorkOptions } from '../math'
import type { Mesh } from '../mesh'
import type { Recipe } from '../recipe'
import type { FaceSolution } from '../voice'
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
    // points are fitted by the figure's own shapes
    ...(solution ? ([['solution', solution.file], 'face', 'expressions', 'shape'] as const) : []),
  ]
}

/** What the face of a take does, its files read. */
export async function spokenFace(recipe: Recipe, take: string, get: StepContext<'take'>['get']): Promise<SpokenFace> {
  const { voice, solution, strength } = recipe.takes.find(t => t.id === take)?.face ?? {}
  const said = voice && (voice.said ?? (await get('heard', voice.sound)).said)
  return {
    ...(voice && said && { voice: { at: voice.at, said, lead: voice.lead, seconds: said[said.length - 1]?.to ?? 0 } }),
    ...(solution && {
      solution: {
        at: solution.at,
        names: solution.names,
        weights: await solved(await get('solution', solution.file), get),
      },
    }),
    ...(strength && { strength }),
  }
}

/** Weights as they came, or fitted to points that came in their place. */
async function solved(came: FaceSolution, get: StepContext<'take'>['get']): Promise<FaceSolution> {
  if (!came.points) return came
  const face = await get('face')
  if (!face) throw new ChiraxisError('bad-input', 'Points of a face came, and this body has no face to be seen.')
  const { mesh } = await get('shape')
  const { shapes } = await get('expressions')
  const near = verticesAt(mesh, face)
  const moves = new Map(
    [...(mesh.morphs ?? []), ...shapes].map(({ name, offsets }) => [
      name,
      Object.fromEntries(
        [...near].map(([id, v]): [FaceLandmarkId, Vec3] => [
          id,
          [offsets[3 * v], offsets[3 * v + 1], offsets[3 * v + 2]],
        ]),
      ),
    ]),
  )
  const places = Object.fromEntries(face.landmarks.map(l => [l.id, l.position]))
  return solveFromPoints({ fps: came.fps, frames: came.frames, ...came.points }, places, moves)
}

/** The vertex nearest to each place of a face. */
function verticesAt({ positions }: Mesh, { landmarks }: FoundFace): Map<FaceLandmarkId, number> {
  const best = new Map<FaceLandmarkId, number>()
  for (const { id, position: p } of landmarks) {
    let least = Infinity
    for (let i = 0; i < positions.length; i += 3) {
      const d = (positions[i] - p[0]) ** 2 + (positions[i + 1] - p[1]) ** 2 + (positions[i + 2] - p[2]) ** 2
      if (d < least) {
        least = d
        best.set(id, i / 3)
      }
    }
  }
  return best
}
