import { timeMapOf } from '../adjust'
import { writeGlb } from '../formats'
import { ChiraxisError, type WorkOptions } from '../math'
import type { Take } from '../motion'
import { mirroredCarry, type PropKey } from '../props'
import { leavesTravel } from '../root-motion'
import { ownTakeAt, rootOf, shortName, type FileRef, type Recipe, type TakeRef } from '../recipe'
import { atBind, type Skeleton } from '../skeleton'
import type { Derivation } from './derivation'

/** Seconds and rate of a take that is made from nothing. */
export const STILL_TAKE = { seconds: 4, fps: 30, longest: 600 } as const

/** A take on the figure's own skeleton as a file: what was corrected and changed by hand is in its frames. */
export const ownTakeFile = (name: string, skeleton: Skeleton, take: Take): Promise<Uint8Array<ArrayBuffer>> =>
  writeGlb({ name, skeleton: atBind(skeleton), takes: [take] })

/** A take as it is shown, layers and all, as a file and as a record of its own; the take it came from stays. */
export async function bakeTake(
  derivation: Derivation,
  recipe: Recipe,
  id: string,
  put: (name: string, bytes: Uint8Array<ArrayBuffer>) => FileRef | Promise<FileRef>,
  work: WorkOptions = {},
): Promise<TakeRef> {
  const performed = await derivation.get('take', recipe, { of: id, ...work })
  const ref = recipe.takes.find(t => t.id === id)
  const name = shortName(`${ref?.name ?? performed.take.name}, baked`)
  const take = { ...performed.take, name }
  const file = await put(`${name}.glb`, await ownTakeFile(recipe.name, performed.figureSkeleton, take))
  const keys = ref ? await keysOnResult(derivation, recipe, ref) : (recipe.ownProps?.[id] ?? [])
  return {
    ...made(recipe, name, file),
    ...(ref?.kind && { kind: ref.kind }),
    ...(ref?.tags && { tags: ref.tags }),
    // it travels already as it is to
    ...(!leavesTravel(rootOf(recipe, id)) && { root: {} }),
    ...(recipe.props?.length && { props: asBaked(recipe, keys) }),
  }
}

/** What carries props in a take whose hands hold them already. */
function asBaked(recipe: Recipe, keys: readonly PropKey[]): PropKey[] {
  const first = (recipe.props ?? [])
    .filter(p => !keys.some(k => k.prop === p.id && k.at <= 0))
    .map((p): PropKey => ({ ...p.carry, prop: p.id, at: 0 }))
  return [...first, ...keys].map(k => ({ ...k, open: true, loose: true }))
}

/** Keys of props told in seconds and sides of the result. */
async function keysOnResult(derivation: Derivation, recipe: Recipe, ref: TakeRef): Promise<readonly PropKey[]> {
  if (!ref.props?.length) return []
  const { clock } = await derivation.get('performance', recipe, { of: ref.id })
  const { toResult, seconds } = timeMapOf(clock.adjust, clock.recording)
  const last = new Map<string, PropKey>()
  const out: PropKey[] = []
  for (const key of [...ref.props].sort((a, b) => a.at - b.at)) {
    const at = toResult(key.at)
    const own = clock.adjust?.mirror ? mirroredCarry(key) : key
    if (at > seconds) continue
    // of what was told before the beginning the last counts from there on
    if (at <= 0) last.set(key.prop, { ...own, at: 0 })
    else out.push({ ...own, at })
  }
  return [...last.values(), ...out]
}

/** What a figure did while it was led, as a record of its own. */
export async function keepRun(
  derivation: Derivation,
  recipe: Recipe,
  take: Take,
  put: (name: string, bytes: Uint8Array<ArrayBuffer>) => FileRef | Promise<FileRef>,
  work: WorkOptions = {},
): Promise<TakeRef> {
  const { skeleton } = await derivation.get('rig', recipe, work)
  if (take.rotations.length !== 4 * skeleton.names.length * take.frames)
    throw new ChiraxisError('bad-settings', 'The skeleton was changed since this was recorded, so it is not kept.')
  const name = shortName(take.name)
  const file = await put(`${name}.glb`, await ownTakeFile(recipe.name, skeleton, { ...take, name }))
  // it goes where it went
  return { ...made(recipe, name, file), root: {} }
}

/** A take in which the figure stands as it was bound, for layers to move. */
export async function stillTake(
  derivation: Derivation,
  recipe: Recipe,
  seconds: number,
  put: (name: string, bytes: Uint8Array<ArrayBuffer>) => FileRef | Promise<FileRef>,
  work: WorkOptions = {},
): Promise<TakeRef> {
  if (!(seconds > 0 && seconds <= STILL_TAKE.longest))
    throw new ChiraxisError('bad-settings', `A take lasts up to ${STILL_TAKE.longest} seconds.`)
  const { skeleton } = await derivation.get('rig', recipe, work)
  const { restRotations, restTranslations } = atBind(skeleton)
  const frames = Math.round(seconds * STILL_TAKE.fps) + 1
  const rotations = new Float32Array(restRotations.length * frames)
  const translations = new Float32Array(restTranslations.length * frames)
  for (let f = 0; f < frames; f++) {
    rotations.set(restRotations, restRotations.length * f)
    translations.set(restTranslations, restTranslations.length * f)
  }
  const name = 'from rest'
  const take = { name, fps: STILL_TAKE.fps, frames, rotations, translations }
  return made(recipe, name, await put(`${name}.glb`, await ownTakeFile(recipe.name, skeleton, take)))
}

/** A record for a file of the figure's own, told apart from those that are there. */
function made(recipe: Recipe, wish: string, file: FileRef): TakeRef {
  const ids = new Set(recipe.takes.map(t => t.id))
  const names = new Set(recipe.takes.filter(t => t.performer === recipe.name).map(t => t.name))
  const stem = `own-${file.hash.slice(0, 12)}`
  let id = stem,
    name = wish
  for (let i = 2; ids.has(id); i++) id = `${stem}-${i}`
  for (let i = 2; names.has(name); i++) name = `${wish} ${i}`
  return { id, name, performer: recipe.name, file, index: 0 }
}

/** The id of a take by its name or id. @throws ChiraxisError `no-take` */
export function takeNamed(recipe: Recipe, name: string): string {
  const ref = recipe.takes.find(t => t.name === name || t.id === name)
  if (ref) return ref.id
  if (ownTakeAt(name)) return name
  throw new ChiraxisError('no-take', `The project has no take ${name}.`)
}
