import { Draft, imageOf, sweep, viewBytes, type GltfDocument, type GltfJson } from '../document'
import { shrinkImage, type ImageUse } from '../images'
import type { ImageFile } from '../mesh'
import type { Packing } from './settings'

const NOTHING = { nodes: new Set<number>(), skins: new Set<number>(), meshes: new Set<number>() }

/**
 * A document with smaller images, or without any.
 * @returns what could not be done, a sentence each, beside the document
 */
export async function withImages(
  document: GltfDocument,
  { images, largest }: Packing,
): Promise<{ readonly document: GltfDocument; readonly notes: readonly string[] }> {
  if (images === 'none') return { document: texturesGone(document), notes: [] }
  if (largest === undefined) return { document, notes: [] }
  const uses = usesOfImages(document.json)
  const draft = new Draft(document)
  const notes: string[] = []
  let changed = false
  for (const [i, image] of (draft.json.images ?? []).entries()) {
    const bytes = viewBytes(document, image.bufferView)
    if (!bytes) continue
    const mime = image.mimeType as ImageFile['mime']
    const name = image.name ?? `image ${i + 1}`
    const small = await shrinkImage({ name, mime, bytes }, largest, uses.get(i) ?? 'color')
    if (!small) notes.push(staysLarge(name))
    else if (small.bytes !== bytes) {
      image.bufferView = draft.view(small.bytes)
      image.mimeType = small.mime
      changed = true
    }
  }
  return { document: changed ? sweep(draft.done(), NOTHING) : document, notes }
}

/** Of an image that cannot be made smaller. */
export const staysLarge = (name: string): string =>
  `The image ${name} stays as large as it is: it cannot be decoded here.`

/** What each image stands for: by the places of materials it is used in, directions before light before amounts. */
function usesOfImages(json: GltfJson): Map<number, ImageUse> {
  const out = new Map<number, ImageUse>()
  const rank: readonly ImageUse[] = ['amount', 'color', 'normal']
  eachTexture(json.materials, (owner, key) => {
    const info = owner[key] as { index: number }
    const image = imageOf(json.textures?.[info.index])
    if (image === undefined) return
    const use: ImageUse = /normal/i.test(key)
      ? 'normal'
      : /(baseColor|emissive|diffuse|sheenColor|specularColor|shade|matcap|rim)/i.test(key)
        ? 'color'
        : 'amount'
    const known = out.get(image)
    if (!known || rank.indexOf(use) > rank.indexOf(known)) out.set(image, use)
  })
  return out
}

/** Everything in materials and their extensions that names a texture. */
function eachTexture(value: unknown, visit: (owner: Record<string, unknown>, key: string) => void): void {
  if (typeof value !== 'object' || value === null) return
  const owner = value as Record<string, unknown>
  for (const key of Object.keys(owner)) {
    const child = owner[key]
    const named = /Texture$/.test(key) && typeof (child as { index?: unknown } | null)?.index === 'number'
    if (named) visit(owner, key)
    else eachTexture(child, visit)
  }
}

/** A document whose materials show no images: colours and amounts of theirs stay. */
export function texturesGone(document: GltfDocument): GltfDocument {
  if (!document.json.images && !document.json.textures) return document
  const json = structuredClone(document.json)
  eachTexture(json.materials, (owner, key) => {
    delete owner[key]
  })
  for (const m of json.materials ?? []) {
    // images carried beside what the format has a place for
    const { maps: _, ...extras } = (m.extras ?? {}) as Record<string, unknown>
    if (m.extras && _ !== undefined) {
      if (Object.keys(extras).length > 0) m.extras = extras
      else delete m.extras
    }
    if (m.pbrMetallicRoughness && Object.keys(m.pbrMetallicRoughness).length === 0) delete m.pbrMetallicRoughness
  }
  delete json.images
  delete json.textures
  delete json.samplers
  const vrm = json.extensions?.VRMC_vrm as { meta?: { thumbnailImage?: number } } | undefined
  if (vrm?.meta) delete vrm.meta.thumbnailImage
  const older = json.extensions?.VRM as
    { meta?: { texture?: number }; materialProperties?: { textureProperties?: object }[] } | undefined
  if (older?.meta) delete older.meta.texture
  for (const m of older?.materialProperties ?? []) m.textureProperties = {}
  for (const list of ['extensionsUsed', 'extensionsRequired'] as const) {
    const left = json[list]?.filter(e => !/^(KHR|EXT)_texture_/.test(e))
    if (left && left.length > 0) json[list] = left
    else delete json[list]
  }
  return sweep({ json, buffers: document.buffers }, NOTHING)
}
