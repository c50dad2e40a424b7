import { packGlb, type GltfDocument, type GltfJson } from '../document'
import { decodeImage, imageSize } from '../images'
import { angleOf, quatAt } from '../math'
import type { ImageFile, Mesh } from '../mesh'
import type { Packing } from '../packing'
import { bindPose, worldPose } from '../skeleton'
import type { Skin } from '../skin'
import { openGltf, type GltfDecoders } from './gltf-open'
import { readGltf } from './gltf-read'
import { keptBack } from './kept-back'
import { validate } from './gltf-validate'
import type { BesideFiles, Received } from './received'
import { sizeOf } from './size-of'

/** What making a file smaller changed, held against the same file as it was before. */
export interface PackedProof {
  /** Largest shift of a vertex or joint along an axis, metres. */
  readonly maxPositionError: number
  readonly maxNormalErrorDegrees: number
  /** Largest difference of a place on an image, 0..1. */
  readonly maxUvError: number
  readonly maxWeightError: number
  /** Of joints, at rest, bound and in every frame. */
  readonly maxRotationErrorDegrees: number
  /** Bytes beside those it had before, images beside it counted in. */
  readonly share: number
}

/** What whole numbers may cost: of the body's size, degrees, of an image, of a weight. */
const MOST = { share: 1e-5, normal: 0.7, uv: 1 / 65535, weight: 1 / 255 + 1e-6, turned: 0.01 } as const

/**
 * Reads a file that was made smaller back and holds it against the one it was made from: every vertex, corner, weight and frame
 * in numbers, all else word for word.
 * @param exact the same before
 * @throws ChiraxisError `unproven` where more was lost than may be
 */
export async function provePacked(
  bytes: Uint8Array,
  beside: BesideFiles,
  exact: GltfDocument,
  packing: Packing,
): Promise<PackedProof> {
  const before = packGlb(exact)
  const report = await validate(bytes, beside)
  const fresh = report.issues.numErrors - (await validate(before)).issues.numErrors
  if (fresh > 0)
    throw keptBack(
      `it does not keep to its format: ${report.issues.messages.find(m => m.severity === 0)?.message.slice(0, 200)}`,
    )
  const decoders = ownDecoders()
  const { document, missing } = await openGltf(bytes, beside, decoders)
  if (missing.size > 0) throw keptBack(`it lost the image ${[...missing.values()][0]}`)
  compareWords(exact.json, document.json, packing)
  await compareImages(exact, document, packing)
  const a = await readGltf(before, undefined, undefined, { still: true })
  const b = await readGltf(bytes, beside, decoders, { still: true })
  const proof = { position: 0, normal: 0, uv: 0, weight: 0, turned: 0 }
  const size = a.mesh ? sizeOf(a.mesh.positions) : 1
  compareMeshes(a.mesh, b.mesh, proof)
  compareNormals(a, b, proof)
  compareSkins(a.skin, b.skin, proof)
  compareMotion(a, b, proof)
  const wrong =
    proof.position > MOST.share * size
      ? `something lies ${proof.position.toPrecision(2)} m from where it lay`
      : proof.normal > MOST.normal
        ? `a normal is turned ${proof.normal.toPrecision(2)} degrees`
        : proof.uv > MOST.uv
          ? `a place on an image is ${proof.uv.toPrecision(2)} off`
          : proof.weight > MOST.weight
            ? `a weight is ${proof.weight.toPrecision(2)} off`
            : proof.turned > MOST.turned
              ? `a joint is turned ${proof.turned.toPrecision(2)} degrees`
              : undefined
  if (wrong) throw keptBack(`made smaller, ${wrong}`)
  const all = [...beside.values()].reduce((n, f) => n + f.length, bytes.length)
  return {
    maxPositionError: proof.position,
    maxNormalErrorDegrees: proof.normal,
    maxUvError: proof.uv,
    maxWeightError: proof.weight,
    maxRotationErrorDegrees: proof.turned,
    share: all / before.length,
  }
}

/** The decoder of the format's own library: not what wrote the file. */
const ownDecoders = (): Partial<GltfDecoders> => ({
  meshopt: async () => {
    const { MeshoptDecoder } = await import('meshoptimizer/decoder')
    await MeshoptDecoder.ready
    return MeshoptDecoder
  },
})

interface Errors {
  position: number
  normal: number
  uv: number
  weight: number
  turned: number
}

function compareMeshes(a: Mesh | undefined, b: Mesh | undefined, errors: Errors): void {
  if (!a && !b) return
  if (!a || !b || a.positions.length !== b.positions.length || a.indices.length !== b.indices.length)
    throw keptBack('made smaller, it lost vertices or triangles')
  // a triangle may begin at another corner
  for (let i = 0; i < a.indices.length; i += 3) {
    const at = [0, 1, 2].findIndex(k => b.indices[i + k] === a.indices[i])
    if (
      at < 0 ||
      a.indices[i + 1] !== b.indices[i + ((at + 1) % 3)] ||
      a.indices[i + 2] !== b.indices[i + ((at + 2) % 3)]
    )
      // prettier-ignore
      throw keptBack(`made smaller, triangle ${i / 3} has other corners`)
  }
  errors.position = Math.max(errors.position, largest(a.positions, b.positions))
  if (a.uvs) errors.uv = Math.max(errors.uv, largest(a.uvs, b.uvs))
  a.morphs?.forEach((m, i) => {
    const other = b.morphs?.[i]
    if (!other || other.name !== m.name) throw keptBack(`made smaller, it lost the shape ${m.name}`)
    errors.position = Math.max(errors.position, largest(m.offsets, other.offsets))
  })
  if (a.colors && !(largest(a.colors, b.colors) <= 1 / 255)) throw keptBack('made smaller, its colours differ')
}

/** Normals the file tells; those worked out from triangles hang on which corner comes first. */
function compareNormals({ mesh, way, document }: Received, other: Received, errors: Errors): void {
  const [m, n] = [mesh?.normals, other.mesh?.normals]
  if (!m) return
  if (!n) throw keptBack('made smaller, it lost its normals')
  for (const run of way?.runs ?? []) {
    const told = document!.json.meshes![run.mesh].primitives
    if (!run.primitives.every(p => told[p.index].attributes.NORMAL !== undefined)) continue
    for (let v = 3 * run.start; v < 3 * (run.start + run.count); v += 3) {
      const [s, t] = [Math.hypot(m[v], m[v + 1], m[v + 2]), Math.hypot(n[v], n[v + 1], n[v + 2])]
      if (!(s > 0.5 && t > 0.5)) continue
      let off = 0
      for (let k = 0; k < 3; k++) off += (m[v + k] / s - n[v + k] / t) ** 2
      errors.normal = Math.max(errors.normal, (2 * Math.asin(Math.min(1, Math.sqrt(off) / 2)) * 180) / Math.PI)
    }
  }
}

function largest(a: ArrayLike<number>, b: ArrayLike<number> | undefined): number {
  if (!b || b.length !== a.length) return Infinity
  let most = 0
  for (let i = 0; i < a.length; i++) most = Math.max(most, Math.abs(a[i] - b[i]))
  return most
}

function compareSkins(a: Skin | undefined, b: Skin | undefined, errors: Errors): void {
  if (!a) return
  if (!b || a.weights.length / a.influences !== b.weights.length / b.influences)
    throw keptBack('made smaller, it lost its skin')
  const row = new Map<number, number>()
  for (let v = 0; v < a.weights.length / a.influences; v++) {
    row.clear()
    for (const [skin, sign] of [
      [a, 1],
      [b, -1],
    ] as const)
      // prettier-ignore
      for (let i = v * skin.influences; i < (v + 1) * skin.influences; i++)
        row.set(skin.joints[i], (row.get(skin.joints[i]) ?? 0) + sign * skin.weights[i])
    for (const d of row.values()) errors.weight = Math.max(errors.weight, Math.abs(d))
  }
}

function compareMotion(a: Received, b: Received, errors: Errors): void {
  if (!a.skeleton) return
  if (!b.skeleton || a.skeleton.names.join('\n') !== b.skeleton.names.join('\n'))
    throw keptBack('made smaller, its joints are others')
  const poses = [
    [worldPose(a.skeleton), worldPose(b.skeleton)],
    [bindPose(a.skeleton), bindPose(b.skeleton)],
  ] as const
  const turned = (p: ArrayLike<number>, q: ArrayLike<number>): void => {
    for (let i = 0; i < p.length / 4; i++)
      errors.turned = Math.max(errors.turned, (angleOf(quatAt(p, i), quatAt(q, i)) * 180) / Math.PI)
  }
  for (const [p, q] of poses) {
    errors.position = Math.max(errors.position, largest(p.positions, q.positions))
    turned(p.rotations, q.rotations)
  }
  a.takes.forEach((take, i) => {
    const other = b.takes[i]
    if (!other || other.name !== take.name || other.frames !== take.frames)
      throw keptBack(`made smaller, it lost frames of the take ${take.name}`)
    turned(take.rotations, other.rotations)
    errors.position = Math.max(errors.position, largest(take.translations, other.translations))
  })
}

/** What is told in words and may not differ, by its name. */
function told(json: GltfJson, { images }: Packing): Record<string, unknown> {
  const plain = images === 'none' ? withoutTextures : (m: unknown) => m
  return {
    'origin of the file': json.asset,
    extras: json.extras,
    scenes: [json.scene, json.scenes],
    nodes: json.nodes,
    cameras: json.cameras,
    materials: json.materials?.map(plain),
    textures: images === 'none' ? undefined : json.textures,
    skins: json.skins?.map(({ inverseBindMatrices: _, ...s }) => s),
    meshes: json.meshes?.map(({ primitives, ...m }) => ({
      ...m,
      primitives: primitives.map(({ attributes, indices, targets, ...p }) => ({
        ...p,
        attributes: Object.keys(attributes),
        indexed: indices !== undefined,
        targets: targets?.map(t => Object.keys(t)),
      })),
    })),
    takes: json.animations?.map(({ samplers, channels, ...a }) => ({
      ...a,
      channels: channels.map(({ sampler, ...c }) => ({
        ...c,
        interpolation: samplers[sampler].interpolation,
        keys: json.accessors?.[samplers[sampler].input].count,
      })),
    })),
  }
}

function compareWords(a: GltfJson, b: GltfJson, packing: Packing): void {
  const [p, q] = [told(a, packing), told(b, packing)]
  for (const key of Object.keys(p))
    if (canonical(p[key]) !== canonical(q[key])) throw keptBack(`made smaller, its ${key} differ`)
}

/** The same text for what is told alike, in whatever order. */
const canonical = (value: unknown): string =>
  JSON.stringify(value, (_, v: unknown) =>
    typeof v === 'object' && v !== null && !Array.isArray(v)
      ? Object.fromEntries(Object.entries(v).sort(([x], [y]) => (x < y ? -1 : 1)))
      : v,
  ) ?? ''

/** A material without what names an image. */
function withoutTextures(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withoutTextures)
  if (typeof value !== 'object' || value === null) return value
  const left = Object.entries(value)
    .filter(([key, v]) => !key.endsWith('Texture') && key !== 'maps' && v !== undefined)
    .map(([key, v]) => [key, withoutTextures(v)] as const)
    // an owner of images alone goes with them
    .filter(([, v]) => !(typeof v === 'object' && v !== null && Object.keys(v).length === 0))
  return Object.fromEntries(left)
}

async function compareImages(a: GltfDocument, b: GltfDocument, { images, largest: most }: Packing): Promise<void> {
  if (images === 'none') {
    if (b.json.images || b.json.textures) throw keptBack('images that were to be left out are still there')
    return
  }
  for (const [i, image] of (a.json.images ?? []).entries()) {
    const other = b.json.images?.[i]
    const [was, now] = [fileOf(a, i), fileOf(b, i)]
    if (!other || other.name !== image.name || !was !== !now) throw keptBack(`it lost the image ${image.name ?? i + 1}`)
    if (!was || !now || sameBytes(was.bytes, now.bytes)) continue
    const size = imageSize(now)
    const read = await decodeImage(now)
    if (!size || !read || Math.max(size.width, size.height) > (most ?? 0))
      throw keptBack(`the image ${image.name ?? i + 1} was not made as small as was asked`)
  }
}

function fileOf({ json, buffers }: GltfDocument, i: number): ImageFile | undefined {
  const image = json.images?.[i]
  const view = image?.bufferView === undefined ? undefined : json.bufferViews?.[image.bufferView]
  if (!view) return undefined
  const from = view.byteOffset ?? 0
  const bytes = buffers[view.buffer].subarray(from, from + view.byteLength)
  return { name: image!.name ?? '', mime: image!.mimeType as ImageFile['mime'], bytes }
}

const sameBytes = (a: Uint8Array, b: Uint8Array): boolean => a.length === b.length && a.every((v, i) => v === b[i])
