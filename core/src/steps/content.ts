import { ChiraxisError, partOf, type WorkOptions } from '../math'
import type { Contacts, Take } from '../motion'
import type { Material } from '../mesh'
import { jointIds, recogniseRoles } from '../skeleton'
import { sourceAsRead, type SourceFigure } from '../document'
import { propsToWrite, type GltfContent } from '../formats'
import { contactsTold, withTakes, type Deliverable } from '../delivery'
import { ownTakeIds, rootOf, type Recipe } from '../recipe'
import { carried, type LightFigure } from '../light'
import { leavesTravel } from '../root-motion'
import { tellsCues } from '../cues'
import type { Derivation } from './derivation'
import { propsOf } from './props-in-takes'
import { receivedRig } from './received-rig'
import type { ShapeResult } from './shape-result'
import type { Carrying, LightMaps, RigResult } from './types'

/**
 * Everything of a figure that a file can hold.
 * @param takes ids of carried takes to put in; takes of its own always go along
 */
export const contentOf = async (
  derivation: Derivation,
  recipe: Recipe,
  takes: readonly string[],
  work: WorkOptions = {},
): Promise<GltfContent> => (await contentWithContacts(derivation, recipe, takes, work)).content

/** The same, with when feet rest in every take; not told of takes that go along as they came. */
async function contentWithContacts(
  derivation: Derivation,
  recipe: Recipe,
  takes: readonly string[],
  work: WorkOptions,
): Promise<{ readonly content: GltfContent; readonly contacts: readonly (Contacts | undefined)[] }> {
  const skin = await derivation.get('skin', recipe, partOf(work, 0, 0.7))
  const shape = await derivation.get('shape', recipe, work)
  const { mesh, received } = shape
  const rig = await derivation.get('rig', recipe, work)
  const chosen = recipe.takes.filter(t => takes.includes(t.id))
  const performed: Take[] = []
  const courses: (Carrying['courses'] | undefined)[] = []
  const contacts: (Contacts | undefined)[] = []
  for (const [i, id] of ownTakeIds(rig.takes).entries()) {
    if (
      !recipe.ownLayers?.[id]?.length &&
      !recipe.ownContacts?.[id]?.length &&
      !recipe.props?.length &&
      leavesTravel(rootOf(recipe, id)) &&
      !asksCues(recipe, id)
    ) {
      // as it came
      performed.push(rig.takes[i])
      continue
    }
    const own = await derivation.get('take', recipe, { of: id, ...work })
    performed.push(own.take)
    courses[performed.length - 1] = own.courses
    contacts[performed.length - 1] = own.contacts
  }
  for (const [i, { id, name }] of chosen.entries()) {
    const part = partOf(work, 0.7 + (0.3 * i) / chosen.length, 0.7 + (0.3 * (i + 1)) / chosen.length)
    try {
      const made = await derivation.get('take', recipe, { of: id, ...part })
      performed.push({ ...made.take, name })
      courses[performed.length - 1] = made.courses
      contacts[performed.length - 1] = made.contacts
    } catch (error) {
      // which of many it is
      if (error instanceof ChiraxisError && error.code !== 'stopped')
        throw new ChiraxisError(error.code, `The take ${name} cannot go along. ${error.message}`, error.details)
      throw error
    }
  }
  const { shapes: correctives } = await derivation.get('correctives', recipe, work)
  const { shapes: made, binds } = await derivation.get('expressions', recipe, work)
  const shapes = [...correctives, ...made]
  const light = recipe.light?.deliver ? await derivation.get('lightFigure', recipe, work) : undefined
  const content: GltfContent = {
    name: recipe.name,
    mesh,
    materials: received.materials,
    images: received.images,
    normalMaps: recipe.normalMaps,
    ...(shapes.length > 0 && { shapes }),
    ...(Object.keys(binds).length > 0 && { expressions: binds }),
    skeleton: rig.skeleton,
    skin,
    takes: performed,
    ...(recipe.props?.length && { props: await writtenProps(derivation, recipe, rig, performed, courses, work) }),
    source: sourceOf(shape, rig, performed),
  }
  const maps = light && (await derivation.get('lightMaps', recipe, work))
  return { content: light ? onLightBody(content, light, maps) : content, contacts }
}

async function writtenProps(
  derivation: Derivation,
  recipe: Recipe,
  { skeleton }: Pick<RigResult, 'skeleton'>,
  takes: readonly Take[],
  courses: readonly (Carrying['courses'] | undefined)[],
  work: WorkOptions,
): Promise<GltfContent['props']> {
  const { joints } = recogniseRoles(skeleton)
  const get = (async (step: 'prop' | 'holding', of: string) =>
    derivation.get(step as 'prop', recipe, { of, ...work })) as unknown as Parameters<typeof propsOf>[0]['get']
  const on = await propsOf({ recipe, get }, skeleton, joints)
  const files = []
  for (const { prop } of on.list)
    files.push(await derivation.get('read', recipe, { of: { file: prop.file, beside: prop.beside }, ...work }))
  return propsToWrite(on, files, skeleton, joints, takes, courses)
}

/** A figure on its light body: shapes carried over, in a document of its own because every vertex is another. */
function onLightBody(
  { source: _, ...content }: GltfContent,
  { mesh, skin, lineage }: LightFigure,
  maps: LightMaps | undefined,
): GltfContent {
  const images = content.images ?? []
  return {
    ...content,
    mesh,
    skin,
    ...(maps && {
      materials: [...(content.materials ?? []), withImagesFrom(maps.material, images.length)],
      images: [...images, ...maps.images],
    }),
    ...(content.shapes && {
      shapes: content.shapes.map(shape => ({ ...shape, offsets: carried(lineage, shape.offsets, 3) })),
    }),
  }
}

/** A material whose images come after others. */
const withImagesFrom = (material: Material, first: number): Material => ({
  ...material,
  maps: Object.fromEntries(Object.entries(material.maps).map(([kind, at]) => [kind, at + first])),
})

/** Whether moments or curves are to go along with a take that came with the body. */
const asksCues = ({ cues, ownCues }: Recipe, id: string): boolean =>
  (cues?.find?.length ?? 0) > 0 || (cues?.curves?.length ?? 0) > 0 || tellsCues(ownCues?.[id])

/** The body alone, upright and whole, with the expressions made for it, as a file can hold it. */
export async function bodyContentOf(
  derivation: Derivation,
  recipe: Recipe,
  work: WorkOptions = {},
): Promise<GltfContent> {
  const shape = await derivation.get('shape', recipe, work)
  const { materials, images } = shape.received
  const { shapes, binds } = await derivation.get('expressions', recipe, work)
  return {
    name: recipe.name,
    ...(shapes.length > 0 && { shapes }),
    ...(Object.keys(binds).length > 0 && { expressions: binds }),
    mesh: shape.mesh,
    materials,
    images,
    normalMaps: recipe.normalMaps,
    source: sourceOf(shape),
  }
}

/** The document a figure came in, and how it came from there; none for formats that are not kept whole. */
export function sourceOf(
  shape: ShapeResult,
  rig?: Pick<RigResult, 'skeleton' | 'takes' | 'source'>,
  written: readonly Take[] = rig?.takes ?? [],
): SourceFigure | undefined {
  const { received, straightened, from, parts, mirror } = shape
  const read = sourceAsRead(received)
  if (!read) return undefined
  const kept = rig?.source === 'received'
  const base = kept ? receivedRig(shape).skeleton : undefined
  const place = new Map(base && jointIds(base).map((id, r) => [id, r]))
  const joints = rig ? jointIds(rig.skeleton).map(id => place.get(id) ?? -1) : []
  return {
    ...read,
    matrix: straightened.matrix,
    from,
    parts,
    mirror,
    joints,
    roles: base && joints.map(r => (r >= 0 ? base.roles[r] : undefined)),
    // what was changed by hand is written anew
    takeFrom: kept ? rig!.takes.map((take, i) => (written[i] === take ? i : -1)) : [],
  }
}

/**
 * A figure with the chosen takes alone, those that came with the body by choice too, and who performed each.
 * @param takes ids of takes, see `ownTakeIds` for those that came with the body
 */
export async function deliverableOf(
  derivation: Derivation,
  recipe: Recipe,
  takes: readonly string[],
  work: WorkOptions = {},
): Promise<Deliverable> {
  const { content, contacts } = await contentWithContacts(derivation, recipe, takes, work)
  const { takes: own } = await derivation.get('rig', recipe, work)
  const chosen = recipe.takes.filter(t => takes.includes(t.id))
  const kept = ownTakeIds(own).flatMap((id, i) => (takes.includes(id) ? [i] : []))
  const carried = chosen.map((_, i) => own.length + i)
  const all = [...kept, ...carried]
  return {
    content: withTakes(content, all),
    contacts: all.map(i => contacts[i] && contactsTold(contacts[i], content.takes![i].fps)),
    performers: [...kept.map(() => recipe.name), ...chosen.map(t => t.performer)],
  }
}
