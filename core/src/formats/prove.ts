import { counted } from '../words'
import { compareDocuments, packGlb } from '../document'
import { angleOf, ChiraxisError, maxOf, quatAt } from '../math'
import type { Mesh } from '../mesh'
import { bindPose, worldPose, type Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import { openGltf } from './gltf-open'
import { readGltf } from './gltf-read'
import { validate, type ValidatorReport } from './gltf-validate'
import type { GltfContent } from './gltf-write'
import { keptBack } from './kept-back'
import { proveMoments } from './prove-moments'
import type { PackedProof } from './prove-packed'
import { proveProps, withoutMounts } from './prove-props'
import { proveShapes } from './prove-shapes'
import type { Received } from './received'
import { sizeOf } from './size-of'
import { twinParts } from './twin-parts'

/** What reading a written file back showed. */
export interface Proof {
  readonly validatorErrors: number
  readonly validatorWarnings: number
  readonly messages: readonly string[]
  /** Errors of the validator that the file the figure came in has too, and nobody asked to mend. */
  readonly inherited?: readonly string[]
  /** Largest distance between written and read vertices and joints, metres, and as a share of the body's size. */
  readonly maxPositionError: number
  readonly maxPositionErrorShare: number
  /** Largest angle between written and read joints, at rest and in every frame, degrees. */
  readonly maxRotationErrorDegrees: number
  /** The same in the frames of takes alone, where keys were left out on purpose. */
  readonly thinned?: { readonly maxPositionError: number; readonly maxRotationErrorDegrees: number }
  /** Largest difference of a weight. */
  readonly maxWeightError: number
  /** Whether everything else is as it was in the file the figure came in; left out where it came in none that is kept whole. */
  readonly sameAsSource?: boolean
  /** What making it smaller cost; left out where that was not asked for. */
  readonly packed?: PackedProof
  readonly bytes: number
}

/** Farther than this share of the body's size nothing may be from where it was to be written. */
const FARTHEST = 1e-5
/** More than this no joint may be turned, degrees. */
const MOST_TURNED = 0.01
const MOST_WEIGHT = 1e-3

/**
 * Reads a written GLB back, runs the format's validator over it, and compares it with what was meant and with the file it
 * came from.
 * @throws ChiraxisError `unproven` where the file does not hold what it should
 */
export async function proveGlb(bytes: Uint8Array, content: GltfContent): Promise<Proof> {
  const { report, inherited } = await validated(bytes, content)
  const read = await readGltf(await withoutProps(bytes, content), undefined, undefined, { still: true })
  const size = content.mesh ? sizeOf(content.mesh.positions) : 1
  const errors = { position: 0, rotation: 0, weight: 0 }
  // keys that were left out are held against what they were allowed to stray
  const { thinning } = content
  const strayed = thinning ? { position: 0, rotation: 0, weight: 0 } : errors
  const pairs = content.skeleton ? jointPairs(content.skeleton, read.skeleton) : []
  if (content.mesh)
    compareMesh(content.mesh, read.mesh, content.skin && { skin: content.skin, other: read.skin, pairs }, errors)
  if (content.skeleton) compareSkeleton(content, read, pairs, errors, strayed)
  if (content.shapes?.length || content.mesh?.morphs?.length) proveShapes(content, read)
  const worst = errors.position / size
  const turned = (errors.rotation * 180) / Math.PI
  const source = content.source
  const differences =
    source && read.document
      ? compareDocuments(
          source,
          read.document,
          content.normalMaps ?? [],
          content.shapes?.map(s => s.name),
        )
      : []
  const wrong =
    worst > FARTHEST
      ? `something lies ${(100 * worst).toPrecision(2)} % of the body's size from where it should`
      : turned > MOST_TURNED
        ? `a joint is turned ${turned.toPrecision(2)} degrees from how it should be`
        : errors.weight > MOST_WEIGHT
          ? `a weight is ${errors.weight.toPrecision(2)} off`
          : thinning &&
              (strayed.position > thinning.metres + FARTHEST ||
                (strayed.rotation * 180) / Math.PI > thinning.degrees + MOST_TURNED)
            ? `keys that were left out stray farther than was allowed`
            : differences.length > 0
              ? `it differs from the file it came from where nothing was asked for: ${differences.slice(0, 3).join('; ')}`
              : undefined
  if (wrong) throw keptBack(wrong, { differences })
  return {
    validatorErrors: report.issues.numErrors,
    validatorWarnings: report.issues.numWarnings,
    ...(inherited.length > 0 && { inherited }),
    messages: report.issues.messages.filter(m => m.severity <= 1).map(m => `${m.code}: ${m.message}`),
    maxPositionError: errors.position,
    maxPositionErrorShare: worst,
    maxRotationErrorDegrees: turned,
    maxWeightError: errors.weight,
    ...(thinning && {
      thinned: { maxPositionError: strayed.position, maxRotationErrorDegrees: (strayed.rotation * 180) / Math.PI },
    }),
    ...(source && { sameAsSource: true }),
    bytes: bytes.length,
  }
}

/** The file as it would be without its props, which are held against where they should be. */
async function withoutProps(bytes: Uint8Array, content: GltfContent): Promise<Uint8Array> {
  if (!content.props?.length) return bytes
  const { document } = await openGltf(bytes)
  proveProps(content, document)
  return packGlb(withoutMounts(document, new Set(content.props.map(p => p.id))))
}

/**
 * Runs the format's validator. What it finds wrong is refused, unless the file the figure came in is wrong in the same way as
 * often: that leaves as it came, and is told.
 */
async function validated(
  bytes: Uint8Array,
  { source }: GltfContent,
): Promise<{ report: ValidatorReport; inherited: string[] }> {
  const report = await validate(bytes)
  const errors = errorsOf(report)
  if (errors.length === 0) return { report, inherited: [] }
  const before = source ? errorsOf(await validate(packGlb(source.document))).map(e => e.code) : []
  const fresh = errors.filter(({ code }) => {
    const at = before.indexOf(code)
    if (at >= 0) before.splice(at, 1)
    return at < 0
  })
  if (fresh.length > 0)
    throw new ChiraxisError(
      'unproven',
      `The written file does not keep to its format (${counted(fresh.length, 'error')}: ${fresh[0].message.slice(0, 200)}), so it was not handed over.`,
      { messages: fresh.map(m => `${m.code}: ${m.message}`) },
    )
  return { report, inherited: [...new Set(errors.map(e => `${e.code}: ${e.message}`))].slice(0, 20) }
}

const errorsOf = ({ issues }: ValidatorReport): ValidatorReport['issues']['messages'] =>
  issues.messages.filter(m => m.severity === 0)

interface Errors {
  position: number
  rotation: number
  weight: number
}

/** Parts are found by name, and those of one name in their order; corners are compared one by one. */
function compareMesh(
  mesh: Mesh,
  other: Mesh | undefined,
  bound: { skin: Skin; other: Skin | undefined; pairs: readonly number[] } | undefined,
  errors: Errors,
): void {
  const lost = (): never => {
    throw new ChiraxisError('unproven', 'The written file lost vertices or triangles of the body.')
  }
  if (!other) return lost()
  const back = new Int32Array(bound ? maxOf(bound.pairs, 0) + 1 : 0).fill(-1)
  bound?.pairs.forEach((r, j) => (back[r] = j))
  const done = new Uint8Array(mesh.positions.length / 3)
  for (const [part, twin] of twinParts(mesh, other)) {
    if (!twin || twin.count !== part.count) return lost()
    for (let i = 0; i < part.count; i++) {
      const a = mesh.indices[part.start + i]
      const b = other.indices[twin.start + i]
      for (let k = 0; k < 3; k++)
        errors.position = Math.max(errors.position, Math.abs(mesh.positions[3 * a + k] - other.positions[3 * b + k]))
      if (!bound || done[a]) continue
      done[a] = 1
      if (!bound.other) throw new ChiraxisError('unproven', 'The written file lost the skin of the body.')
      errors.weight = Math.max(errors.weight, rowDifference(bound.skin, a, bound.other, b, back))
    }
  }
}

const row = new Map<number, number>()
function rowDifference(a: Skin, v: number, b: Skin, w: number, back: Int32Array): number {
  row.clear()
  const add = (skin: Skin, at: number, sign: number, joint: (j: number) => number): void => {
    let sum = 0
    for (let k = 0; k < skin.influences; k++) sum += skin.weights[at * skin.influences + k]
    for (let k = 0; k < skin.influences; k++) {
      const value = skin.weights[at * skin.influences + k]
      if (!(value > 0)) continue
      const j = joint(skin.joints[at * skin.influences + k])
      row.set(j, (row.get(j) ?? 0) + (sign * value) / (sum || 1))
    }
  }
  add(a, v, 1, j => j)
  add(b, w, -1, j => back[j] ?? -1)
  let most = 0
  for (const d of row.values()) most = Math.max(most, Math.abs(d))
  return most
}

/** Which joint read each joint written became: by the names on its way from the root, those alike in their order. */
function jointPairs(written: Skeleton, read: Skeleton | undefined): number[] {
  const lost = (name: string): never => {
    throw new ChiraxisError('unproven', `The written file lost the joint ${name} of the skeleton.`)
  }
  const paths = (s: Skeleton): string[] => {
    const out: string[] = []
    s.names.forEach((n, j) => out.push(s.parents[j] < 0 ? n : `${out[s.parents[j]]}\u0000${n}`))
    return out
  }
  const rest = new Map<string, number[]>()
  if (read) paths(read).forEach((path, j) => rest.set(path, [...(rest.get(path) ?? []), j]))
  const pairs = paths(written).map((path, j) => rest.get(path)?.shift() ?? lost(written.names[j]))
  return pairs
}

function compareSkeleton(
  { mesh, skeleton, skin, takes = [] }: GltfContent,
  read: Received,
  pairs: readonly number[],
  errors: Errors,
  strayed: Errors,
): void {
  const own = skeleton!
  const n = pairs.length
  const m = read.skeleton!.names.length
  const same = (a: ReturnType<typeof worldPose>, b: ReturnType<typeof worldPose>): void => {
    for (let j = 0; j < n; j++) {
      errors.rotation = Math.max(errors.rotation, angleOf(quatAt(a.rotations, j), quatAt(b.rotations, pairs[j])))
      for (let k = 0; k < 3; k++)
        errors.position = Math.max(errors.position, Math.abs(a.positions[3 * j + k] - b.positions[3 * pairs[j] + k]))
    }
  }
  same(worldPose(own), worldPose(read.skeleton!))
  if (skin) same(bindPose(own), bindPose(read.skeleton!))
  const shapes = new Set([...(mesh?.morphs ?? []), ...(read.mesh?.morphs ?? [])].map(m => m.name))
  takes.forEach((take, i) => {
    const other = read.takes[i]
    if (!other || other.name !== take.name || Math.abs(other.frames - take.frames) > 0)
      throw new ChiraxisError('unproven', `The written file lost frames of the take ${take.name}.`)
    proveMoments(take, other, shapes)
    for (let f = 0; f < take.frames; f++)
      for (let j = 0; j < n; j++) {
        const a = f * n + j
        const b = f * m + pairs[j]
        strayed.rotation = Math.max(strayed.rotation, angleOf(quatAt(take.rotations, a), quatAt(other.rotations, b)))
        for (let k = 0; k < 3; k++)
          strayed.position = Math.max(
            strayed.position,
            shift(take.translations[3 * a + k], other.translations[3 * b + k]),
          )
      }
  })
}

/** A difference of two shifts; of those far away as single precision tells them. */
const shift = (a: number, b: number): number => Math.abs(a - b) / Math.max(1, Math.abs(a))
