import { ChiraxisError, partOf, type Vec3, type WorkOptions } from '../math'
import { voxelize, weldByPosition, type Mesh } from '../mesh'
import { bumpyImages, readFile, type OuterReaders, type Received } from '../formats'
import { findAll, type Finding, type FindingContext } from '../findings'
import { applyEdits, detectBody, findHands, landmarksByProportion, type Hands, type Landmark } from '../landmarks'
import { applyRigEdits, type LostEdit } from '../rig'
import {
  applyStraighten,
  asymmetryOf,
  checkBody,
  cleanFaces,
  findHalf,
  mirrorHalf,
  straighten,
  withoutPieces,
  type BodyCheck,
} from '../shape'
import { buildPlan, recogniseRoles, type PlanKind, type Skeleton } from '../skeleton'
import {
  findBleeding,
  girthsOf,
  LEAST_WEIGHT,
  limitInfluences,
  skinOfPieces,
  type Bleeding,
  type Girths,
  type Skin,
} from '../skin'
import {
  applySkinEdits,
  closeCanvas,
  groundOf,
  openCanvas,
  readWeights,
  type CanvasGround,
  type LooseWeights,
  type LostSkinEdit,
} from '../paint'
import { assess, type Assessment } from '../strain'
import { weightsOfFile } from './weights-of-file'
import type { Take } from '../motion'
import { EMPTY_NOTE, perform, performerKey, restTurnsOf, type Performed } from '../transfer'
import { stepKey } from './hash'
import { receivedRig, toldBySkeleton } from './received-rig'
import type { ShapeResult } from './shape-result'
import type { FileRef, Recipe, TakeRef } from './recipe'

/** Bytes of a file by its reference. */
export type FileSource = (file: FileRef) => Promise<Uint8Array>

export interface LandmarkResult {
  readonly plan: PlanKind
  readonly found: readonly Landmark[]
  readonly placed: readonly Landmark[]
  readonly hands: Hands
}

export interface RigResult {
  readonly skeleton: Skeleton
  /** Takes that came with the body, on its edited skeleton. */
  readonly takes: readonly Take[]
  /** Skin that came with the body, carried along. */
  readonly skin?: Skin
  /** Edits that could not be made, each with the reason. */
  readonly lost: readonly LostEdit[]
  readonly source: 'plan' | 'received'
}

/** The derived results of a recipe, each worked out once for the inputs it depends on. */
export interface Derivation {
  shape(recipe: Recipe, work?: WorkOptions): Promise<ShapeResult>
  check(recipe: Recipe, work?: WorkOptions): Promise<BodyCheck>
  asymmetry(recipe: Recipe, work?: WorkOptions): Promise<Awaited<ReturnType<typeof asymmetryOf>>>
  landmarks(recipe: Recipe, work?: WorkOptions): Promise<LandmarkResult>
  rig(recipe: Recipe, work?: WorkOptions): Promise<RigResult>
  skeleton(recipe: Recipe, work?: WorkOptions): Promise<Skeleton>
  skin(recipe: Recipe, work?: WorkOptions): Promise<Skin>
  /** Weights before any repair: as they came, or worked out piece by piece. */
  automaticSkin(recipe: Recipe, work?: WorkOptions): Promise<Skin>
  /** The skin with every repair made, and the repairs that no longer fit. */
  repaired(recipe: Recipe, work?: WorkOptions): Promise<{ skin: Skin; lost: readonly LostSkinEdit[] }>
  /** What repairs of this body's skin start from. */
  ground(recipe: Recipe): Promise<CanvasGround>
  /** Weights that a file holds, apart from its figure. */
  weights(file: FileRef): Promise<LooseWeights>
  /** What the skin goes through in the check poses. */
  strain(recipe: Recipe, work?: WorkOptions): Promise<Assessment>
  /** What a file holds, as it came. */
  read(file: FileRef, beside?: readonly FileRef[]): Promise<Received>
  /** How thick the body is around its bones. */
  girths(recipe: Recipe, work?: WorkOptions): Promise<Girths>
  take(recipe: Recipe, take: TakeRef, work?: WorkOptions): Promise<Performed>
  /** Everything the rules find, with as much of the figure as can be worked out. */
  /** @param reach `kept` looks only at what the file itself holds: no landmarks are searched for */
  context(
    recipe: Recipe,
    performed: readonly Performed[],
    work?: WorkOptions,
    reach?: 'kept' | 'all',
  ): Promise<FindingContext>
  findings(recipe: Recipe, performed: readonly Performed[], work?: WorkOptions): Promise<Finding[]>
}

/** Results kept per step; the oldest make room. */
const KEPT = 40

/** Whether the skeleton that came with a body is kept. */
export const keepsReceived = (recipe: Recipe, file: Received): boolean =>
  file.skeleton !== undefined &&
  (recipe.bones.source === 'received' || (recipe.bones.source === 'auto' && file.skeleton.names.length > 1))

/**
 * The steps of a recipe as pure functions of what they depend on, behind a cache by content hash.
 * A step that was stopped or failed leaves nothing behind, so it is worked out again when asked.
 */
export function createDerivation(source: FileSource, readers: OuterReaders = {}): Derivation {
  const cache = new Map<string, Promise<unknown>>()
  function shared<T>(key: string, make: () => Promise<T>): Promise<T> {
    const known = cache.get(key) as Promise<T> | undefined
    if (known) {
      cache.delete(key)
      cache.set(key, known)
      return known
    }
    const made = make()
    cache.set(key, made)
    made.catch(() => {
      if (cache.get(key) === made) cache.delete(key)
    })
    while (cache.size > KEPT) cache.delete(cache.keys().next().value!)
    return made
  }
  /** Two askers share one result; when the one who began it is stopped, the other works it out anew. */
  async function once<T>(key: string, make: () => Promise<T>, work: WorkOptions = {}): Promise<T> {
    for (;;) {
      try {
        return await shared(key, make)
      } catch (error) {
        if (!(error instanceof ChiraxisError && error.code === 'stopped') || work.signal?.aborted || !work.signal)
          throw error
        cache.delete(key)
      }
    }
  }

  const leftOut = (r: Recipe): string[] =>
    Object.entries(r.pieces)
      .filter(([, p]) => p.role === 'left-out')
      .map(([name]) => name)
      .sort()
  const worn = (r: Recipe): unknown[] =>
    Object.entries(r.pieces)
      .filter(([, p]) => p.role === 'rigid' || p.role === 'garment')
      .map(([name, p]) => [name, p.role, p.joint])
  const shapeKey = (r: Recipe): unknown[] => [
    r.body?.hash,
    r.beside.map(f => f.hash),
    r.straighten,
    r.cleanFaces,
    r.mirrorHalf,
    leftOut(r),
    r.bones.source,
  ]
  const landmarkKey = (r: Recipe): unknown[] => [...shapeKey(r), r.landmarks, r.bones.plan]
  const rigKey = (r: Recipe): unknown[] => [...landmarkKey(r), r.bones]

  async function received(file: FileRef, beside: readonly FileRef[] = []): Promise<Received> {
    return once(
      stepKey(
        'read',
        file.hash,
        file.name,
        beside.map(b => b.hash),
      ),
      async () => {
        const files = new Map<string, Uint8Array>()
        for (const b of beside) files.set(b.name, await source(b))
        return readFile(await source(file), file.name, { beside: files, readers })
      },
    )
  }

  const derivation: Derivation = {
    shape: (recipe, work = {}) => {
      const body = recipe.body
      if (!body)
        return Promise.reject(
          new ChiraxisError('missing-file', 'There is no body yet. Drop one on the window or open the sample figure.'),
        )
      return once(
        stepKey('shape', ...shapeKey(recipe)),
        async () => {
          const file = await received(body, recipe.beside)
          if (!file.mesh)
            throw new ChiraxisError('no-triangles', `${body.name} holds a motion but no body. Drop it again in Motion.`)
          const { mesh: kept, from } = withoutPieces(file.mesh, new Set(leftOut(recipe)))
          const half = recipe.mirrorHalf ? findHalf(kept) : undefined
          const joined = half ? mirrorHalf(kept, half) : kept
          const whole = recipe.cleanFaces ? cleanFaces(joined) : joined
          const straightened = await straighten(whole, { ...toldBySkeleton(file), ...recipe.straighten }, work)
          const mesh = applyStraighten(whole, straightened)
          return { received: file, straightened, mesh, from, weld: weldByPosition(mesh.positions) }
        },
        work,
      )
    },
    check: async (recipe, work = {}) => {
      const { mesh, weld } = await derivation.shape(recipe, partOf(work, 0, 0.4))
      return once(stepKey('check', ...shapeKey(recipe)), () => checkBody(mesh, partOf(work, 0.4, 1), weld), work)
    },
    asymmetry: async (recipe, work = {}) => {
      const { mesh, straightened } = await derivation.shape(recipe, partOf(work, 0, 0.2))
      return once(
        stepKey('asymmetry', ...shapeKey(recipe)),
        () => asymmetryOf(mesh.positions, straightened.height, partOf(work, 0.2, 1)),
        work,
      )
    },
    landmarks: async (recipe, work = {}) => {
      const { mesh, straightened } = await derivation.shape(recipe, partOf(work, 0, 0.4))
      const { kind } = recipe.bones.plan
      const { plan, landmarks: found } = await once(
        stepKey('landmarks', ...shapeKey(recipe), kind, recipe.landmarks.byHand),
        () => find(mesh, recipe, partOf(work, 0.4, 0.85)),
        work,
      )
      const body = applyEdits(found, recipe.landmarks.edits as Record<string, Vec3>, straightened.height)
      const handKey = ['Elbow', 'Wrist', 'HandTip'].flatMap(part =>
        ['left', 'right'].map(s => recipe.landmarks.edits[s + part]),
      )
      const wish = recipe.bones.plan.fingers
      const hands = await once(
        stepKey('hands', ...shapeKey(recipe), kind, recipe.landmarks.byHand, handKey, wish),
        () => findHands(mesh, plan === 'biped' ? body : [], wish, partOf(work, 0.85, 1)),
        work,
      )
      return {
        plan,
        found,
        hands,
        placed: applyEdits(
          [...body, ...hands.landmarks],
          recipe.landmarks.edits as Record<string, Vec3>,
          straightened.height,
        ),
      }
    },
    rig: async (recipe, work = {}) => {
      const shape = await derivation.shape(recipe, partOf(work, 0, 0.3))
      const size = shape.straightened.height
      if (keepsReceived(recipe, shape.received)) {
        return once(
          stepKey('rig', ...shapeKey(recipe), recipe.bones),
          async () => {
            const { rig, lost } = await applyRigEdits(
              receivedRig(shape),
              recipe.bones.edits,
              size,
              partOf(work, 0.3, 1),
            )
            return { skeleton: rig.skeleton, takes: rig.takes, skin: rig.skin, lost, source: 'received' as const }
          },
          work,
        )
      }
      const { placed, plan, hands } = await derivation.landmarks(recipe, partOf(work, 0.3, 0.9))
      return once(
        stepKey('rig', ...rigKey(recipe)),
        async () => {
          const planned = buildPlan(plan, placed, { ...recipe.bones.plan, found: hands.fingers })
          const { rig, lost } = await applyRigEdits(
            { skeleton: planned, mesh: shape.mesh, takes: [] },
            recipe.bones.edits,
            size,
            partOf(work, 0.9, 1),
          )
          return { skeleton: rig.skeleton, takes: [], lost, source: 'plan' as const }
        },
        work,
      )
    },
    skeleton: async (recipe, work = {}) => (await derivation.rig(recipe, work)).skeleton,
    skin: async (recipe, work = {}) => (await derivation.repaired(recipe, work)).skin,
    automaticSkin: async (recipe, work = {}) => {
      const { mesh } = await derivation.shape(recipe, partOf(work, 0, 0.2))
      const { skeleton, skin } = await derivation.rig(recipe, partOf(work, 0.2, 0.4))
      if (skin && recipe.skin.source === 'auto') return skin
      const { firmness } = recipe.skin
      return once(
        stepKey('skin', ...rigKey(recipe), firmness, worn(recipe)),
        () => skinOfPieces(mesh, skeleton, recipe.pieces, { firmness, ...partOf(work, 0.4, 1) }),
        work,
      )
    },
    ground: async recipe => {
      const { mesh, weld, straightened } = await derivation.shape(recipe)
      return once(stepKey('ground', ...shapeKey(recipe)), async () => groundOf(mesh, straightened.height, weld))
    },
    repaired: async (recipe, work = {}) => {
      const { edits, influences } = recipe.skin
      const rough = await derivation.automaticSkin(recipe, partOf(work, 0, 0.8))
      const { skeleton, skin: own } = await derivation.rig(recipe)
      const kept = rough === own
      if (kept && edits.length === 0) return { skin: rough, lost: [] }
      return once(
        stepKey('repaired', ...rigKey(recipe), recipe.skin, worn(recipe)),
        async () => {
          // a skin that came with the body keeps as many joints a vertex as it came with
          const most = kept ? rough.influences : influences
          if (edits.length === 0) return { skin: limitInfluences(rough, most, LEAST_WEIGHT), lost: [] }
          const canvas = openCanvas(await derivation.ground(recipe), skeleton, rough)
          const lost = await applySkinEdits(canvas, edits, {
            ...partOf(work, 0.8, 1),
            load: file => derivation.weights(file),
          })
          return { skin: closeCanvas(canvas, most, LEAST_WEIGHT), lost }
        },
        work,
      )
    },
    weights: file =>
      once(stepKey('weights', file.hash, file.name), async () => {
        const bytes = await source(file)
        return /\.json$/i.test(file.name)
          ? readWeights(bytes, file.name)
          : weightsOfFile(await received(file), file.name)
      }),
    strain: async (recipe, work = {}) => {
      const { mesh } = await derivation.shape(recipe)
      const skin = await derivation.skin(recipe, partOf(work, 0, 0.4))
      const skeleton = await derivation.skeleton(recipe)
      return once(
        stepKey('strain', ...rigKey(recipe), recipe.skin, worn(recipe)),
        () => assess(mesh, skeleton, skin, partOf(work, 0.4, 1)),
        work,
      )
    },
    read: received,
    girths: async (recipe, work = {}) => {
      const { mesh } = await derivation.shape(recipe, partOf(work, 0, 0.1))
      const skin = await derivation.skin(recipe, partOf(work, 0.1, 0.9))
      const skeleton = await derivation.skeleton(recipe)
      return once(
        stepKey('girths', ...rigKey(recipe), recipe.skin, worn(recipe)),
        async () => girthsOf(mesh, skeleton, skin, recogniseRoles(skeleton).joints),
        work,
      )
    },
    take: async (recipe, take, work = {}) => {
      const file = await received(take.file)
      const motion = file.takes[take.index]
      if (!file.skeleton || !motion)
        throw new ChiraxisError('no-take', `${take.file.name} holds no motion that could be carried over.`)
      const performer = file.skeleton
      const figure = await derivation.skeleton(recipe, partOf(work, 0, 0.2))
      const { rest, ground, limits, hands, elbowRoom } = recipe.transfer
      const girths = elbowRoom === null ? undefined : await derivation.girths(recipe, partOf(work, 0.2, 0.6))
      const note = recipe.performers[performerKey(performer)] ?? EMPTY_NOTE
      const depends = [
        take.file.hash,
        take.index,
        take.name,
        take.adjust,
        recipe.transfer,
        note,
        girths && [recipe.skin, worn(recipe)],
      ]
      return once(
        stepKey('take', ...rigKey(recipe), ...depends),
        () =>
          perform(performer, { ...motion, name: take.name }, figure, {
            rest,
            ground,
            limits,
            hands,
            adjust: take.adjust,
            map: { performer: note.map },
            restTurns: restTurnsOf(note),
            restFrom: note.restFrom,
            elbowRoom: girths && elbowRoom !== null ? { girths, metres: elbowRoom } : undefined,
            ...partOf(work, 0.6, 1),
          }),
        work,
      )
    },
    context: async (recipe, performed, work = {}, reach = 'all') => {
      const shape = await derivation.shape(recipe)
      const base: FindingContext = {
        mesh: shape.mesh,
        straightened: shape.straightened,
        dropped: shape.received.dropped,
        edits: recipe.landmarks.edits,
        grounded: recipe.transfer.ground,
        materials: shape.received.materials,
        images: shape.received.images,
        normalMaps: recipe.normalMaps,
        bumpy: await once(
          stepKey(
            'bumpy',
            recipe.body?.hash,
            recipe.beside.map(f => f.hash),
          ),
          () => bumpyImages(shape.received.images ?? []),
        ),
        half: recipe.mirrorHalf
          ? undefined
          : await once(stepKey('half', recipe.body?.hash), async () => findHalf(shape.received.mesh!)),
        check: await derivation.check(recipe, work),
        performed,
        influences: recipe.skin.influences,
      }
      if (base.half || (reach === 'kept' && !keepsReceived(recipe, shape.received))) return base
      const rig = await derivation.rig(recipe, work).catch((error: unknown) => {
        if (error instanceof ChiraxisError && error.code !== 'stopped') return undefined
        throw error
      })
      if (!rig) return base
      const landmarks = rig.source === 'plan' ? (await derivation.landmarks(recipe)).placed : undefined
      const bleeding = rig.skin
        ? await once(
            stepKey('bleeding', ...shapeKey(recipe), recipe.bones),
            (): Promise<Bleeding> => findBleeding(shape.mesh, rig.skeleton, rig.skin!, work),
            work,
          )
        : undefined
      const solid =
        rig.source === 'received'
          ? await once(
              stepKey('solid', ...shapeKey(recipe)),
              () => voxelize(shape.mesh.positions, shape.mesh.indices, { cells: 110, ...work }),
              work,
            )
          : undefined
      return {
        ...base,
        solid,
        landmarks,
        skeleton: rig.skeleton,
        source: rig.source,
        skin: rig.skin,
        bleeding,
        lost: rig.lost,
        lostSkin: recipe.skin.edits.length > 0 ? (await derivation.repaired(recipe, work)).lost : [],
      }
    },
    findings: async (recipe, performed, work = {}) => findAll(await derivation.context(recipe, performed, work)),
  }
  return derivation
}

/** Landmarks found in the shape; where a body is to be marked by hand, those of usual proportions. */
async function find(mesh: Mesh, recipe: Recipe, work: WorkOptions): Promise<{ plan: PlanKind; landmarks: Landmark[] }> {
  const { kind } = recipe.bones.plan
  if (!recipe.landmarks.byHand) return detectBody(mesh, kind, work)
  const plan = kind === 'fourleg' ? 'fourleg' : 'biped'
  return { plan, landmarks: landmarksByProportion(mesh.positions, plan) }
}
