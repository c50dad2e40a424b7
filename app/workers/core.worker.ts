import * as Comlink from 'comlink'
import { z } from 'zod'
import { findAll, mendOne, type FindingContext } from '@chiraxis/core/findings'
import { proveGlb, readFile, writeGlb } from '@chiraxis/core/formats'
import { landmarkSection } from '@chiraxis/core/landmarks'
import { ChiraxisError, type WorkOptions, partOf } from '@chiraxis/core/math'
import { componentsOf, adjacencyOf } from '@chiraxis/core/mesh'
import { takeSeconds } from '@chiraxis/core/motion'
import { createDerivation, hashBytes, readProject, writeProject, type FileRef, type Recipe } from '@chiraxis/core/recipe'
import type { Performed } from '@chiraxis/core/transfer'
import type { Answer, CoreApi } from './core-api'
import { db } from './db'

// the page forbids eval; schemas are read without it
z.config({ jitless: true })

async function source(file: FileRef): Promise<Uint8Array> {
  const stored = await db.files.get(file.hash)
  if (!stored) throw new ChiraxisError('missing-file', `The file ${file.name} is no longer kept by the browser; bring it in again.`)
  return stored.bytes
}

const derivation = createDerivation(source)
const jobs = new Map<string, { aborted: boolean }>()

/** Performed takes by id and what they were made from, for findings. */
const performedTakes = new Map<string, Performed>()

async function answer<T>(run: () => Promise<T>): Promise<Answer<T>> {
  try {
    return { ok: true, value: await run() }
  } catch (error) {
    if (error instanceof ChiraxisError) return { ok: false, refusal: { code: error.code, message: error.message } }
    const full = error instanceof DOMException && error.name === 'QuotaExceededError'
    return { ok: false, refusal: full
      ? { code: 'too-large', message: 'The browser has no room left to keep this file. Save the project to a file and clear old ones.' }
      : { code: 'bad-input', message: `The work failed: ${error instanceof Error ? error.message : String(error)}` } }
  }
}

/** Runs stoppable work under a name. */
async function job<T>(name: string, progress: (share: number) => void, run: (work: WorkOptions) => Promise<T>): Promise<Answer<T>> {
  const signal = { aborted: false }
  jobs.set(name, signal)
  try {
    return await answer(() => run({ signal, onProgress: progress }))
  } finally {
    if (jobs.get(name) === signal) jobs.delete(name)
  }
}

async function contextOf(recipe: Recipe): Promise<FindingContext> {
  const shape = await derivation.shape(recipe)
  const { placed } = await derivation.landmarks(recipe)
  const performed: Performed[] = []
  for (const take of recipe.takes) {
    const known = performedTakes.get(take.id)
    if (known) performed.push(known)
  }
  return {
    mesh: shape.mesh, straightened: shape.straightened, dropped: shape.received.dropped, landmarks: placed,
    edits: recipe.landmarks.edits, grounded: recipe.transfer.ground, performed,
  }
}

const api: CoreApi = {
  receive: (name, bytes) => answer(async () => {
    const received = await readFile(bytes, name)
    const file: FileRef = { name, hash: hashBytes(bytes), size: bytes.length }
    await db.files.put({ hash: file.hash, name, bytes })
    return {
      file, hasMesh: received.mesh !== undefined, hasSkeleton: received.skeleton !== undefined,
      takes: received.takes.map(t => ({ name: t.name, seconds: takeSeconds(t) })),
    }
  }),
  shape: (recipe, name, progress) => job(name, progress, async work => {
    const { mesh, straightened, received, weld } = await derivation.shape(recipe, work)
    const pieces = componentsOf(adjacencyOf(weld.first.length, Uint32Array.from(mesh.indices, v => weld.of[v]))).count
    return { mesh, straightened, format: received.format, dropped: received.dropped, pieces }
  }),
  landmarks: (recipe, name, progress) => job(name, progress, work => derivation.landmarks(recipe, work)),
  skeleton: recipe => answer(() => derivation.skeleton(recipe)),
  skin: (recipe, name, progress) => job(name, progress, work => derivation.skin(recipe, work)),
  take: (recipe, take, name, progress) => job(name, progress, async work => {
    const performed = await derivation.take(recipe, take, work)
    performedTakes.set(take.id, performed)
    const file = await derivation.performer(take)
    const performer = file.skeleton!
    const own = performed.travel
    return {
      take: performed.take, performer, performerTake: file.takes[take.index],
      performerFrame: performed.performerFrame,
      performerScale: own.scale, performerGround: own.performerStand * own.scale - own.figureStand,
      contacts: performed.contacts, measures: performed.measures, roleMap: performed.roleMap, restMatch: performed.restMatch, by: performed.performer.by,
    }
  }),
  section: (recipe, landmarks, id) => answer(async () => {
    const { mesh, weld } = await derivation.shape(recipe)
    const cut = landmarkSection(mesh, landmarks, id, weld)
    if (!cut) return undefined
    const { section } = cut
    return { outlines: section.outlines.map(o => ({ points: o.points, closed: o.closed })), chosen: section.chosen, u: section.u, v: section.v, centre: section.centre, off: cut.off }
  }),
  findings: recipe => answer(async () => findAll(await contextOf(recipe))),
  remedy: (recipe, finding) => answer(async () => mendOne(finding, await contextOf(recipe))),
  deliver: (recipe, takes, name, progress) => job(name, progress, async work => {
    const { mesh } = await derivation.shape(recipe, partOf(work, 0, 0.1))
    const skeleton = await derivation.skeleton(recipe, partOf(work, 0.1, 0.2))
    const skin = await derivation.skin(recipe, partOf(work, 0.2, 0.6))
    const chosen = recipe.takes.filter(t => takes.includes(t.id))
    const performed = []
    for (const [i, take] of chosen.entries()) {
      performed.push((await derivation.take(recipe, take, partOf(work, 0.6 + (0.25 * i) / chosen.length, 0.6 + (0.25 * (i + 1)) / chosen.length))).take)
    }
    const content = { name: recipe.name, mesh, skeleton, skin, takes: performed }
    const bytes = await writeGlb(content)
    progress(0.9)
    const proof = await proveGlb(bytes, content)
    return { bytes: Comlink.transfer(bytes, [bytes.buffer]), proof }
  }),
  pack: recipe => answer(async () => {
    const bytes = await writeProject(recipe, source)
    return Comlink.transfer(bytes, [bytes.buffer])
  }),
  unpack: bytes => answer(async () => {
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
