import { z } from 'zod'
import { driveOf, weightsThrough, type Driven } from '../corrective'
import { invertAffine, multiplyMat4 } from '../math'
import type { Take } from '../motion'
import { findJoint, type Skeleton } from '../skeleton'
import { floatValues } from './accessors'
import type { Draft } from './draft'
import type { DrivenShape, FigureToWrite } from './figure'
import type { GltfAnimation, GltfJson } from './gltf'
import { frameTimes, withUsedSamplers } from './samplers'
import { PLAIN } from './place'
import type { WrittenRun } from './write-surface'

const tellDriver = (skeleton: Skeleton, { turns, ease }: Driven): unknown => ({
  joints: turns.map(t => ({ joint: skeleton.names[findJoint(skeleton, t.joint)], turn: t.by })),
  ease,
})
const toldDriver = z.object({
  joints: z
    .array(z.object({ joint: z.string(), turn: z.tuple([z.number(), z.number(), z.number(), z.number()]) }))
    .min(1)
    .max(64),
  ease: z.number().min(1).max(6),
})

/**
 * What drives shapes that a file came with, where it is told as here: those at the end of a mesh's targets.
 * @returns what drives each, alike ones once, and by node which of them it has
 */
export function driversTold(json: GltfJson): {
  readonly drivers: readonly Driven[]
  readonly nodes: readonly ShapedNode[]
} {
  const drivers: Driven[] = []
  const places = new Map<string, number>()
  const nodes = (json.nodes ?? []).flatMap((n, node): ShapedNode[] => {
    const mesh = n.mesh === undefined ? undefined : json.meshes?.[n.mesh]
    const extras = mesh?.extras as { targetNames?: unknown; drivers?: Record<string, unknown> } | null | undefined
    const names = Array.isArray(extras?.targetNames) ? (extras.targetNames as unknown[]) : []
    const count = mesh?.primitives[0]?.targets?.length ?? 0
    if (typeof extras?.drivers !== 'object' || extras.drivers === null || names.length !== count) return []
    const told = names.map(name => toldDriver.safeParse(extras.drivers![String(name)]))
    const first = told.findIndex(t => t.success)
    if (first < 0 || told.slice(first).some(t => !t.success)) return []
    const shapes = told.slice(first).map(({ data }, i) => {
      const key = `${String(names[first + i])} ${JSON.stringify(data)}`
      const place =
        places.get(key) ??
        drivers.push({ turns: data!.joints.map(j => ({ joint: j.joint, by: j.turn })), ease: data!.ease }) - 1
      places.set(key, place)
      return place
    })
    return [{ node, first, shapes }]
  })
  return { drivers, nodes }
}

/** A node whose mesh got shapes: where among its morph targets they begin, and which of the figure's they are. */
export interface ShapedNode {
  readonly node: number
  readonly first: number
  readonly shapes: readonly number[]
}

/** An accessor is told sparsely where fewer than this share of its elements are anything. */
const SPARSE = 0.4

/**
 * Writes correctives as morph targets behind those a mesh has already, under their names; what drives them is told in the mesh's
 * extras. Meshes no shape touches stay as they are.
 */
export function writeShapes(draft: Draft, figure: FigureToWrite, runs: readonly WrittenRun[]): ShapedNode[] {
  const shapes = figure.shapes ?? []
  if (shapes.length === 0) return []
  const { json } = draft
  const nodes = json.nodes!
  const shared = new Map<number, number>()
  for (const n of nodes) if (n.mesh !== undefined) shared.set(n.mesh, (shared.get(n.mesh) ?? 0) + 1)
  const byNode = new Map<number, WrittenRun[]>()
  for (const run of runs) byNode.set(run.node, [...(byNode.get(run.node) ?? []), run])
  // a rest pose that was changed by hand may show a shape
  const atRest = figure.skeleton
    ? driveOf(figure.skeleton, shapes).weights(figure.skeleton.restRotations)
    : new Float64Array(shapes.length)
  const out: ShapedNode[] = []
  for (const [n, own] of byNode) {
    const node = nodes[n]
    if (node.mesh === undefined) continue
    const touching = shapes.flatMap((s, i) => (own.some(run => touches(s, run.to)) ? [i] : []))
    if (touching.length === 0) continue
    const before = json.meshes![node.mesh]
    const places = own.map(run => run.primitives.map(p => before.primitives.indexOf(p)))
    if ((shared.get(node.mesh) ?? 0) > 1) {
      shared.set(node.mesh, shared.get(node.mesh)! - 1)
      node.mesh = draft.mesh(structuredClone(before))
    }
    const mesh = json.meshes![node.mesh]
    const first = mesh.primitives[0].targets?.length ?? 0
    const offsets = own.map(run => touching.map(s => offsetsOf(draft, figure, shapes[s], run)))
    mesh.primitives.forEach((primitive, p) => {
      const at = places.findIndex(list => list.includes(p))
      const count = json.accessors![primitive.attributes.POSITION].count
      primitive.targets = [
        ...(primitive.targets ?? []),
        ...touching.map((_, i) => ({ POSITION: at < 0 ? nothing(draft, count) : offsets[at][i] })),
      ]
    })
    const still = touching.map(s => atRest[s])
    if (mesh.weights || first === 0 || still.some(w => w > 0))
      mesh.weights = [...(mesh.weights ?? new Array<number>(first).fill(0)), ...still]
    if (node.weights) node.weights = [...node.weights, ...still]
    const extras = (typeof mesh.extras === 'object' ? mesh.extras : undefined) as Record<string, unknown> | undefined
    const told = Array.isArray(extras?.targetNames) ? (extras.targetNames as string[]) : []
    const driven = touching.filter(s => shapes[s].turns.length > 0)
    mesh.extras = {
      ...extras,
      targetNames: [
        ...Array.from({ length: first }, (_, i) => told[i] ?? `morph ${i + 1}`),
        ...touching.map(s => shapes[s].name),
      ],
      ...(driven.length > 0 && {
        drivers: {
          ...(extras?.drivers as object | undefined),
          ...Object.fromEntries(driven.map(s => [shapes[s].name, tellDriver(figure.skeleton!, shapes[s])])),
        },
      }),
    }
    out.push({ node: n, first, shapes: touching })
  }
  return out
}

const touches = ({ offsets }: DrivenShape, to: Int32Array): boolean => {
  for (const v of to)
    if (v >= 0 && (offsets[3 * v] !== 0 || offsets[3 * v + 1] !== 0 || offsets[3 * v + 2] !== 0)) return true
  return false
}

/** How far the vertices of a run go for a shape, told in the space its mesh is told in. */
function offsetsOf(draft: Draft, figure: FigureToWrite, { offsets }: DrivenShape, run: WrittenRun): number {
  const m = run.baked ? undefined : invertAffine(multiplyMat4(figure.source.matrix, run.world ?? PLAIN))
  const values = new Float32Array(3 * run.to.length)
  run.to.forEach((v, i) => {
    if (v < 0) return
    const [x, y, z] = [offsets[3 * v], offsets[3 * v + 1], offsets[3 * v + 2]]
    for (let k = 0; k < 3; k++) values[3 * i + k] = m ? m[k] * x + m[4 + k] * y + m[8 + k] * z : [x, y, z][k]
  })
  return offsetsIn(draft, values)
}

/** An accessor of how far vertices go for a shape, told of those alone that it moves where these are few. @param values 3·n */
export function offsetsIn(draft: Draft, values: Float32Array): number {
  const moved: number[] = []
  for (let i = 0; i < values.length; i += 3)
    if (values[i] !== 0 || values[i + 1] !== 0 || values[i + 2] !== 0) moved.push(i / 3)
  if (moved.length === 0) return nothing(draft, values.length / 3)
  if (moved.length > (SPARSE * values.length) / 3)
    return draft.accessor(values, 'VEC3', { use: 'attribute', bounds: true })
  return draft.sparse(values, 'VEC3', moved)
}

/** An accessor of zeros, which takes no room. */
const nothing = (draft: Draft, count: number): number =>
  (draft.json.accessors ??= []).push({
    componentType: 5126,
    count,
    type: 'VEC3',
    min: [0, 0, 0],
    max: [0, 0, 0],
  } satisfies NonNullable<Draft['json']['accessors']>[number]) - 1

/** How strongly each of some shapes shows through a take: frames times shapes. */
interface DrivenTake {
  readonly fps: number
  readonly frames: number
  readonly through: Float32Array
  readonly count: number
}

/** A shape that turning joints bring on, or, where none do, expressions of a take. */
type Shown = Driven & { readonly name?: string }

/**
 * How strongly shapes show through a take: as its joints drive them, each list on its own, or as its face tells.
 * @param told weights by shape, see `shapeWeights`
 */
export function driveTake(
  skeleton: Skeleton,
  take: Take,
  lists: readonly (readonly Shown[])[],
  told: ReadonlyMap<string, Float32Array> = new Map(),
): DrivenTake {
  const parts = lists.map(list => weightsThrough(skeleton, list, take))
  const count = lists.reduce((sum, list) => sum + list.length, 0)
  const through = new Float32Array(take.frames * count)
  for (let f = 0; f < take.frames; f++) {
    let at = f * count
    for (const [i, list] of lists.entries()) {
      through.set(parts[i].subarray(f * list.length, (f + 1) * list.length), at)
      at += list.length
    }
  }
  lists.flat().forEach(({ turns, name }, s) => {
    const own = turns.length === 0 && name !== undefined ? told.get(name) : undefined
    for (let f = 0; own && f < take.frames; f++) through[f * count + s] = own[f]
  })
  return { fps: take.fps, frames: take.frames, through, count }
}

/** Names of the morph targets of a mesh. */
export const targetNames = (mesh: NonNullable<GltfJson['meshes']>[number] | undefined): readonly string[] => {
  const told = (mesh?.extras as { targetNames?: unknown } | null | undefined)?.targetNames
  return Array.from({ length: mesh?.primitives[0]?.targets?.length ?? 0 }, (_, i) =>
    Array.isArray(told) && typeof told[i] === 'string' && told[i] ? told[i] : `morph ${i + 1}`,
  )
}

/**
 * An animation that also moves the morph targets meshes had before, as the face of a take tells; targets it tells nothing of go on
 * as they did.
 */
export function withFaceMotion(
  draft: Draft,
  animation: GltfAnimation,
  shaped: readonly ShapedNode[],
  { fps, frames }: Pick<Take, 'fps' | 'frames'>,
  told: ReadonlyMap<string, Float32Array>,
): GltfAnimation {
  let out = animation
  const times = frameTimes(draft, frames, fps)
  const { nodes = [], meshes = [] } = draft.json
  nodes.forEach((node, n) => {
    if (node.mesh === undefined) return
    const mesh = meshes[node.mesh]
    const size = shaped.find(s => s.node === n)?.first ?? targetNames(mesh).length
    const names = targetNames(mesh).slice(0, size)
    if (!names.some(name => told.has(name))) return
    const own = out.channels.find(c => c.target.node === n && c.target.path === 'weights')
    const old = own && curveOf(draft, out.samplers[own.sampler], size)
    const rest = Float32Array.from({ length: size }, (_, i) => (node.weights ?? mesh.weights)?.[i] ?? 0)
    const values = new Float32Array(frames * size)
    for (let f = 0; f < frames; f++) {
      values.set(old ? sampled(old, f / fps) : rest, f * size)
      names.forEach((name, i) => {
        const track = told.get(name)
        if (track) values[f * size + i] = track[f]
      })
    }
    const channels = out.channels.filter(c => c !== own)
    const kept = own ? withUsedSamplers({ channels, samplers: out.samplers }) : out
    const sampler = { input: times.of(), output: draft.accessor(values, 'SCALAR'), interpolation: 'LINEAR' }
    made.set(sampler, { times: Float32Array.from({ length: frames }, (_, f) => f / fps), values, size })
    out = {
      ...out,
      channels: [...kept.channels, { sampler: kept.samplers.length, target: { node: n, path: 'weights' } }],
      samplers: [...kept.samplers, sampler],
    }
  })
  return out
}

/** Nodes of two lists as one, what the second has counted behind the first. */
export function bothShaped(first: readonly ShapedNode[], count: number, second: readonly ShapedNode[]): ShapedNode[] {
  const later = new Map(second.map(s => [s.node, s]))
  const both = first.map((f): ShapedNode => {
    const s = later.get(f.node)
    later.delete(f.node)
    return { ...f, shapes: [...f.shapes, ...(s?.shapes.map(i => count + i) ?? [])] }
  })
  return [...both, ...[...later.values()].map(s => ({ ...s, shapes: s.shapes.map(i => count + i) }))]
}

/**
 * An animation that also moves the shapes of a figure; what it did to the morph targets a mesh had before goes on as it was.
 * @param take left out where the animation is no take, and the shapes rest
 */
export function withShapeMotion(
  draft: Draft,
  animation: GltfAnimation,
  shaped: readonly ShapedNode[],
  take?: DrivenTake,
): GltfAnimation {
  let out = animation
  for (const { node, first, shapes } of shaped) {
    if (draft.json.nodes![node].mesh === undefined) continue
    const own = out.channels.find(c => c.target.node === node && c.target.path === 'weights')
    if (!own && !take) continue
    const old = own && curveOf(draft, out.samplers[own.sampler], first)
    const driven = take && {
      times: Float32Array.from({ length: take.frames }, (_, f) => f / take.fps),
      values: Float32Array.from({ length: take.frames * shapes.length }, (_, i) => {
        const f = Math.floor(i / shapes.length)
        return take.through[f * take.count + shapes[i % shapes.length]]
      }),
      size: shapes.length,
    }
    const still = !driven || driven.values.every(v => v === 0)
    const times = mergedTimes(old?.times, still ? undefined : driven.times)
    const values = new Float32Array(times.length * (first + shapes.length))
    times.forEach((t, f) => {
      const at = f * (first + shapes.length)
      if (old) values.set(sampled(old, t), at)
      if (!still) values.set(sampled(driven, t), at + first)
    })
    const channels = out.channels.filter(c => c !== own)
    const kept = own ? withUsedSamplers({ channels, samplers: out.samplers }) : out
    const sampler = {
      input: draft.accessor(times, 'SCALAR', { bounds: true }),
      output: draft.accessor(values, 'SCALAR'),
      interpolation: old?.step && still ? 'STEP' : 'LINEAR',
    }
    out = {
      ...out,
      channels: [...kept.channels, { sampler: kept.samplers.length, target: { node, path: 'weights' } }],
      samplers: [...kept.samplers, sampler],
    }
  }
  return out
}

/** Values over time, straight between keys or held up to the next one. */
interface Curve {
  readonly times: Float32Array
  readonly values: Float32Array
  /** Values a key. */
  readonly size: number
  readonly step?: boolean
}

/** What samplers hold that were written here, and are in no file yet. */
const made = new WeakMap<object, Curve>()

/** The keys of a sampler of morph weights; of splines the values at the keys. */
function curveOf(draft: Draft, sampler: GltfAnimation['samplers'][number], size: number): Curve {
  const own = made.get(sampler)
  if (own) return own
  const times = floatValues(draft.source, sampler.input)
  const raw = floatValues(draft.source, sampler.output)
  if (sampler.interpolation !== 'CUBICSPLINE')
    return { times, values: raw, size, step: sampler.interpolation === 'STEP' }
  const values = new Float32Array(times.length * size)
  for (let f = 0; f < times.length; f++) values.set(raw.subarray((3 * f + 1) * size, (3 * f + 2) * size), f * size)
  return { times, values, size }
}

function mergedTimes(a: Float32Array | undefined, b: Float32Array | undefined): Float32Array {
  const all = [...(a ?? []), ...(b ?? [])].sort((x, y) => x - y)
  const out = all.filter((t, i) => i === 0 || t - all[i - 1] > 1e-6)
  return Float32Array.from(out.length > 0 ? out : [0])
}

function sampled({ times, values, size, step }: Curve, t: number): Float32Array {
  let i = 0
  while (i + 1 < times.length && times[i + 1] <= t + 1e-6) i++
  const at = values.subarray(i * size, (i + 1) * size)
  if (step || i + 1 >= times.length || t <= times[i]) return at
  const share = (t - times[i]) / (times[i + 1] - times[i])
  return at.map((v, k) => v + share * (values[(i + 1) * size + k] - v))
}
