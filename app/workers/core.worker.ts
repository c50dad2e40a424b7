import * as Comlink from 'comlink'
import { z } from 'zod'
import { createTransferJobs } from '@chiraxis/core/batch'
import { mendOne } from '@chiraxis/core/findings'
import { proveGlb, readFile, writeGlb } from '@chiraxis/core/formats'
import { ChiraxisError, distance, IDENTITY, type Quat, type WorkOptions, partOf } from '@chiraxis/core/math'
import { sectionOf, type Mesh } from '@chiraxis/core/mesh'
import { takeSeconds } from '@chiraxis/core/motion'
import {
  contentOf,
  createDerivation,
  hashBytes,
  keepsReceived,
  mendAll,
  planOfRecipe,
  planOfSkeleton,
  readProject,
  writeProject,
  type FileRef,
  type Recipe,
} from '@chiraxis/core/recipe'
import { findContacts } from '@chiraxis/core/ground'
import { fitWeights, looseWeights, writeWeights } from '@chiraxis/core/paint'
import { recogniseRoles, type BodyKind, type Skeleton } from '@chiraxis/core/skeleton'
import { nearestBoneSkin, type Skin } from '@chiraxis/core/skin'
import {
  ALL_POSES,
  bend,
  differenceOver,
  STRAIN_SCALES,
  strainOver,
  strainRange,
  type CheckPose,
} from '@chiraxis/core/strain'
import {
  bodyFrame,
  compareTake,
  comparisonPage,
  measureTransfer,
  performerKey,
  type Performed,
} from '@chiraxis/core/transfer'
import { OUTER_READERS } from '@chiraxis/loaders'
import type { Answer, CoreApi, PoseAnswer } from './core-api'
import { db } from './db'

// the page forbids eval; schemas are read without it
z.config({ jitless: true })

async function source(file: FileRef): Promise<Uint8Array> {
  const stored = await db.files.get(file.hash)
  if (!stored)
    throw new ChiraxisError(
      'missing-file',
      `The file ${file.name} is no longer kept by the browser; bring it in again.`,
    )
  return stored.bytes
}

const derivation = createDerivation(source, OUTER_READERS)
const carryJob = createTransferJobs(OUTER_READERS)
const jobs = new Map<string, { aborted: boolean }>()

/** Performed takes by id and what they were made from, for findings. */
const performedTakes = new Map<string, Performed>()

async function answer<T>(run: () => Promise<T>): Promise<Answer<T>> {
  try {
    return { ok: true, value: await run() }
  } catch (error) {
    if (error instanceof ChiraxisError) return { ok: false, refusal: { code: error.code, message: error.message } }
    const full = error instanceof DOMException && error.name === 'QuotaExceededError'
    return {
      ok: false,
      refusal: full
        ? {
            code: 'too-large',
            message: 'The browser has no room left to keep this file. Save the project to a file and clear old ones.',
          }
        : { code: 'bad-input', message: `The work failed: ${error instanceof Error ? error.message : String(error)}` },
    }
  }
}

/** Runs stoppable work under a name. */
async function job<T>(
  name: string,
  progress: (share: number) => void,
  run: (work: WorkOptions) => Promise<T>,
): Promise<Answer<T>> {
  const signal = { aborted: false }
  jobs.set(name, signal)
  try {
    return await answer(() => run({ signal, onProgress: progress }))
  } finally {
    if (jobs.get(name) === signal) jobs.delete(name)
  }
}

const performedOf = (recipe: Recipe): Performed[] => recipe.takes.flatMap(t => performedTakes.get(t.id) ?? [])

/** The figure as it is skinned now. */
async function skinned(recipe: Recipe): Promise<{ mesh: Mesh; skeleton: Skeleton; skin: Skin; height: number }> {
  const { mesh, straightened } = await derivation.get('shape', recipe)
  return {
    mesh,
    skeleton: (await derivation.get('rig', recipe)).skeleton,
    skin: await derivation.get('skin', recipe),
    height: straightened.height,
  }
}

function poseOf(id: string): CheckPose {
  const pose = ALL_POSES.find(p => p.id === id)
  if (!pose) throw new ChiraxisError('bad-settings', `There is no check pose ${id}.`)
  return pose
}

function told(values: Float32Array, scale: number, unit: string): PoseAnswer {
  let sum = 0,
    most = 0
  for (const x of values) {
    sum += x
    most = Math.max(most, x)
  }
  return { heat: values.map(x => x / scale), scale, unit, mean: sum / Math.max(1, values.length), most }
}

function kindOfSkeleton(skeleton: Skeleton | undefined): BodyKind | undefined {
  const read = skeleton && recogniseRoles(skeleton)
  return read?.missing.length === 0 ? read.kind : undefined
}

const api: CoreApi = {
  receive: (name, bytes, beside) =>
    answer(async () => {
      const files = new Map<string, Uint8Array>()
      for (const b of beside) files.set(b.name, await source(b))
      const received = await readFile(bytes, name, { beside: files, readers: OUTER_READERS })
      const file: FileRef = { name, hash: hashBytes(bytes), size: bytes.length }
      await db.files.put({ hash: file.hash, name, bytes })
      return {
        file,
        hasMesh: received.mesh !== undefined,
        hasSkeleton: received.skeleton !== undefined,
        kind: kindOfSkeleton(received.skeleton),
        takes: received.takes.map(t => ({ name: t.name, seconds: takeSeconds(t) })),
      }
    }),
  keep: (name, bytes) =>
    answer(async () => {
      const file: FileRef = { name, hash: hashBytes(bytes), size: bytes.length }
      await db.files.put({ hash: file.hash, name, bytes })
      return file
    }),
  shape: (recipe, name, progress) =>
    job(name, progress, async work => {
      const { mesh, straightened, received } = await derivation.get('shape', recipe, work)
      const pieces = received.mesh!.parts.map(p => ({ name: p.name, triangles: p.count / 3, material: p.material }))
      return {
        mesh,
        straightened,
        format: received.format,
        dropped: received.dropped,
        pieces,
        materials: received.materials ?? [],
        images: received.images ?? [],
        received: received.skeleton !== undefined,
        kept: keepsReceived(recipe, received),
      }
    }),
  check: (recipe, name, progress) => job(name, progress, work => derivation.get('check', recipe, work)),
  asymmetry: (recipe, name, progress) => job(name, progress, work => derivation.get('asymmetry', recipe, work)),
  landmarks: (recipe, name, progress) => job(name, progress, work => derivation.get('landmarks', recipe, work)),
  rig: recipe =>
    answer(async () => {
      const { skeleton, takes, lost, source: from } = await derivation.get('rig', recipe)
      return { skeleton, lost, source: from, takes: takes.map(t => ({ name: t.name, seconds: takeSeconds(t) })) }
    }),
  ownPlan: (recipe, name) =>
    answer(async () => {
      const rig = await derivation.get('rig', recipe)
      return rig.source === 'plan'
        ? planOfRecipe(recipe, name)
        : planOfSkeleton(rig.skeleton, (await derivation.get('shape', recipe)).straightened.height, name)
    }),
  mendAll: (recipe, name, progress) =>
    job(name, progress, async work => {
      const result = await mendAll(derivation, recipe, work)
      return { recipe: result.recipe, mended: result.mended }
    }),
  ownTake: (recipe, index) =>
    answer(async () => {
      const rig = await derivation.get('rig', recipe)
      const take = rig.takes[index]
      if (!take) throw new ChiraxisError('no-take', 'The body has no such take.')
      const roles = recogniseRoles(rig.skeleton)
      const frame = roles.missing.length === 0 ? bodyFrame(rig.skeleton, roles.joints) : ([...IDENTITY] as Quat)
      const played = { skeleton: rig.skeleton, joints: roles.joints, take, frame }
      const contacts = roles.missing.length === 0 ? findContacts(played) : {}
      const measures =
        roles.missing.length === 0
          ? measureTransfer(played, played, contacts)
          : { footSkateMetresPerSecond: 0, handError: 0, footError: 0, clearance: 0 }
      return {
        take,
        performer: rig.skeleton,
        performerTake: take,
        performerFrame: frame,
        performerScale: 1,
        performerGround: 0,
        contacts,
        measures,
        roleMap: {},
        restMatch: {},
        by: 'its own skeleton',
        performerJoints: roles.joints,
        figureJoints: roles.joints,
        extra: [],
        performerKey: '',
        match: {},
        carried: take,
        recorded: { seconds: takeSeconds(take), fps: take.fps },
      }
    }),
  skin: (recipe, name, progress) => job(name, progress, work => derivation.repaired(recipe, work)),
  strain: (recipe, name, progress) => job(name, progress, work => derivation.get('strain', recipe, work)),
  strainIn: (recipe, pose, kind, blending) =>
    answer(async () => {
      const { mesh, skeleton, skin } = await skinned(recipe)
      const bent = bend(mesh.positions, skeleton, skin, poseOf(pose), 1, blending)
      return {
        ...told(strainOver(mesh, bent, kind), STRAIN_SCALES[kind].most, STRAIN_SCALES[kind].unit),
        bent: blending === 'volume' ? bent : undefined,
      }
    }),
  compareIn: (recipe, pose, other) =>
    answer(async () => {
      const { mesh, skeleton, skin, height } = await skinned(recipe)
      const rest =
        other === 'nearest-bone'
          ? nearestBoneSkin(mesh, skeleton)
          : other === 'before-repair'
            ? await derivation.get('automaticSkin', recipe)
            : other === 'as-received'
              ? ((await derivation.get('rig', recipe)).skin ?? skin)
              : skin
      const apart = differenceOver(
        bend(mesh.positions, skeleton, skin, poseOf(pose), 1, 'linear'),
        bend(mesh.positions, skeleton, rest, poseOf(pose), 1, other === 'volume' ? 'volume' : 'linear'),
      )
      return told(
        apart.map(d => 100 * d),
        3 * height,
        'cm',
      )
    }),
  strainRange: (recipe, pose, name, progress) =>
    job(name, progress, async work => {
      const { mesh, skeleton, skin } = await skinned(recipe)
      return strainRange(mesh, skeleton, skin, poseOf(pose), work)
    }),
  saveWeights: recipe =>
    answer(async () => {
      const { mesh, skeleton, skin, height } = await skinned(recipe)
      return writeWeights(looseWeights(mesh, skeleton, skin, height))
    }),
  tryWeights: (recipe, file) =>
    answer(async () => {
      const { mesh, skeleton, height } = await skinned(recipe)
      const { missing, byPlace } = await fitWeights(await derivation.weights(file), mesh, skeleton, height)
      return { missing, byPlace }
    }),
  take: (recipe, take, name, progress) =>
    job(name, progress, async work => {
      const performed = await derivation.take(recipe, take, work)
      performedTakes.set(take.id, performed)
      const file = await derivation.read(take.file)
      const recording = file.takes[take.index]!
      const own = performed.travel
      return {
        take: performed.take,
        performer: performed.performerSkeleton,
        performerTake: performed.performerTake,
        performerFrame: performed.performerFrame,
        performerScale: own.scale,
        performerGround: own.performerStand * own.scale - own.figureStand,
        contacts: performed.contacts,
        handContacts: performed.handContacts && {
          together: performed.handContacts.together,
          body: performed.handContacts.body,
        },
        measures: performed.measures,
        roleMap: performed.roleMap,
        restMatch: performed.restMatch,
        by: performed.performer.by,
        performerJoints: performed.performer.joints,
        figureJoints: performed.figure.joints,
        extra: performed.performer.extra,
        performerKey: performerKey(file.skeleton!),
        restFrame: performed.restFrame,
        match: performed.match,
        carried: performed.carried,
        recorded: { seconds: takeSeconds(recording), fps: recording.fps },
      }
    }),
  compare: (recipe, take) =>
    answer(async () => {
      const performed = await derivation.take(recipe, take)
      const comparison = compareTake(performed, (await derivation.get('rig', recipe)).skeleton)
      return {
        comparison,
        page: comparisonPage(`${take.name} (${take.performer}) onto ${recipe.name}`, performed, comparison),
      }
    }),
  batchJob: (figure, take, settings) =>
    answer(async () => {
      const [body, motion] = [await source(figure), await source(take.file)]
      const result = await carryJob({
        figure: { key: figure.hash, name: figure.name, bytes: body },
        take: { key: take.file.hash, name: take.file.name, bytes: motion },
        index: take.index,
        takeName: take.name,
        settings,
        adjust: take.adjust,
      })
      return Comlink.transfer(result, [result.bytes.buffer])
    }),
  keepFigure: (recipe, name, progress) =>
    job(name, progress, async work => {
      const bytes = await writeGlb({ ...(await contentOf(derivation, recipe, [], work)), takes: [] })
      const file: FileRef = { name: `${recipe.name}.glb`, hash: hashBytes(bytes), size: bytes.length }
      await db.files.put({ hash: file.hash, name: file.name, bytes })
      return file
    }),
  bytesOf: file => answer(() => source(file)),
  section: (recipe, point, direction) =>
    answer(async () => {
      const { mesh, weld } = await derivation.get('shape', recipe)
      const section = sectionOf(mesh, point, direction, weld)
      return {
        outlines: section.outlines.map(o => ({ points: o.points, closed: o.closed })),
        chosen: section.chosen,
        u: section.u,
        v: section.v,
        centre: section.centre,
        off: section.centre ? distance(section.centre, point) : 0,
      }
    }),
  findings: recipe => answer(() => derivation.findings(recipe, performedOf(recipe))),
  remedy: (recipe, finding) =>
    answer(async () => mendOne(finding, await derivation.context(recipe, performedOf(recipe)))),
  deliver: (recipe, takes, name, progress) =>
    job(name, progress, async work => {
      const content = await contentOf(derivation, recipe, takes, partOf(work, 0, 0.85))
      const bytes = await writeGlb(content)
      progress(0.9)
      const proof = await proveGlb(bytes, content)
      return { bytes: Comlink.transfer(bytes, [bytes.buffer]), proof }
    }),
  pack: recipe =>
    answer(async () => {
      const bytes = await writeProject(recipe, source)
      return Comlink.transfer(bytes, [bytes.buffer])
    }),
  unpack: bytes =>
    answer(async () => {
      const { recipe, files } = await readProject(bytes)
      await db.files.bulkPut([...files].map(([hash, content]) => ({ hash, name: hash, bytes: content })))
      return recipe
    }),
  stop: async name => {
    const running = jobs.get(name)
    if (running) running.aborted = true
  },
}

Comlink.expose(api)
