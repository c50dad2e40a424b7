import { generateTangents } from 'three/examples/jsm/libs/mikktspace.module.js'
import './without-eval'
import * as Comlink from 'comlink'
import { createTransferJobs, toldOfTake } from '@chiraxis/core/batch'
import { mendOne } from '@chiraxis/core/findings'
import { checkProfile, deliverTogether } from '@chiraxis/core/delivery'
import { writeGlb } from '@chiraxis/core/formats'
import { ChiraxisError, distance, partOf, type WorkOptions } from '@chiraxis/core/math'
import { lightIndex, lightParts, sectionOf, type Mesh } from '@chiraxis/core/mesh'
import { takeSeconds, type Take } from '@chiraxis/core/motion'
import {
  applyRecipePatches,
  emptyRecipe,
  filesOf,
  hashBytes,
  laysGiven,
  readProject,
  writeProject,
  type FileRef,
  type Recipe,
} from '@chiraxis/core/recipe'
import {
  attachAppendage,
  bakeTake,
  contentOf,
  deliverableOf,
  contextIn,
  createDerivation,
  doubtsOn,
  guessArrival,
  mendAll,
  ownTakesOf,
  STILL_TAKE,
  stillTake,
  trialClips,
  crowdFile,
  guestOf,
  keepRun,
  type Carrying,
} from '@chiraxis/core/steps'
import { fitWeights, looseWeights, writeWeights } from '@chiraxis/core/paint'
import { atBind, recogniseRoles, type Skeleton } from '@chiraxis/core/skeleton'
import { type BodyKind } from '@chiraxis/core/body'
import type { CorrectiveShape } from '@chiraxis/core/corrective'
import { nearestBoneSkin, type Skin } from '@chiraxis/core/skin'
import {
  posesOf,
  bend,
  differenceOver,
  STRAIN_SCALES,
  strainOver,
  strainRange,
  type CheckPose,
} from '@chiraxis/core/strain'
import { performerKey } from '@chiraxis/core/retarget'
import { compareTake, comparisonPage, type Performed } from '@chiraxis/core/perform'
import type { Answer, Ask, CoreApi, PoseAnswer, Revision, TakeAnswer, ViewName, Views } from './core-api'
import { db } from '../keeping/db'
import { compact } from '../keeping/compact'
import { shippedFile } from '../keeping/shipped'
import { openResultStore } from '../keeping/result-store'
import { lend } from './lend'
import { readApart } from './read-apart'

/** Results over a reload; what another version of the program worked out is not trusted. */
const results = openResultStore(__CHIRAXIS_PROGRAM__)

/** Files the browser had no room for: held until the window closes, so that the project can still be saved to a file. */
const unkept = new Map<string, { name: string; bytes: Uint8Array }>()

async function source(file: FileRef): Promise<Uint8Array> {
  const held = unkept.get(file.hash)
  if (held) return held.bytes
  const stored = await db.files.get(file.hash)
  if (stored) return stored.bytes
  const shipped = await shippedFile(file, digestOf)
  if (!shipped)
    throw new ChiraxisError(
      'missing-file',
      `The file ${file.name} is no longer kept by the browser; bring it in again.`,
    )
  await keepFile(file.name, shipped, file)
  return shipped
}

/** The browser's own digest, which holds nobody up; it has none where a page came over an open line. */
async function digestOf(bytes: Uint8Array): Promise<string> {
  const subtle = globalThis.crypto?.subtle as SubtleCrypto | undefined
  if (!subtle) return hashBytes(bytes)
  const digest = new Uint8Array(await subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>))
  return Array.from(digest, b => b.toString(16).padStart(2, '0')).join('')
}
const refOf = async (name: string, bytes: Uint8Array): Promise<FileRef> => ({
  name: name.slice(-1000),
  hash: await digestOf(bytes),
  size: bytes.length,
})

/** @param known its reference, where it was digested already */
async function keepFile(name: string, bytes: Uint8Array, known?: FileRef): Promise<FileRef> {
  const file = known ?? (await refOf(name, bytes))
  const keep = (): Promise<unknown> => db.files.put({ hash: file.hash, name: file.name, bytes, at: Date.now() })
  try {
    // results that can be worked out again give way to what cannot
    await keep().catch(() => results.clear().then(keep))
  } catch {
    unkept.set(file.hash, { name: file.name, bytes })
  }
  return file
}

const derivation = createDerivation(source, { read: readApart, tangents: generateTangents, store: results })
const carryJob = createTransferJobs(readApart)

/** Work under way by its name; work on a step also by what its result is known by. */
interface Job {
  readonly signal: { aborted: boolean }
  readonly ask?: Ask
  readonly key?: string
}
const jobs = new Map<string, Job>()

/** The last few recipes by their number. */
const recipes = new Map<Revision, Recipe>()
const REMEMBERED = 6

function recipeOf(rev: Revision): Recipe {
  const recipe = recipes.get(rev)
  if (!recipe) throw new ChiraxisError('stopped', 'A newer change came in between.')
  return recipe
}

function follow(rev: Revision, recipe: Recipe): void {
  recipes.set(rev, recipe)
  while (recipes.size > REMEMBERED) recipes.delete(recipes.keys().next().value!)
  // what is worked on for a result that nobody will ask for again is given up; all else goes on
  for (const { ask, key, signal } of jobs.values()) if (ask && key !== keyFor(recipe, ask)) signal.aborted = true
}

const keyFor = (recipe: Recipe, { step, of }: Ask): string =>
  step === 'skin'
    ? // the answer tells lost repairs too
      `${derivation.key('skin', recipe)} ${recipe.skin.edits.length > 0 ? derivation.key('openSkin', recipe) : ''}`
    : derivation.key(step as 'take', recipe, of as string)

/** @param given the result is kept nowhere else, so its buffers are moved as they are */
async function answer<T>(run: () => Promise<T> | T, given = false): Promise<Answer<T>> {
  try {
    const { value, buffers } = lend(await run(), given)
    return Comlink.transfer({ ok: true, value } as Answer<T>, buffers)
  } catch (error) {
    if (error instanceof ChiraxisError) return { ok: false, refusal: { code: error.code, message: error.message } }
    return {
      ok: false,
      refusal: {
        code: 'bad-input',
        message: `The work failed: ${error instanceof Error ? error.message : String(error)}`,
      },
    }
  }
}

/** Runs stoppable work under a name. */
async function job<T>(
  name: string,
  progress: (share: number) => void,
  run: (work: WorkOptions) => Promise<T>,
  more: Omit<Job, 'signal'> = {},
): Promise<Answer<T>> {
  const own: Job = { ...more, signal: { aborted: false } }
  jobs.set(name, own)
  let told = -1
  const onProgress = (share: number): void => {
    // a message a percent is enough to look at
    if (share - told < 0.01) return
    told = share
    progress(share)
  }
  try {
    return await answer(() => run({ signal: own.signal, onProgress }))
  } finally {
    if (jobs.get(name) === own) jobs.delete(name)
  }
}

/** How the window sees each step. */
const VIEWS: { readonly [N in ViewName]: (recipe: Recipe, ask: Ask<N>, work: WorkOptions) => Promise<Views[N]> } = {
  shape: async (recipe, _, work) => {
    const { mesh, straightened, received } = await derivation.get('shape', recipe, work)
    return {
      mesh,
      straightened,
      format: received.format,
      dropped: received.dropped,
      pieces: received.mesh!.parts.map(p => ({
        name: p.name,
        aka: p.aka,
        triangles: p.count / 3,
        material: p.material,
      })),
      materials: received.materials ?? [],
      images: received.images ?? [],
      joints: received.skeleton?.names.length,
    }
  },
  check: (recipe, _, work) => derivation.get('check', recipe, work),
  faults: (recipe, _, work) => derivation.get('faults', recipe, work),
  asymmetry: (recipe, _, work) => derivation.get('asymmetry', recipe, work),
  landmarks: (recipe, _, work) => derivation.get('landmarks', recipe, work),
  rig: async (recipe, _, work) => {
    const rig = await derivation.get('rig', recipe, work)
    const { skeleton, lost, source } = rig
    const shape = await derivation.get('shape', recipe, work)
    const read = source === 'received' ? shape.reading : undefined
    const reading = read && {
      kind: read.kind,
      by: read.by,
      confidence: read.confidence,
      doubts: doubtsOn(skeleton, shape),
    }
    return {
      skeleton,
      lost,
      source,
      skinned: rig.skin !== undefined,
      takes: ownTakesOf(rig),
      reading,
      given: laysGiven(recipe) ? await derivation.get('given', recipe, work) : undefined,
    }
  },
  pieces: async (recipe, _, work) => {
    const { mesh } = await derivation.get('shape', recipe, work)
    const guesses = await derivation.get('pieces', recipe, work)
    return guesses.map((guess, i) => ({ name: mesh.parts[i]!.name, guess }))
  },
  skin: async (recipe, _, work) => {
    const skin = await derivation.get('skin', recipe, work)
    return { skin, lost: recipe.skin.edits.length > 0 ? (await derivation.get('openSkin', recipe, work)).lost : [] }
  },
  openSkin: async (recipe, _, work) => (await derivation.get('openSkin', recipe, work)).skin,
  correctives: (recipe, _, work) => derivation.get('correctives', recipe, work),
  expressions: (recipe, _, work) => derivation.get('expressions', recipe, work),
  face: (recipe, _, work) => derivation.get('face', recipe, work),
  light: async (recipe, _, work) => {
    const surface = await derivation.get('light', recipe, work)
    // images are baked when it is delivered
    const { bake: _baked, ...light } = recipe.light!
    const figure = await derivation.get('lightFigure', { ...recipe, light }, work)
    const far = new Float32Array(figure.mesh.positions.length / 3)
    far.set(surface.far)
    return { figure, far, edges: edgesOf(surface.quads), report: surface.report }
  },
  strain: (recipe, _, work) => derivation.get('strain', recipe, work),
  handles: (recipe, _, work) => derivation.get('handles', recipe, work),
  props: (recipe, _, work) => derivation.get('props', recipe, work),
  findings: (recipe, { of = [] }, work) => derivation.get('findings', recipe, { of, ...work }),
  take: async (recipe, { of }, work) =>
    takeAnswer(recipe, of!, await derivation.get('take', recipe, { of: of!, ...work })),
}

/** Every edge of some quads, once. */
function edgesOf(quads: Uint32Array): Uint32Array {
  const out: number[] = []
  for (let i = 0; i < quads.length; i++) {
    const a = quads[i]!,
      b = quads[i % 4 === 3 ? i - 3 : i + 1]!
    // each is met from both sides, once in either way
    if (a < b) out.push(a, b)
  }
  return Uint32Array.from(out)
}

/** Lowest and highest sample of some thousand even stretches of a sound. */
function waveOf(samples: Float32Array): Float32Array {
  const stretches = Math.min(4000, samples.length)
  const out = new Float32Array(2 * stretches)
  for (let i = 0; i < stretches; i++) {
    const [from, to] = [i, i + 1].map(k => Math.floor((k * samples.length) / stretches)) as [number, number]
    let [low, high] = [Infinity, -Infinity]
    for (let k = from; k < to; k++) {
      low = Math.min(low, samples[k]!)
      high = Math.max(high, samples[k]!)
    }
    out[2 * i] = low
    out[2 * i + 1] = high
  }
  return out
}

/** Whether two takes move alike, whatever goes along with them. */
const sameMotion = (a: Take, b: Take): boolean => a.rotations === b.rotations && a.translations === b.translations

async function takeAnswer(recipe: Recipe, id: string, performed: Performed & Carrying): Promise<TakeAnswer> {
  const ref = recipe.takes.find(t => t.id === id)
  const file = ref && (await derivation.get('read', recipe, { of: { file: ref.file, beside: [] } }))
  const recording = file && ref ? file.takes[ref.index]! : performed.take
  const { travel, handContacts } = performed
  return {
    take: performed.take,
    ...(performed.below && !sameMotion(performed.below, performed.take) && { below: performed.below }),
    figureFrame: performed.figureFrame,
    performer: performed.performerSkeleton,
    performerTake: performed.performerTake,
    performerFrame: performed.performerFrame,
    performerScale: travel.scale,
    performerLeg: performed.performerLeg,
    performerGround: travel.performerStand * travel.scale - travel.figureStand,
    contacts: performed.contacts,
    heels: performed.heels,
    lying: performed.lying,
    handContacts: handContacts && { together: handContacts.together, body: handContacts.body },
    measures: performed.measures,
    onTheSpot: performed.movingGround !== undefined,
    asPerformed: performed.asPerformed === true,
    calibration: performed.calibration,
    sliding: performed.sliding ?? [],
    roleMap: performed.roleMap,
    restMatch: performed.restMatch,
    by: ref ? performed.performer.by : 'its own skeleton',
    performerJoints: performed.performer.joints,
    figureJoints: performed.figure.joints,
    extra: ref ? performed.performer.extra : [],
    performerKey: file?.skeleton ? performerKey(file.skeleton) : '',
    restFrame: performed.restFrame,
    match: performed.match,
    carried: performed.carried,
    travelled: performed.travelled,
    ...(performed.courses && { courses: performed.courses }),
    recorded: { seconds: takeSeconds(recording), fps: recording.fps },
  }
}

/** The figure as it is skinned now. */
async function skinned(recipe: Recipe): Promise<{
  mesh: Mesh
  skeleton: Skeleton
  skin: Skin
  height: number
  shapes: readonly CorrectiveShape[]
}> {
  const { mesh, straightened } = await derivation.get('shape', recipe)
  const { skeleton } = await derivation.get('rig', recipe)
  const { shapes } = await derivation.get('correctives', recipe)
  return { mesh, skeleton, skin: await derivation.get('skin', recipe), height: straightened.height, shapes }
}

function poseOf(id: string, skeleton: Skeleton, recipe: Recipe): CheckPose {
  const pose = posesOf(skeleton, recipe.checkPoses).find(p => p.id === id)
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
  follow: (rev, change) => {
    if ('recipe' in change) return follow(rev, change.recipe)
    const base = recipes.get(change.base)
    // the window tells changes one after another, so what they go on from is always known
    if (base) follow(rev, applyRecipePatches(base, change.patches))
  },
  keys: (rev, asks) => {
    const recipe = recipes.get(rev)
    return recipe
      ? { ok: true, value: asks.map(ask => keyFor(recipe, ask)) }
      : { ok: false, refusal: { code: 'stopped', message: 'A newer change came in between.' } }
  },
  step: async (rev, ask, name, progress) => {
    const recipe = recipes.get(rev)
    const key = recipe && keyFor(recipe, ask)
    return job(
      name,
      progress,
      async work => {
        if (!recipe || !key) recipeOf(rev)
        return { key: key!, value: (await VIEWS[ask.step](recipe!, ask as never, work)) as never }
      },
      { ask, key },
    )
  },
  alive: async () => true,
  receive: (name, bytes, beside, jobName, progress) =>
    job(jobName, progress, async work => {
      const file = await refOf(name, bytes)
      const before = (await db.files.where('hash').equals(file.hash).count()) > 0
      await keepFile(name, bytes, file)
      // what is read here need not be read again by its step
      const reading = derivation.get('read', emptyRecipe(), { of: { file, beside: [...beside] }, ...work })
      const received = await reading.catch(async (error: unknown) => {
        // what is refused takes no room
        if (!before) await db.files.delete(file.hash)
        unkept.delete(file.hash)
        throw error
      })
      return {
        file,
        hasMesh: received.mesh !== undefined,
        hasSkeleton: received.skeleton !== undefined,
        kind: kindOfSkeleton(received.skeleton),
        takes: received.takes.map(t => ({ name: t.name, seconds: takeSeconds(t) })),
      }
    }),
  arrival: (rev, file, beside) =>
    answer(async () => {
      const recipe = recipeOf(rev)
      const open = await derivation.get('received', recipe)
      const came = await derivation.get('read', recipe, { of: { file, beside: [...beside] } })
      return guessArrival({ name: recipe.body!.name, received: open }, { name: file.name, received: came })
    }),
  keep: (name, bytes) => answer(() => keepFile(name, bytes)),
  fetchShipped: rev =>
    answer(async () => {
      for (const { file } of recipeOf(rev).takes) {
        if (unkept.has(file.hash) || (await db.files.where('hash').equals(file.hash).count()) > 0) continue
        await source(file)
      }
    }),
  unkept: async () => [...unkept].map(([hash, { name }]) => ({ hash, name })),
  hold: async files => {
    for (const { name, bytes } of files) await keepFile(name, bytes)
  },
  skeletonFile: rev =>
    answer(async () => {
      const recipe = recipeOf(rev)
      const { skeleton } = await derivation.get('rig', recipe)
      return writeGlb({ name: recipe.name, skeleton: atBind(skeleton) })
    }),
  performer: (rev, take) =>
    answer(async () => {
      const recipe = recipeOf(rev)
      const ref = recipe.takes.find(t => t.id === take)
      const file = ref && (await derivation.get('read', recipe, { of: { file: ref.file, beside: [] } }))
      if (!file?.skeleton) throw new ChiraxisError('no-take', 'There is no such take any more.')
      const { skeleton } = file
      const key = performerKey(skeleton)
      const { kind, by, confidence, doubts } = recogniseRoles(skeleton, recipe.performers[key]?.reading)
      return {
        key,
        reading: { kind, by, confidence },
        doubts: doubts.map(d => ({
          about: d.about,
          why: d.why,
          ...(d.joint !== undefined && { joint: skeleton.names[d.joint] }),
        })),
      }
    }),
  attach: (rev, set, choice, name, progress) =>
    job(name, progress, work => attachAppendage(derivation, recipeOf(rev), set, choice, work)),
  mendAll: (rev, name, progress) =>
    job(name, progress, async work => {
      const result = await mendAll(derivation, recipeOf(rev), work)
      return { recipe: result.recipe, mended: result.mended }
    }),
  strainIn: (rev, pose, kind, blending) =>
    answer(async () => {
      const recipe = recipeOf(rev)
      const { mesh, skeleton, skin, shapes } = await skinned(recipe)
      const bent = bend(mesh.positions, skeleton, skin, poseOf(pose, skeleton, recipe), 1, blending, shapes)
      return {
        ...told(await strainOver(mesh, bent, kind), STRAIN_SCALES[kind].most, STRAIN_SCALES[kind].unit),
        bent: blending === 'volume' ? bent : undefined,
      }
    }),
  compareIn: (rev, pose, other) =>
    answer(async () => {
      const recipe = recipeOf(rev)
      const { mesh, skeleton, skin, height, shapes } = await skinned(recipe)
      const rest =
        other === 'nearest-bone'
          ? nearestBoneSkin(mesh, skeleton)
          : other === 'before-repair'
            ? await derivation.get('automaticSkin', recipe)
            : other === 'as-received'
              ? ((await derivation.get('rig', recipe)).skin ?? skin)
              : skin
      const struck = poseOf(pose, skeleton, recipe)
      const apart = differenceOver(
        bend(mesh.positions, skeleton, skin, struck, 1, 'linear', shapes),
        bend(mesh.positions, skeleton, rest, struck, 1, other === 'volume' ? 'volume' : 'linear', shapes),
      )
      return told(
        apart.map(d => 100 * d),
        3 * height,
        'cm',
      )
    }),
  strainRange: (rev, pose, name, progress) =>
    job(name, progress, async work => {
      const recipe = recipeOf(rev)
      const { mesh, skeleton, skin, shapes } = await skinned(recipe)
      return strainRange(mesh, skeleton, skin, poseOf(pose, skeleton, recipe), work, shapes)
    }),
  saveWeights: rev =>
    answer(async () => {
      const { mesh, skeleton, skin, height } = await skinned(recipeOf(rev))
      return writeWeights(looseWeights(mesh, skeleton, skin, height))
    }),
  tryWeights: (rev, file) =>
    answer(async () => {
      const recipe = recipeOf(rev)
      const { mesh, skeleton, height } = await skinned(recipe)
      const { missing, byPlace } = await fitWeights(
        await derivation.get('weights', recipe, { of: file }),
        mesh,
        skeleton,
        height,
      )
      return { missing, byPlace }
    }),
  compare: (rev, id) =>
    answer(async () => {
      const recipe = recipeOf(rev)
      const take = recipe.takes.find(t => t.id === id)
      const performed = await derivation.get('take', recipe, { of: id })
      const comparison = compareTake(performed, (await derivation.get('rig', recipe)).skeleton)
      return {
        comparison,
        page: comparisonPage(
          `${take?.name ?? performed.take.name} (${take?.performer ?? 'its own'}) onto ${recipe.name}`,
          performed,
          comparison,
        ),
      }
    }),
  batchJob: (figure, take, settings, fileName, props = []) =>
    answer(async () => {
      const propFiles = []
      for (const p of props)
        for (const f of [p.file, ...p.beside]) propFiles.push({ key: f.hash, name: f.name, bytes: await source(f) })
      const [body, motion] = [await source(figure), await source(take.file)]
      const result = await carryJob({
        figure: { key: figure.hash, name: figure.name, bytes: body },
        take: { key: take.file.hash, name: take.file.name, bytes: motion },
        index: take.index,
        takeName: take.name,
        performer: take.performer,
        fileName,
        settings,
        ...toldOfTake(take),
        ...(props.length > 0 && { props: { list: props, keys: take.props }, propFiles }),
      })
      return result
    }, true),
  keepFigure: (rev, name, progress) =>
    job(name, progress, async work => {
      const recipe = recipeOf(rev)
      const content = await contentOf(derivation, recipe, [], work)
      const source = content.source && { ...content.source, takeFrom: [] }
      // what it carries is put into its hands take by take
      const bytes = await writeGlb({ ...content, takes: [], source, props: undefined })
      return keepFile(`${recipe.name}.glb`, bytes)
    }),
  trialGuest: (rev, guest, takes, name, progress) =>
    job(name, progress, work => guestOf(derivation, recipeOf(rev), guest, takes, work)),
  floorMesh: file =>
    answer(async () => {
      const { mesh } = await derivation.get('read', emptyRecipe(), { of: { file, beside: [] } })
      if (!mesh) throw new ChiraxisError('no-triangles', `${file.name} holds no surface to walk on.`)
      return mesh
    }),
  crowdFile: (rev, guest, takes, name, progress) =>
    job(name, progress, async work => crowdFile(derivation, recipeOf(rev), guest, takes, work)),
  lightIndex: (mesh, triangles) => answer(() => lightIndex(mesh, triangles), true),
  lightParts: (mesh, triangles) => answer(() => lightParts(mesh, triangles), true),
  keepRun: (rev, take) => answer(() => keepRun(derivation, recipeOf(rev), take, keepFile)),
  trialClips: (rev, takes, name, progress) =>
    job(name, progress, work => trialClips(derivation, recipeOf(rev), takes, work)),
  bake: (rev, take, name, progress) =>
    job(name, progress, work => bakeTake(derivation, recipeOf(rev), take, keepFile, work)),
  still: rev => answer(() => stillTake(derivation, recipeOf(rev), STILL_TAKE.seconds, keepFile)),
  listen: (file, name, progress) =>
    job(name, progress, async work => {
      const heard = await derivation.get('heard', emptyRecipe(), { of: file, ...work })
      const { readWav } = await import('@chiraxis/core/voice')
      return { heard, wave: waveOf(readWav(await source(file)).samples) }
    }),
  faceSolution: file => answer(() => derivation.get('solution', emptyRecipe(), { of: file })),
  bytesOf: file => answer(() => source(file)),
  section: (rev, point, direction) =>
    answer(async () => {
      const { mesh, weld } = await derivation.get('shape', recipeOf(rev))
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
  remedy: (rev, finding, takes) =>
    answer(async () => mendOne(finding, await contextIn(derivation, recipeOf(rev), { takes }))),
  deliver: (rev, takes, profile, insist, at, name, progress) =>
    job(name, progress, async work => {
      const recipe = recipeOf(rev)
      const deliverable = await deliverableOf(derivation, recipe, takes, partOf(work, 0, 0.7))
      return deliverTogether(deliverable, checkProfile(profile), { ...partOf(work, 0.7, 1), insist, at })
    }),
  pack: rev =>
    answer(async () => {
      return writeProject(recipeOf(rev), source)
    }, true),
  unpack: bytes =>
    answer(async () => {
      const { recipe, files } = await readProject(bytes)
      const names = new Map(filesOf(recipe).map(f => [f.hash, f.name]))
      for (const [hash, content] of files) await keepFile(names.get(hash) ?? hash, content)
      return recipe
    }),
  compact: project => answer(() => compact(db, project)),
  clearResults: () => answer(() => results.clear()),
  stop: name => {
    const running = jobs.get(name)
    if (running) running.signal.aborted = true
  },
}

Comlink.expose(api)
