import { floatValues, type GltfDocument, type GltfJson, type GltfNode } from '../document'
import {
  angleOf,
  compose,
  conjugate,
  decompose,
  distance,
  multiply,
  multiplyMat4,
  type Mat4,
  type Quat,
  type Vec3,
} from '../math'
import { worldPose } from '../skeleton'
import { keptBack } from './kept-back'
import type { GltfContent } from './gltf-write'

/** Farther than this no prop may be from where it should, metres, and more than this no prop may be turned, radians. */
const FARTHEST = 5e-4
const MOST_TURNED = 2e-3

const propOf = (node: GltfNode): string | undefined => {
  const told = (node.extras as { prop?: unknown } | undefined)?.prop
  return typeof told === 'string' ? told : undefined
}

/** A document without the mounts of some props and without what moves them. */
export function withoutMounts({ json, buffers }: GltfDocument, ids: ReadonlySet<string>): GltfDocument {
  const out: GltfJson = structuredClone(json)
  const mounts = new Set(out.nodes?.flatMap((n, i) => (ids.has(propOf(n) ?? '') ? [i] : [])))
  for (const n of out.nodes ?? [])
    if (n.children) {
      n.children = n.children.filter(c => !mounts.has(c))
      if (n.children.length === 0) delete n.children
    }
  for (const s of out.scenes ?? []) if (s.nodes) s.nodes = s.nodes.filter(c => !mounts.has(c))
  for (const a of out.animations ?? []) a.channels = a.channels.filter(c => !mounts.has(c.target.node ?? -1))
  return { json: out, buffers }
}

/**
 * Holds the props of a file that was read back against where they were to be: at rest and in every frame of every take, all of
 * their triangles below them.
 * @throws ChiraxisError `unproven`
 */
export function proveProps({ props = [], skeleton, takes = [] }: GltfContent, document: GltfDocument): void {
  const { json } = document
  const nodes = json.nodes ?? []
  const parents = new Int32Array(nodes.length).fill(-1)
  nodes.forEach((n, i) => n.children?.forEach(c => (parents[c] = i)))
  for (const prop of props) {
    const refuse = (what: string): never => {
      throw keptBack(`the prop ${prop.name} ${what}`)
    }
    const mount = nodes.findIndex(n => propOf(n) === prop.id)
    if (mount < 0) return refuse('is missing')
    if (nodes[mount].name !== prop.name) refuse('lost its name')
    if (triangles(json, mount) !== trianglesOfScene(prop.document.json, prop.scene)) refuse('lost triangles')
    const way: number[] = []
    for (let n = mount; n >= 0; n = parents[n]) way.unshift(n)
    const at = (local: (n: number) => Mat4): { place: Vec3; turn: Quat } => {
      const { translation, rotation } = decompose(way.map(local).reduce((m, own) => multiplyMat4(m, own)))
      return { place: translation, turn: rotation }
    }
    const check = (is: ReturnType<typeof at>, place: Vec3, turn: Quat, when: string): void => {
      if (distance(is.place, place) > FARTHEST * Math.max(1, Math.hypot(...place)))
        refuse(`is not where it should be ${when}`)
      if (angleOf(multiply(conjugate(is.turn), turn)) > MOST_TURNED) refuse(`is not turned as it should be ${when}`)
    }
    check(
      at(n => localOf(nodes[n])),
      prop.rest.at,
      prop.rest.turn,
      'at rest',
    )
    takes.forEach((take, i) => {
      const sampled = samplesOf(document, i, take.fps)
      for (let f = 0; f < take.frames; f += Math.max(1, Math.floor(take.frames / 24))) {
        const is = at(n => sampled(n, f) ?? localOf(nodes[n]))
        const course = prop.courses?.[i]
        if (course) {
          const q = Array.from(course.turns.subarray(4 * f, 4 * f + 4)) as unknown as Quat
          check(is, Array.from(course.places.subarray(3 * f, 3 * f + 3)) as unknown as Vec3, q, `in ${take.name}`)
        } else if (skeleton && prop.joint >= 0) {
          const { place, turn } = carriedBy(skeleton, take, f, prop.joint, prop.rest)
          check(is, place, turn, `in ${take.name}`)
        }
      }
    })
  }
}

function carriedBy(
  skeleton: NonNullable<GltfContent['skeleton']>,
  take: NonNullable<GltfContent['takes']>[number],
  f: number,
  joint: number,
  rest: { readonly at: Vec3; readonly turn: Quat },
): { place: Vec3; turn: Quat } {
  const J = skeleton.names.length
  const still = worldPose(skeleton)
  const now = worldPose(
    skeleton,
    take.translations.subarray(3 * J * f, 3 * J * (f + 1)),
    take.rotations.subarray(4 * J * f, 4 * J * (f + 1)),
  )
  const m = (w: typeof still): Float64Array =>
    compose(
      Array.from(w.positions.subarray(3 * joint, 3 * joint + 3)) as unknown as Vec3,
      Array.from(w.rotations.subarray(4 * joint, 4 * joint + 4)) as unknown as Quat,
    )
  const q = Array.from(still.rotations.subarray(4 * joint, 4 * joint + 4)) as unknown as Quat
  const p = Array.from(still.positions.subarray(3 * joint, 3 * joint + 3)) as unknown as Vec3
  const back = compose([0, 0, 0], conjugate(q))
  const off = compose([-p[0], -p[1], -p[2]], [0, 0, 0, 1])
  const own = multiplyMat4(multiplyMat4(back, off), compose(rest.at, rest.turn))
  const { translation, rotation } = decompose(multiplyMat4(m(now), own))
  return { place: translation, turn: rotation }
}

const localOf = (n: GltfNode): Mat4 =>
  n.matrix ??
  compose((n.translation ?? [0, 0, 0]) as Vec3, (n.rotation ?? [0, 0, 0, 1]) as Quat, (n.scale ?? [1, 1, 1]) as Vec3)

/** Where an animation puts nodes at a frame; undefined for nodes it does not move. */
function samplesOf(document: GltfDocument, animation: number, fps: number): (n: number, f: number) => Mat4 | undefined {
  const told = document.json.animations?.[animation]
  const byNode = new Map<
    number,
    Map<string, { times: ArrayLike<number>; values: ArrayLike<number>; width: number; step: boolean }>
  >()
  for (const { sampler, target } of told?.channels ?? []) {
    if (target.node === undefined || target.path === 'weights') continue
    const { input, output, interpolation } = told!.samplers[sampler]
    const own = byNode.get(target.node) ?? new Map()
    byNode.set(target.node, own)
    const cubic = interpolation === 'CUBICSPLINE'
    const width = target.path === 'rotation' ? 4 : 3
    const all = floatValues(document, output)
    // of a cubic the value stands between its two tangents
    const values = cubic ? all.filter((_, i) => Math.floor(i / width) % 3 === 1) : all
    own.set(target.path, { times: floatValues(document, input), values, width, step: interpolation === 'STEP' })
  }
  return (n, f) => {
    const own = byNode.get(n)
    if (!own) return undefined
    const node = document.json.nodes![n]
    const plain = decompose(localOf(node))
    const read = (path: string, still: readonly number[]): number[] => {
      const track = own.get(path)
      if (!track) return [...still]
      const { times, values, width, step } = track
      let k = 0
      while (k + 1 < times.length && times[k + 1] <= f / fps + 1e-5) k++
      const next = Math.min(times.length - 1, k + 1)
      const span = times[next] - times[k]
      const t = step || span <= 0 ? 0 : Math.min(1, Math.max(0, (f / fps - times[k]) / span))
      const a = Array.from({ length: width }, (_, i) => values[width * k + i])
      const b = Array.from({ length: width }, (_, i) => values[width * next + i])
      const sign = width === 4 && a.reduce((sum, v, i) => sum + v * b[i], 0) < 0 ? -1 : 1
      const out = a.map((v, i) => v + t * (sign * b[i] - v))
      const l = width === 4 ? Math.hypot(...out) || 1 : 1
      return out.map(v => v / l)
    }
    return compose(
      read('translation', plain.translation) as unknown as Vec3,
      read('rotation', plain.rotation) as unknown as Quat,
      read('scale', plain.scale) as unknown as Vec3,
    )
  }
}

/** Corners drawn below a node. */
function triangles(json: GltfJson, top: number): number {
  let count = 0
  const open = [top]
  while (open.length > 0) {
    const n = json.nodes![open.pop()!]
    for (const p of n.mesh === undefined ? [] : json.meshes![n.mesh].primitives)
      count += json.accessors![p.indices ?? p.attributes.POSITION].count
    open.push(...(n.children ?? []))
  }
  return count
}
const trianglesOfScene = (json: GltfJson, scene: number): number =>
  (json.scenes?.[scene]?.nodes ?? []).reduce((sum, n) => sum + triangles(json, n), 0)
