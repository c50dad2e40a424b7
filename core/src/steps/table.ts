import { breather, ChiraxisError, partOf, type Vec3 } from '../math'
import { voxelize, weldByPosition, type Mesh } from '../mesh'
import { bumpyImages, readReceived, thingOf, withPieces, type Received } from '../formats'
import { findAll } from '../findings'
import { applyEdits, detectBody, findHands, landmarksAsPlaced, landmarksByProportion, standUp } from '../landmarks'
import { closeCanvas, groundOf, readWeights } from '../paint'
import { applyRigEdits, type RigEdit } from '../rig'
import {
  applyStraighten,
  applySurfaceEdits,
  asymmetryOf,
  checkBody,
  cleanFaces,
  findFaceFaults,
  findHalf,
  findRims,
  mirrorHalf,
  withoutPieces,
} from '../shape'
import { atBind, recogniseRoles, type Skeleton } from '../skeleton'
import { findBleeding, LEAST_WEIGHT, limitInfluences, skinOfPieces, treatPieces, type Skin } from '../skin'
import { bodySurfaceOf, grownMesh } from '../surface'
import { handledBody } from '../handles'
import { handHolds } from '../props'
import { choiceOf, guessPieces } from '../pieces'
import { makeCorrective, nameShapes, NO_SHAPES } from '../corrective'
import { bindsTold, withFace } from '../face'
import { readFaceSolution } from '../voice'
import { assess, posesOf } from '../strain'
import {
  adjustPerformance,
  carryPerformance,
  correctCarried,
  cued,
  finishPerformance,
  takeClock,
  layerCorrected,
  placeTold,
} from '../perform'
import { EMPTY_NOTE, performerKey, type PerformerNote } from '../retarget'
import { CUE_DEFAULTS } from '../cues'
import { asksFeet } from '../root-motion'
import { keepsReceived, laysGiven, ownTakeAt, planFor, rootOf, type Recipe, type TakeRef } from '../recipe'
import { withOwnSkins } from './appendage-skins'
import { contextOf } from './context'
import { performOwnTake } from './own-take'
import { carryProps, coursesOn } from './props-in-takes'
import { expressionsFor, faceFiles, faceOf, headPlace, spokenFace } from './faces'
import { LIGHT_STEPS } from './light'
import { told, toldOf } from './pieces-told'
import { receivedRig, toldByFile } from './received-rig'
import { repairOnto } from './open-skin'
import { weightsOfFile } from './weights-of-file'
import type { RigResult, FileSet, StepName, StepRef, Step } from './types'

const bodyOf = (recipe: Recipe): FileSet => {
  if (!recipe.body)
    throw new ChiraxisError('missing-file', 'There is no body yet. Drop one on the window or open the sample figure.')
  return { file: recipe.body, beside: recipe.beside }
}
/** A file that came later, without what was decided about it. */
const setOf = ({ file, beside }: FileSet): FileSet => ({ file, beside })
/** The body's file, and those that came later as pieces for it. */
const files = (recipe: Recipe): readonly StepRef[] =>
  recipe.body ? [['read', bodyOf(recipe)], ...recipe.added.map((a): StepRef => ['read', setOf(a)])] : []

/** A body without the pieces that came later, where anything of it is left. */
function bodyAlone(mesh: Mesh, received: Received, body: Received): Mesh {
  const later = new Set(received.mesh!.parts.slice(body.mesh?.parts.length ?? 0).map(p => p.name))
  const alone = withoutPieces(mesh, later).mesh
  return alone.indices.length > 0 ? alone : mesh
}

const isGiven = (source: Recipe['bones']['source']): boolean => source === 'given'

type Pieces = Recipe['pieces']
/** Names of the pieces that do not belong to the body. */
const leftOut = (pieces: Pieces): string[] =>
  Object.entries(pieces)
    .filter(([, p]) => p.role === 'left-out')
    .map(([name]) => name)
    .sort()
const anyEdits = (edits: Recipe['bones']['edits']): boolean => edits.length > 0
/** Whether the rest pose was changed by hand. */
const restsOtherwise = (edits: Recipe['bones']['edits']): boolean => edits.some(e => e.kind === 'rest')
/** The figure as takes are carried onto it: where the rest pose was changed by hand, as it was bound, so that no take changes. */
const standing = ({ bones }: Recipe, skeleton: Skeleton): Skeleton =>
  restsOtherwise(bones.edits) ? atBind(skeleton) : skeleton
/** Appendages by what they brought along. */
const attachments = (edits: Recipe['bones']['edits']): unknown => edits.filter(e => e.kind === 'attach')
const attachedFiles = (recipe: Recipe): readonly StepRef[] =>
  recipe.added.flatMap((a): StepRef[] => (a.attached ? [['read', setOf(a)]] : []))
type LandmarkEdits = Recipe['landmarks']['edits']
/** Places by hand that tell where hands are. */
const handPlaces = (edits: LandmarkEdits): unknown[] =>
  ['Elbow', 'Wrist', 'HandTip'].flatMap(part => ['left', 'right'].map(side => edits[side + part]))
type Transfer = Recipe['transfer']
/** What is corrected of a take: what is told of all, and of it alone. */
const correctionsOf = (recipe: Recipe, id: string): Transfer => ({
  ...recipe.transfer,
  ...recipe.takes.find(t => t.id === id)?.correct,
})
/** Whether a correction of a take asks for the figure's own surface. */
/** Whether the body itself is needed to finish a take. */
const needsBody = (recipe: Recipe, id: string): boolean =>
  asksFeet(rootOf(recipe, id)) || (recipe.ownContacts?.[id]?.length ?? 0) > 0
const asksSurface = (recipe: Recipe, id: string): boolean => {
  const all = correctionsOf(recipe, id)
  const stretches = recipe.takes.find(t => t.id === id)?.stretches ?? []
  return [all, ...stretches.map(s => ({ ...all, ...s.correct }))].some(
    ({ ground, hands, elbowRoom }) => ground || hands > 0 || elbowRoom !== null,
  )
}
const isLayered = (recipe: Recipe, id: string): boolean =>
  (recipe.takes.find(t => t.id === id)?.layers ?? []).length > 0
/** Everything but how rest poses are matched. */
const corrections = ({ rest: _, ...others }: Transfer): unknown => others

const eachCorrective = ({ correctives }: Recipe): StepRef[] =>
  (correctives ?? []).map((c): StepRef => ['corrective', c.id])
const correctiveNames = (list: Recipe['correctives']): unknown[] => (list ?? []).map(c => [c.id, c.label])
const correctiveJoints = (list: Recipe['correctives']): unknown[] =>
  (list ?? []).map(c => [c.label, ...c.turns.map(t => t.joint)])
const eachProp = ({ props }: Recipe): StepRef[] => (props ?? []).map((p): StepRef => ['prop', p.id])
/** What is told of props beside their files. */
const carriedProps = (list: Recipe['props']): unknown[] => (list ?? []).map(p => [p.id, p.name, p.carry])
const propIds = (list: Recipe['props']): unknown[] => (list ?? []).map(p => p.id)
const anyProps = ({ props }: Recipe): boolean => (props ?? []).length > 0
const takeNames = (takes: Recipe['takes']): unknown[] => takes.map(t => [t.id, t.name])

const takeOf = (recipe: Recipe, id: string): TakeRef => {
  const take = recipe.takes.find(t => t.id === id)
  if (!take) throw new ChiraxisError('no-take', 'There is no such take any more.')
  return take
}
const recordingOf = (recipe: Recipe, id: string): readonly StepRef[] => {
  const take = recipe.takes.find(t => t.id === id)
  return take ? [['read', { file: take.file, beside: [] }]] : []
}
const noteOf = (recipe: Recipe, performer: Skeleton): PerformerNote =>
  recipe.performers[performerKey(performer)] ?? EMPTY_NOTE

/** The skin that came along, unless it is given up. */
const keptSkin = (recipe: Recipe, { skin }: RigResult): Skin | undefined =>
  recipe.skin.source === 'auto' ? skin : undefined

/**
 * The whole derivation: what every step reads of the recipe, which steps it builds on, and how it is worked out. Keys,
 * order, progress, stopping and what is worked out again after a change follow from here and are written nowhere else.
 */
export const STEPS: { readonly [N in StepName]: Step<N> } = {
  read: {
    reads: [],
    asked: set => set,
    from: [],
    weight: 4,
    compute: async ({ of: { file, beside }, source, read, work }) => {
      const files = new Map<string, Uint8Array>()
      for (const b of beside) files.set(b.name, await source(b))
      return read(await source(file), file.name, { beside: files, ...work })
    },
  },
  received: {
    reads: ['added'],
    from: files,
    weight: 0.5,
    compute: async ({ recipe, get }) => {
      const body = await get('read', bodyOf(recipe))
      const pieces = []
      for (const added of recipe.added) pieces.push(await get('read', setOf(added)))
      return withPieces(
        body,
        pieces,
        recipe.added.map(a => a.place),
      )
    },
    // mostly it is the body's file itself
    sizeOf: ({ format }) => format,
  },
  whole: {
    reads: ['surface', 'cleanFaces', 'mirrorHalf', { path: 'pieces', part: leftOut }],
    from: ['received'],
    weight: 0.5,
    compute: async ({ recipe, work, get }) => {
      const received = await get('received')
      if (!received.mesh)
        throw new ChiraxisError(
          'no-triangles',
          `${bodyOf(recipe).file.name} holds a motion but no body. Drop it again in Motion.`,
        )
      const out = new Set(
        received.mesh.parts.filter(p => choiceOf(recipe.pieces, p)?.role === 'left-out').map(p => p.name),
      )
      const { mesh: there, from } = withoutPieces(received.mesh, out)
      const { mesh: kept, lost } = await applySurfaceEdits(there, recipe.surface, work)
      const half = recipe.mirrorHalf ? await findHalf(kept, work) : undefined
      const joined = half ? mirrorHalf(kept, half) : kept
      const left = received.mesh.parts.flatMap(({ name }, part) => (from && out.has(name) ? [] : [part]))
      const parts = [false, ...(half ? [true] : [])].flatMap(mirrored => left.map(part => ({ from: part, mirrored })))
      const mesh = recipe.cleanFaces ? await cleanFaces(joined, work) : joined
      return { mesh, from, parts, lost, ...(half && { mirror: half.axis }) }
    },
    // mostly it is the received body itself
    sizeOf: ({ from }) => from,
  },
  faults: {
    reads: [],
    from: ['shape'],
    weight: 2,
    compute: async ({ work, get }) => {
      const { mesh, weld } = await get('shape')
      return {
        rims: await findRims(mesh, partOf(work, 0, 0.4), weld),
        faces: await findFaceFaults(mesh, partOf(work, 0.4, 1), weld),
      }
    },
  },
  reading: {
    reads: ['bones.reading'],
    from: ['received'],
    weight: 0.1,
    compute: async ({ recipe, get }) => readReceived(await get('received'), recipe.bones.reading),
  },
  stance: {
    reads: ['straighten'],
    from: recipe => ['received', 'whole', 'reading', ...(recipe.added.length > 0 ? files(recipe).slice(0, 1) : [])],
    weight: 4,
    lasting: true,
    compute: async ({ recipe, work, get }) => {
      const told = toldByFile(await get('received'), await get('reading'))
      const { mesh } = await get('whole')
      // what is put on a body does not move it
      const bare =
        recipe.added.length > 0 ? bodyAlone(mesh, await get('received'), await get('read', bodyOf(recipe))) : mesh
      return standUp(bare, { ...told, ...recipe.straighten }, work)
    },
  },
  shape: {
    reads: [],
    from: ['received', 'whole', 'stance', 'reading'],
    weight: 0.5,
    compute: async ({ work, get }) => {
      const pulse = breather(work)
      const received = await get('received')
      const { mesh: whole, ...lineage } = await get('whole')
      const straightened = await get('stance')
      await pulse(0.2)
      const mesh = applyStraighten(whole, straightened)
      await pulse(0.6)
      const reading = await get('reading')
      return { received, reading, straightened, mesh, ...lineage, weld: weldByPosition(mesh.positions) }
    },
    sizeOf: ({ mesh, weld, from }) => [mesh.positions, mesh.indices, weld, from],
  },
  check: {
    reads: [],
    from: ['shape'],
    weight: 2,
    lasting: true,
    compute: async ({ work, get }) => {
      const { mesh, weld } = await get('shape')
      return checkBody(mesh, work, weld)
    },
  },
  asymmetry: {
    reads: [],
    from: ['shape'],
    weight: 4,
    lasting: true,
    compute: async ({ work, get }) => {
      const { mesh, straightened } = await get('shape')
      return asymmetryOf(mesh.positions, straightened.height, work)
    },
  },
  bumpy: {
    reads: [],
    from: ['received'],
    weight: 1,
    compute: async ({ get }) => bumpyImages((await get('received')).images ?? []),
  },
  half: {
    reads: [],
    from: ['received'],
    weight: 1,
    compute: async ({ work, get }) => {
      const { mesh } = await get('received')
      return mesh && findHalf(mesh, work)
    },
  },
  bare: {
    reads: [],
    from: recipe => ['shape', ...(recipe.added.length > 0 ? files(recipe).slice(0, 1) : [])],
    weight: 0.2,
    compute: async ({ recipe, get }) => {
      const { mesh, received } = await get('shape')
      // what is put on a body does not change what it is
      return recipe.added.length > 0 ? bodyAlone(mesh, received, await get('read', bodyOf(recipe))) : mesh
    },
  },
  found: {
    reads: ['bones.plan.kind', 'landmarks.byHand'],
    from: ['shape', 'bare'],
    weight: 14,
    lasting: true,
    compute: async ({ recipe, work, get }) => {
      const mesh = await get('bare')
      const { kind } = recipe.bones.plan
      // what is drawn by hand asks for no landmarks
      if (kind === 'drawn') return { plan: kind, landmarks: [] }
      if (!recipe.landmarks.byHand) {
        const { confidence } = (await get('shape')).straightened
        return detectBody(mesh, kind, { ...work, stance: confidence })
      }
      const plan = kind === 'fourleg' ? 'fourleg' : 'biped'
      return { plan, landmarks: landmarksByProportion(mesh.positions, plan) }
    },
  },
  hands: {
    reads: ['bones.plan.fingers', { path: 'landmarks.edits', part: handPlaces }],
    from: ['shape', 'bare', 'found'],
    weight: 4,
    lasting: true,
    compute: async ({ recipe, work, get }) => {
      const { straightened } = await get('shape')
      const mesh = await get('bare')
      const { plan, landmarks } = await get('found')
      const edits = recipe.landmarks.edits as Record<string, Vec3>
      const placed = plan === 'biped' ? applyEdits(landmarks, edits, straightened.height) : []
      return findHands(mesh, placed, recipe.bones.plan.fingers, work)
    },
  },
  landmarks: {
    reads: ['landmarks.edits'],
    from: ['shape', 'found', 'hands'],
    weight: 0.1,
    compute: async ({ recipe, get }) => {
      const { height } = (await get('shape')).straightened
      const { plan, landmarks: found } = await get('found')
      const hands = await get('hands')
      const edits = recipe.landmarks.edits as Record<string, Vec3>
      return { plan, found, hands, placed: landmarksAsPlaced(found, hands.landmarks, edits, height) }
    },
  },
  given: {
    reads: ['bones.given'],
    from: recipe => (recipe.bones.given ? [['read', recipe.bones.given]] : []),
    weight: 0.1,
    compute: async ({ recipe, get }) => {
      const set = recipe.bones.given
      if (!set) return undefined
      const came = await get('read', set)
      const reading = readReceived(came)
      if (!came.skeleton || !reading)
        throw new ChiraxisError('no-skeleton', `${set.file.name} holds no skeleton to lay on the body.`)
      return { skeleton: came.skeleton, reading }
    },
  },
  planned: {
    reads: ['bones.plan', { path: 'bones.source', part: isGiven }],
    from: recipe => ['landmarks', ...(laysGiven(recipe) ? (['given'] as const) : [])],
    weight: 0.1,
    compute: async ({ recipe, get }) => {
      const { placed, plan, hands } = await get('landmarks')
      return planFor(recipe, plan, placed, hands, laysGiven(recipe) ? await get('given') : undefined)
    },
  },
  rig: {
    reads: ['bones.source', 'bones.edits'],
    from: ['shape', 'planned'],
    weight: 1,
    compute: async ({ recipe, work, get, replay }) => {
      const shape = await get('shape')
      const size = shape.straightened.height
      const start = async (): Promise<RigResult> => {
        if (!keepsReceived(recipe, shape.received))
          return { skeleton: await get('planned'), takes: [], lost: [], source: 'plan' }
        const { skeleton, takes, skin } = receivedRig(shape)
        return { skeleton, takes, skin, lost: [], source: 'received' }
      }
      return replay<RigEdit>('bones.edits', start, async (before, edit) => {
        const { rig, lost } = await applyRigEdits({ ...before, mesh: shape.mesh }, [edit], size, work)
        const { skeleton, takes, skin } = rig
        return { skeleton, takes, skin, source: before.source, lost: [...before.lost, ...lost] }
      })
    },
  },
  bleeding: {
    reads: [],
    from: ['shape', 'rig'],
    weight: 4,
    compute: async ({ work, get }) => {
      const { mesh } = await get('shape')
      const { skeleton, skin } = await get('rig')
      return skin && findBleeding(mesh, skeleton, skin, work)
    },
  },
  solid: {
    reads: [],
    from: ['shape'],
    weight: 2,
    compute: async ({ work, get }) => {
      const { mesh } = await get('shape')
      return voxelize(mesh.positions, mesh.indices, { cells: 110, ...work })
    },
  },
  pieces: {
    reads: ['pieceRoles'],
    from: ['shape', 'rig'],
    weight: 1,
    lasting: true,
    compute: async ({ recipe, work, get }) => {
      const { mesh, received } = await get('shape')
      const { skeleton } = await get('rig')
      if (recipe.pieceRoles === 'told') return []
      return guessPieces(mesh, skeleton, received.materials, work)
    },
  },
  automaticSkin: {
    reads: ['skin.source', 'skin.firmness', { path: 'pieces', part: told }, { path: 'bones.edits', part: attachments }],
    from: recipe => ['shape', 'rig', 'pieces', ...attachedFiles(recipe)],
    weight: 16,
    lasting: true,
    compute: async context => {
      const { recipe, work, get } = context
      const shape = await get('shape')
      const { mesh } = shape
      const rig = await get('rig')
      const kept = keptSkin(recipe, rig)
      const { firmness } = recipe.skin
      // what came with the file is touched only where somebody said so
      if (kept) {
        const treatments = mesh.parts.map(p => toldOf(recipe.pieces, p))
        const skin = await treatPieces(mesh, rig.skeleton, kept, treatments, work)
        return withOwnSkins(context, shape, rig.skeleton, skin)
      }
      const guesses = await get('pieces')
      const treatments = mesh.parts.map((p, i) => toldOf(recipe.pieces, p) ?? guesses[i])
      const skin = await skinOfPieces(mesh, rig.skeleton, treatments, { firmness, ...work })
      return withOwnSkins(context, shape, rig.skeleton, skin)
    },
  },
  ground: {
    reads: [],
    from: ['shape'],
    weight: 2,
    compute: async ({ work, get }) => {
      const { mesh, weld, straightened } = await get('shape')
      return groundOf(mesh, straightened.height, weld, work)
    },
    sizeOf: ({ positions, indices, normals, adjacency }) => [positions, indices, normals, adjacency],
  },
  weights: {
    reads: [],
    asked: file => file,
    from: (_, file) => [['read', { file, beside: [] }]],
    weight: 1,
    compute: async ({ of: file, source, get }) =>
      /\.json$/i.test(file.name)
        ? readWeights(await source(file), file.name)
        : weightsOfFile(await get('read', { file, beside: [] }), file.name),
  },
  openSkin: {
    reads: ['skin.edits'],
    from: recipe => [
      'ground',
      'rig',
      'automaticSkin',
      ...recipe.skin.edits.flatMap((e): StepRef[] => (e.kind === 'load' ? [['weights', e.file]] : [])),
    ],
    weight: 3,
    compute: context => repairOnto(context),
  },
  skin: {
    reads: ['skin.source', 'skin.influences'],
    from: ['automaticSkin', 'rig', 'ground', 'openSkin'],
    weight: 1,
    compute: async ({ recipe, get }) => {
      const { edits, influences } = recipe.skin
      const rough = await get('automaticSkin')
      const rig = await get('rig')
      const kept = keptSkin(recipe, rig) !== undefined
      if (edits.length === 0) return kept ? rough : limitInfluences(rough, influences, LEAST_WEIGHT)
      const [open, ground] = [await get('openSkin'), await get('ground')]
      // a skin that came with the body keeps as many joints a vertex as it came with
      return closeCanvas(
        { ...ground, skeleton: rig.skeleton, skin: open.skin },
        kept ? rough.influences : influences,
        LEAST_WEIGHT,
      )
    },
  },
  ...LIGHT_STEPS,
  corrective: {
    reads: ['turns', 'ease', 'keep', 'mirrored', 'strokes'].map(part => `correctives.$.${part}`),
    from: ['ground', 'rig', 'skin'],
    weight: 2,
    compute: async ({ recipe, of, work, get }) => {
      const corrective = recipe.correctives?.find(c => c.id === of)
      if (!corrective) throw new ChiraxisError('bad-input', 'There is no such corrective any more.')
      return makeCorrective(await get('ground'), (await get('rig')).skeleton, await get('skin'), corrective, work)
    },
    sizeOf: ({ sides }) => sides.map(s => s.offsets),
  },
  correctives: {
    reads: [{ path: 'correctives', part: correctiveNames }],
    from: recipe => {
      const list = eachCorrective(recipe)
      return list.length > 0 ? ['shape', ...list] : []
    },
    weight: 0.1,
    compute: async ({ recipe, get }) => {
      const list = recipe.correctives ?? []
      if (list.length === 0) return NO_SHAPES
      const made = await Promise.all(
        list.map(async ({ id, label }) => ({ id, label, ...(await get('corrective', id)) })),
      )
      const { morphs } = (await get('shape')).mesh
      return nameShapes(
        made,
        morphs?.map(m => m.name),
      )
    },
    // the shapes are those of each corrective
    sizeOf: ({ lost }) => lost,
  },
  face: {
    reads: ['face.places'],
    from: ['shape', 'landmarks'],
    weight: 1,
    compute: async ({ recipe, get }) => {
      const { mesh, straightened } = await get('shape')
      return faceOf(mesh, await headPlace(get), recipe.face?.places, straightened.height)
    },
  },
  expressions: {
    reads: ['face.binds', 'face.make'],
    from: recipe => ['shape', 'correctives', ...(recipe.face?.make ? (['face'] as const) : [])],
    weight: 2,
    compute: async ({ recipe, get, work }) => {
      const { mesh, received } = await get('shape')
      const face = recipe.face?.make ? await get('face') : undefined
      const taken = (await get('correctives')).shapes.map(s => s.name)
      return expressionsFor(
        mesh,
        face,
        recipe.face,
        taken,
        received.document && bindsTold(received.document.json),
        work,
      )
    },
    // shapes the body came with are its own
    sizeOf: ({ shapes }) => shapes.map(s => s.offsets),
  },
  heard: {
    reads: [],
    asked: file => file,
    from: [],
    weight: 4,
    lasting: true,
    // listening is asked for late, and by few
    compute: async ({ of: file, source, work }) =>
      (await import('../voice/hear-file')).hearFile(await source(file), work),
  },
  solution: {
    reads: [],
    asked: file => file,
    from: [],
    weight: 0.5,
    compute: async ({ of: file, source }) => readFaceSolution(await source(file)).solution,
  },
  strain: {
    reads: ['checkPoses'],
    from: recipe => ['shape', 'rig', 'skin', ...eachCorrective(recipe)],
    weight: 12,
    lasting: true,
    compute: async ({ recipe, work, get }) => {
      const { skeleton } = await get('rig')
      const poses = posesOf(skeleton, recipe.checkPoses)
      const made = await Promise.all((recipe.correctives ?? []).map(c => get('corrective', c.id)))
      const shapes = made.flatMap(m => m.sides)
      return assess((await get('shape')).mesh, skeleton, await get('skin'), work, poses, shapes)
    },
  },
  bodySurface: {
    reads: ['handles.volumes'],
    from: ['shape', 'rig', 'skin'],
    weight: 2,
    compute: async ({ recipe, work, get }) => {
      const { skeleton } = await get('rig')
      const { joints } = recogniseRoles(skeleton)
      const skin = await get('skin')
      const mesh = grownMesh((await get('shape')).mesh, skeleton, skin, recipe.handles?.volumes)
      return bodySurfaceOf(mesh, skeleton, skin, joints, work)
    },
  },
  handles: {
    reads: ['handles.volumes'],
    from: ['shape', 'rig', 'skin', 'solid'],
    weight: 3,
    compute: async ({ recipe, work, get }) => {
      const { skeleton } = await get('rig')
      const { joints } = recogniseRoles(skeleton)
      const { mesh } = await get('shape')
      const grown = recipe.handles?.volumes
      return handledBody(mesh, skeleton, await get('skin'), joints, [0, 0, 0, 1], await get('solid'), grown, work)
    },
  },
  performance: {
    reads: ['takes.$.index', 'takes.$.adjust', 'takes.$.restFrom', 'performers'],
    from: recordingOf,
    weight: 1,
    compute: async ({ recipe, of, get }) => {
      const { file, index, adjust, restFrom } = takeOf(recipe, of)
      const { skeleton, takes } = await get('read', { file, beside: [] })
      const recording = takes[index]
      if (!skeleton || !recording)
        throw new ChiraxisError('no-take', `${file.name} holds no motion that could be carried over.`)
      const note = noteOf(recipe, skeleton)
      return adjustPerformance(skeleton, recording, { adjust, note: { ...note, restFrom: restFrom ?? note.restFrom } })
    },
  },
  carried: {
    reads: ['transfer.rest', 'performers', { path: 'bones.edits', part: restsOtherwise }],
    from: (recipe, of) => ['rig', ['performance', of], ...recordingOf(recipe, of)],
    weight: 1,
    compute: async ({ recipe, of, work, get }) => {
      const { skeleton: recorded } = await get('read', { file: takeOf(recipe, of).file, beside: [] })
      const { rest } = recipe.transfer
      const note = noteOf(recipe, recorded!)
      const onto = standing(recipe, (await get('rig')).skeleton)
      return carryPerformance(await get('performance', of), onto, { ...work, rest, note })
    },
  },
  corrected: {
    reads: [
      { path: 'transfer', part: corrections },
      'takes.$.correct',
      'takes.$.stretches',
      'takes.$.contacts',
      { path: 'bones.edits', part: restsOtherwise },
    ],
    from: (recipe, of) => [
      'rig',
      ['performance', of],
      ['carried', of],
      ...(asksSurface(recipe, of) ? ['bodySurface' as const] : []),
    ],
    weight: 2,
    compute: async ({ recipe, of, work, get }) => {
      const carried = await get('carried', of)
      return correctCarried(carried, standing(recipe, (await get('rig')).skeleton), {
        ...work,
        settings: correctionsOf(recipe, of),
        told: placeTold(await get('performance', of), takeOf(recipe, of)),
        surface: asksSurface(recipe, of) ? await get('bodySurface') : undefined,
      })
    },
  },
  layered: {
    reads: ['takes.$.layers', { path: 'bones.edits', part: restsOtherwise }],
    from: (recipe, of) => [
      'rig',
      ['performance', of],
      ['carried', of],
      ['corrected', of],
      ...(isLayered(recipe, of) && asksSurface(recipe, of) ? ['bodySurface' as const] : []),
    ],
    weight: 0.2,
    compute: async ({ recipe, of, get }) =>
      layerCorrected(
        await get('performance', of),
        await get('carried', of),
        await get('corrected', of),
        standing(recipe, (await get('rig')).skeleton),
        takeOf(recipe, of).layers ?? [],
        isLayered(recipe, of) && asksSurface(recipe, of) ? await get('bodySurface') : undefined,
      ),
  },
  prop: {
    reads: ['props.$.scale', 'props.$.places', 'props.$.mass'],
    from: (recipe, of) => {
      const prop = recipe.props?.find(p => p.id === of)
      return prop ? [['read', setOf(prop)]] : []
    },
    weight: 0.2,
    compute: async ({ recipe, of, get }) => {
      const prop = recipe.props?.find(p => p.id === of)
      if (!prop) throw new ChiraxisError('bad-input', 'There is no such prop any more.')
      return thingOf(await get('read', setOf(prop)), prop)
    },
  },
  props: {
    reads: [{ path: 'props', part: propIds }],
    from: recipe =>
      anyProps(recipe)
        ? ['holding', ...eachProp(recipe), ...(recipe.props ?? []).map((p): StepRef => ['read', setOf(p)])]
        : [],
    weight: 0.1,
    compute: async ({ recipe, get }) => {
      const list = []
      for (const prop of recipe.props ?? []) {
        const { materials = [], images = [] } = await get('read', setOf(prop))
        list.push({ id: prop.id, thing: await get('prop', prop.id), materials, images })
      }
      return { hands: list.length > 0 ? await get('holding') : [], list }
    },
    // what it shows is kept by what it stands on
    sizeOf: ({ list }) => list.length,
  },
  holding: {
    reads: [],
    from: ['shape', 'rig', 'skin'],
    weight: 0.5,
    compute: async ({ get }) => {
      const { skeleton } = await get('rig')
      return handHolds((await get('shape')).mesh, skeleton, await get('skin'), recogniseRoles(skeleton).joints)
    },
  },
  held: {
    reads: ['takes.$.props', { path: 'props', part: carriedProps }, { path: 'bones.edits', part: restsOtherwise }],
    from: (recipe, of) => [
      ['layered', of],
      ...(anyProps(recipe)
        ? (['rig', 'holding', ['performance', of], ['carried', of], ...eachProp(recipe)] as const)
        : []),
    ],
    weight: 0.2,
    compute: async ({ recipe, of, get }) => {
      const layered = await get('layered', of)
      if (!anyProps(recipe)) return layered
      const { clock } = await get('performance', of)
      const { figure } = await get('carried', of)
      const skeleton = standing(recipe, (await get('rig')).skeleton)
      return {
        ...layered,
        ...(await carryProps(
          { recipe, get },
          skeleton,
          figure.joints,
          layered.take,
          takeOf(recipe, of).props,
          takeClock(clock),
        )),
      }
    },
    sizeOf: ({ take, courses }) => [take, courses],
  },
  take: {
    reads: [
      'root',
      'takes.$.root',
      'cues',
      'takes.$.cues',
      'takes.$.face',
      'ownCues.$',
      'ownContacts.$',
      'takes.$.adjust.onTheSpot',
      'ownRoot.$',
      'ownLayers.$',
      'ownProps.$',
      { path: 'props', part: carriedProps },
    ],
    // a take that came with the body is no record of the recipe
    asked: of => (ownTakeAt(of) ? of : undefined),
    from: (recipe, of) => [
      ...(needsBody(recipe, of) ? (['bodySurface'] as const) : []),
      ...(ownTakeAt(of)
        ? (['rig', ...(anyProps(recipe) ? (['holding', ...eachProp(recipe)] as const) : [])] as const)
        : ([['performance', of], ['carried', of], ['held', of], ...faceFiles(recipe, of)] as const)),
    ],
    weight: 0.1,
    compute: async ({ recipe, of, work, get }) => {
      const root = rootOf(recipe, of)
      const surface = needsBody(recipe, of) ? await get('bodySurface') : undefined
      if (ownTakeAt(of)) {
        const bare = await performOwnTake(await get('rig'), of, {
          ...work,
          contacts: recipe.ownContacts?.[of],
          layers: recipe.ownLayers?.[of],
          root,
          surface,
        })
        const own = cued(bare, recipe.cues, recipe.ownCues?.[of])
        if (!anyProps(recipe)) return own
        const { figureSkeleton, figure, take } = own
        return {
          ...own,
          ...(await carryProps({ recipe, get }, figureSkeleton, figure.joints, take, recipe.ownProps?.[of])),
        }
      }
      const held = await get('held', of)
      const performance = await get('performance', of)
      const bare = finishPerformance(performance, await get('carried', of), held, root, surface)
      const finished = cued(bare, recipe.cues ?? CUE_DEFAULTS, takeOf(recipe, of).cues, takeClock(performance.clock))
      const clock = takeClock(performance.clock)
      const spoken = withFace(finished.take, await spokenFace(recipe, of, get), clock)
      const done = spoken === finished.take ? finished : { ...finished, take: spoken }
      const { courses } = held
      return courses ? { ...done, courses: coursesOn(done.moved, courses) } : done
    },
    sizeOf: ({ take, courses }) => [take, courses],
  },
  findings: {
    reads: [
      'landmarks.edits',
      'transfer.ground',
      'normalMaps',
      'pieces',
      'skin.influences',
      'mirrorHalf',
      'bones.source',
      'trial.states',
      { path: 'bones.edits', part: anyEdits },
      { path: 'correctives', part: correctiveJoints },
      { path: 'takes', part: takeNames },
      { path: 'props', part: carriedProps },
    ],
    from: (recipe, takes) => [
      ...(laysGiven(recipe) ? (['given'] as const) : []),
      'shape',
      'check',
      'bumpy',
      'half',
      'rig',
      'landmarks',
      'bleeding',
      'solid',
      'openSkin',
      ...takes.map((id): StepRef => ['take', id]),
    ],
    weight: 2,
    compute: async ({ recipe, of, work, get }) => findAll(await contextOf(recipe, get, { takes: of }), work),
  },
}
