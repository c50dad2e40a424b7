import { deliver, FORMATS, stemOf, type Delivered, type GltfContent } from '../formats'
import { staysLarge } from '../packing'
import { breather, ChiraxisError, type WorkOptions } from '../math'
import { resampleTake, type Take } from '../motion'
import { bodyFrame } from '../retarget'
import { rootJoint, rootTake } from '../root-motion'
import { namesByScheme, recogniseRoles, worldPose, type Skeleton } from '../skeleton'
import { shrinkImage, type ImageUse } from '../images'
import { armsAt, restAsBound, setRestPose } from '../rig'
import { deform, limitInfluences } from '../skin'
import type { ManifestContact } from './manifest'
import { nameJobs } from './names'
import { axesOf, packingOf, type Profile } from './profile'

/** A figure with what a profile may name files by. */
export interface Deliverable {
  readonly content: GltfContent
  /** Who performed each take, in the order of takes. */
  readonly performers?: readonly string[]
  /** When feet rest, in the order of takes. */
  readonly contacts?: readonly (readonly ManifestContact[] | undefined)[]
}

export interface DeliveryWork extends WorkOptions {
  /** Hand over files whose proof fails as well, told as unproven. */
  readonly insist?: boolean
  /** Seconds into the first take a surface alone stands as it does then; left out, at rest. */
  readonly at?: number
}

/** One file that was written and proven. */
export interface DeliveredFile extends Delivered {
  readonly name: string
  /** Names of the takes in it. */
  readonly takes: readonly string[]
  readonly notes: readonly string[]
}

/**
 * Writes a figure as a profile wants it: what goes along, at which rate, under which names, in one file or one for each take. Every
 * file is proven before it is handed over.
 * @param each told of every file as soon as it is there; where it is told, files are not kept as well
 * @throws ChiraxisError `bad-settings` where the format cannot hold it, `unproven` where a file does not hold what it should
 */
export async function deliverAs(
  { content, performers = [] }: Deliverable,
  profile: Profile,
  { each, insist, at, ...work }: DeliveryWork & { readonly each?: (file: DeliveredFile) => void | Promise<void> } = {},
): Promise<DeliveredFile[]> {
  const pulse = breather(work)
  const { format } = profile
  const { content: own, notes: left } = await withSmallImages(prepared(content, profile), profile)
  const takes = own.takes ?? []
  const split = FORMATS[format].takes === 'one' || (profile.split === 'each' && takes.length > 0)
  const groups: readonly (readonly number[])[] = split ? takes.map((_, i) => [i]) : [takes.map((_, i) => i)]
  if (groups.length === 0)
    throw new ChiraxisError('bad-settings', `This profile writes a file for each take, and there is none.`)
  const { names } = nameJobs(
    profile.file,
    groups.map(group => ({
      figure: own.name,
      take: group.length === 1 ? takes[group[0]].name : 'takes',
      performer: group.length === 1 ? (performers[group[0]] ?? own.name) : own.name,
      fps: group.length > 0 ? String(takes[group[0]].fps) : '0',
    })),
    'number',
    `.${format}`,
  )
  const out: DeliveredFile[] = []
  for (const [i, group] of groups.entries()) {
    await pulse(i / groups.length)
    const name = names[i]!
    const stem = stemOf(name.replace(/\.[^.]*$/, ''))
    const { part, frame } =
      format === 'obj' ? standing(own, content.takes, at) : { part: withTakes(own, group), frame: undefined }
    const made = await deliver(part, format, {
      axes: axesOf(profile),
      order: profile.order,
      meta: profile.meta,
      packing: packingOf(profile),
      stem,
      insist,
      frame,
    })
    const file: DeliveredFile = {
      ...made,
      name,
      takes: group.map(t => takes[t].name),
      notes: [...notesOf(profile, content), ...left, ...(made.notes ?? [])],
    }
    if (each) await each(file)
    else out.push(file)
  }
  return out
}

/** New names by a table of roles, or of names as they are. */
function byTable(
  skeleton: Skeleton,
  table: Readonly<Record<string, string>>,
): { readonly changes: readonly { readonly joint: number; readonly to: string }[]; readonly clash?: string } {
  const next = skeleton.names.map((name, j) => table[skeleton.roles[j] ?? ''] ?? table[name] ?? name)
  const twice = next.find((name, j) => next.indexOf(name) !== j)
  return {
    changes: next.map((to, joint) => ({ joint, to })),
    ...(twice !== undefined && { clash: `${twice} would be the name of two.` }),
  }
}

/** A take with its travel on the root joint or on the hips; every other joint stays where it is. */
function travelling(take: Take, skeleton: Skeleton | undefined, { root }: Profile): Take {
  if (!root || !skeleton) return take
  const { joints } = recogniseRoles(skeleton)
  if (joints.hips === undefined || rootJoint(skeleton, joints) === undefined) return take
  const played = { skeleton, joints, take, frame: bodyFrame(skeleton, joints) }
  const asked = { across: root, ahead: root, turn: root, ...(root === 'hips' && { height: root }) }
  return rootTake(played, asked, { soles: {}, contacts: {} }).take
}

/** What of a figure goes along, as the profile wants it. */
export function prepared(content: GltfContent, profile: Profile): GltfContent {
  const holds: readonly string[] = FORMATS[profile.format].holds
  const body = profile.content !== 'motion' && holds.includes('body')
  const motion = profile.content !== 'body' && holds.includes('motion')
  const { skeleton, skin, mesh, takes = [], source } = content
  const named = skeleton && renamed(reposed(skeleton, profile), profile)
  const timed = motion ? takes.map(t => atRate(travelling(t, skeleton, profile), profile.fps)) : []
  const takeFrom = source && timed.map((t, i) => (t === takes[i] ? (source.takeFrom[i] ?? -1) : -1))
  const thinning = profile.thin && {
    degrees: profile.thin.degrees,
    metres: profile.thin.millimetres / 1000,
    ...(profile.thin.curved && { curved: true }),
  }
  if (!body) return { name: content.name, skeleton: named, takes: timed, ...(thinning && { thinning }) }
  const limited =
    skin && profile.influences !== undefined && profile.influences < skin.influences
      ? limitInfluences(skin, profile.influences)
      : skin
  const shaped = mesh?.morphs && dropsShapes(profile, content) ? { ...mesh, morphs: undefined } : mesh
  return {
    ...content,
    mesh: shaped,
    skeleton: named,
    skin: limited,
    takes: timed,
    ...(thinning && { thinning }),
    ...(!profile.morphs && { shapes: undefined }),
    ...(source && { source: { ...source, takeFrom: takeFrom! } }),
  }
}

/** Whether shapes can be left out: a document that is kept whole keeps them. */
const dropsShapes = ({ morphs, format }: Profile, { source }: GltfContent): boolean =>
  !morphs && !(source && FORMATS[format].document)

const atRate = (take: Take, fps: number | undefined): Take =>
  fps === undefined || Math.abs(take.fps - fps) < 1e-6 ? take : resampleTake(take, fps)

/**
 * A skeleton that rests as the profile wants it; skin and takes look as before.
 * @throws ChiraxisError `no-roles` where it has no arms to be turned
 */
function reposed(skeleton: Skeleton, { rest }: Profile): Skeleton {
  if (rest === undefined) return skeleton
  const rig = { skeleton, takes: [] }
  return (rest === 'bound' ? restAsBound(rig) : setRestPose(rig, armsAt(skeleton, rest.armsDown))).skeleton
}

/** A surface alone as its figure stands at a moment of its first take, or at rest. */
function standing(own: GltfContent, takes: readonly Take[] = [], at?: number): { part: GltfContent; frame?: number } {
  const [take] = takes
  if (at !== undefined && take) return { part: { ...own, takes: [take] }, frame: Math.round(at * take.fps) }
  const { mesh, skeleton, skin } = own
  if (!mesh || !skin || !skeleton?.bind) return { part: own }
  // normals are told anew by the surface as it is then
  const positions = deform(mesh.positions, skeleton, skin, worldPose(skeleton))
  return { part: { ...own, mesh: { ...mesh, positions, normals: undefined } } }
}

/** Images of formats that list them apart, no larger than asked, or none; what a document holds is made smaller when it is written. */
async function withSmallImages(
  content: GltfContent,
  profile: Profile,
): Promise<{ readonly content: GltfContent; readonly notes: readonly string[] }> {
  const { materials = [], images = [] } = content
  if (FORMATS[profile.format].document || images.length === 0) return { content, notes: [] }
  const { images: place, largest } = packingOf(profile)
  if (place === 'none') return { content: { ...content, images: [], materials: materials.map(m => ({ ...m, maps: {} })) }, notes: [] } // prettier-ignore
  if (largest === undefined) return { content, notes: [] }
  const notes: string[] = []
  const out = []
  for (const [i, image] of images.entries()) {
    const kinds = materials.flatMap(m => Object.entries(m.maps).flatMap(([kind, at]) => (at === i ? [kind] : [])))
    const use: ImageUse = kinds.includes('normal') ? 'normal' : kinds.some(k => k === 'color' || k === 'emission') ? 'color' : 'amount' // prettier-ignore
    const small = await shrinkImage(image, largest, use)
    if (!small) notes.push(staysLarge(image.name))
    out.push(small ?? image)
  }
  return { content: { ...content, images: out }, notes }
}

/** @throws ChiraxisError `bad-settings` where two joints would be called alike */
function renamed(skeleton: Skeleton, { names }: Profile): Skeleton {
  if (!names) return skeleton
  const { changes, clash } = 'table' in names ? byTable(skeleton, names.table) : namesByScheme(skeleton, names)
  if (clash) throw new ChiraxisError('bad-settings', `Joints cannot be named so: ${clash}`)
  const next = [...skeleton.names]
  for (const { joint, to } of changes) next[joint] = to
  return { ...skeleton, names: next }
}

/** A figure with some of its takes alone, told by their place, in the order that is told. */
export function withTakes(content: GltfContent, group: readonly number[]): GltfContent {
  const { takes = [], source, props } = content
  if (group.length === takes.length && group.every((at, i) => at === i)) return content
  return {
    ...content,
    takes: group.map(i => takes[i]),
    ...(source && { source: { ...source, takeFrom: group.map(i => source.takeFrom[i] ?? -1) } }),
    ...(props && {
      props: props.map(p => ({ ...p, ...(p.courses && { courses: group.map(i => p.courses![i]) }) })),
    }),
  }
}

/** What a format could not take along, in words. */
function notesOf(profile: Profile, content: GltfContent): string[] {
  const { format, up, ahead, unit, content: what } = profile
  const notes: string[] = []
  if (!FORMATS[format].axes && (up !== '+y' || ahead !== '+z' || unit !== 'm'))
    notes.push(`A ${format.toUpperCase()} stands with Y up, facing +Z, in metres, whatever a profile says.`)
  const whole = what !== 'motion'
  if (profile.hand === 'left' && !FORMATS[format].leftHanded)
    notes.push(`A ${format.toUpperCase()} is right-handed, whatever a profile says.`)
  const { packs }: { packs: readonly string[] } = FORMATS[format]
  if (profile.numbers !== 'plain' && !packs.includes(profile.numbers))
    notes.push('Numbers are written as they are: this format has no such packing.')
  if (format === 'usda' && whole && content.shapes?.length)
    notes.push('Shapes that turning joints bring on are left out of USD text.')
  if ((format === 'usda' || format === 'obj') && whole && content.props?.length) notes.push('Props are left out.')
  if (!profile.morphs && content.mesh?.morphs?.length && whole && !dropsShapes(profile, content))
    notes.push('Shapes that came with the file stay: it is kept whole.')
  if (format === 'vrm' && !content.source?.document.json.extensions?.VRMC_vrm)
    notes.push('A VRM is made without spring bones.')
  if (profile.root === 'root' && what !== 'body' && content.skeleton) {
    const { joints } = recogniseRoles(content.skeleton)
    if (rootJoint(content.skeleton, joints) === undefined)
      notes.push('No joint carries the hips, so travel stays on them. Add a root joint in Motion, ground.')
  }
  const told = (content.takes ?? []).some(t => t.events?.length || t.scalars?.length)
  if (told && what !== 'body' && (format === 'bvh' || format === 'vrma' || format === 'usda'))
    notes.push('Moments and curves have no place in this format; they stand in the manifest.')
  return notes
}
