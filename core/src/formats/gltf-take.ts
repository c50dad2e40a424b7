import type { Animation, Node } from '@gltf-transform/core'
import { ChiraxisError, composeAt, multiplyAffineAt, rotateAt, rotationOfAt, slerpAt, timesAt } from '../math'
import type { ScalarTrack, Take } from '../motion'
import { readTakeExtras, toldRate } from '../document'
import { floats } from './gltf-floats'

interface Track {
  readonly times: ArrayLike<number>
  readonly values: Float32Array
  readonly size: number
  readonly mode: string
  /** Whether its values are turns. */
  readonly turns?: boolean
}

/** How strongly the shapes of one mesh show. */
interface ShapeTrack extends Track {
  readonly names: readonly string[]
}

/** An animation looked through, before any frame of it is worked out. */
export interface TakePlan {
  readonly name: string
  readonly fps: number
  readonly frames: number
  readonly tracks: ReadonlyMap<Node, ReadonlyMap<string, Track>>
  readonly shapes: readonly ShapeTrack[]
  /** What the file tells beside the tracks. */
  readonly extras?: unknown
}

/** @throws ChiraxisError `truncated-file`, `not-finite` */
export function planTake(animation: Animation, number: number): TakePlan | undefined {
  const tracks = new Map<Node, Map<string, Track>>()
  const shapes: ShapeTrack[] = []
  const name = animation.getName() || `take ${number + 1}`
  let end = 0
  const gaps: number[] = []
  for (const channel of animation.listChannels()) {
    const node = channel.getTargetNode()
    const sampler = channel.getSampler()
    const input = sampler?.getInput()
    const output = sampler?.getOutput()
    const path = channel.getTargetPath()
    if (!node || !sampler || !input || !output || !path) continue
    const names = path === 'weights' ? shapeNames(node) : []
    if (path === 'weights' && names.length === 0) continue
    const times = floats(input, 1)
    if (times.length === 0) continue
    const size = path === 'weights' ? names.length : path === 'rotation' ? 4 : 3
    const mode = sampler.getInterpolation()
    const values = floats(output, path === 'weights' ? 1 : size)
    if (values.length < times.length * size * (mode === 'CUBICSPLINE' ? 3 : 1))
      throw new ChiraxisError('truncated-file', `The take ${name} has fewer values than keys; the file is damaged.`)
    if (!values.every(Number.isFinite) || !times.every(Number.isFinite))
      throw new ChiraxisError('not-finite', `The take ${name} holds values that are not numbers; the file is damaged.`)
    end = Math.max(end, times[times.length - 1])
    // a few thousand distances tell the rate
    for (let i = 1; i < times.length && gaps.length < MOST_GAPS; i++) gaps.push(times[i] - times[i - 1])
    if (path === 'weights') {
      shapes.push({ times, values, size, mode, names })
      continue
    }
    const own = tracks.get(node) ?? new Map<string, Track>()
    own.set(path, { times, values, size, mode, turns: path === 'rotation' })
    tracks.set(node, own)
  }
  if (tracks.size === 0) return undefined
  const extras = animation.getExtras()
  const fps = toldRate(extras, end) ?? rateOf(gaps)
  return {
    name,
    fps,
    frames: Math.max(1, Math.round(Math.max(0, end) * fps) + 1),
    tracks,
    shapes,
    extras,
  }
}

/** The shapes of the mesh at a node, by name; none where its pieces have different numbers of them. */
function shapeNames(node: Node): string[] {
  const mesh = node.getMesh()
  const counts = mesh?.listPrimitives().map(p => p.listTargets().length) ?? []
  const told = (mesh?.getExtras() as { targetNames?: unknown } | undefined)?.targetNames
  if (counts.length === 0 || counts.some(n => n !== counts[0])) return []
  return Array.from({ length: counts[0] }, (_, i) =>
    Array.isArray(told) && typeof told[i] === 'string' && told[i] ? told[i] : `morph ${i + 1}`,
  )
}

/** How strongly shapes show at even steps, those of one name once; what rests throughout is left out. */
function scalarsOf(shapes: readonly ShapeTrack[], frames: number, fps: number): ScalarTrack[] {
  const out = new Map<string, ScalarTrack>()
  for (const track of shapes) {
    if (track.size * frames > MOST_SHAPE_VALUES)
      throw new ChiraxisError('too-large', `A take moves ${track.size} shapes over ${frames} frames; that is too much.`)
    const at = new Float64Array(track.size)
    const lists = track.names.map(() => new Float32Array(frames))
    for (let f = 0; f < frames; f++) {
      sampleTrack(track, f / fps, at, 0)
      lists.forEach((list, i) => (list[f] = at[i]))
    }
    track.names.forEach((name, i) => {
      if (!out.has(name) && lists[i].some(v => Math.abs(v) > 1e-6))
        out.set(name, { name, kind: 'expression', values: lists[i] })
    })
  }
  return [...out.values()]
}
const MOST_GAPS = 100_000
const MOST_SHAPE_VALUES = 20_000_000

/**
 * One animation as a take at even steps, told to the joints' own parents whatever nodes lie between. Only what moves, and
 * what hangs on it, is worked out anew for every frame.
 * @param ways nodes the joints' places depend on, parents first, see {@link nodesAbove}
 * @param parents parent joint of each joint, -1 for none
 */
export function sampleTake(
  { name, fps, frames, tracks, shapes, extras }: TakePlan,
  jointNodes: readonly Node[],
  parents: readonly number[],
  ways: readonly Node[],
): Take {
  const J = jointNodes.length
  const rotations = new Float32Array(4 * J * frames)
  const translations = new Float32Array(3 * J * frames)
  const index = new Map(ways.map((node, i) => [node, i]))
  const above = Int32Array.from(ways, node => index.get(node.getParentNode()!) ?? -1)
  const wayOf = Int32Array.from(jointNodes, node => index.get(node)!)
  const W = new Float64Array(16 * ways.length)
  const local = new Float64Array(16 * ways.length)
  /** Rest values of the moving nodes: translation, rotation, scale. */
  const values = new Float64Array(10 * ways.length)
  const own = ways.map(node => tracks.get(node))
  const moves = new Uint8Array(ways.length)
  ways.forEach((node, i) => {
    moves[i] = own[i] || (above[i] >= 0 && moves[above[i]]) ? 1 : 0
    if (own[i]) {
      values.set(node.getTranslation(), 10 * i)
      values.set(node.getRotation(), 10 * i + 3)
      values.set(node.getScale(), 10 * i + 7)
    } else local.set(node.getMatrix(), 16 * i)
  })
  const Q = new Float64Array(4 * ways.length)
  const at = new Float64Array(4)
  const turn = new Float64Array(4)
  for (let f = 0; f < frames; f++) {
    const time = f / fps
    for (let i = 0; i < ways.length; i++) {
      if (f > 0 && !moves[i]) continue
      const told = own[i]
      const v = 10 * i
      if (told) {
        const t = told.get('translation'),
          r = told.get('rotation'),
          s = told.get('scale')
        if (t) sampleTrack(t, time, values, v)
        if (r) sampleTrack(r, time, values, v + 3)
        if (s) sampleTrack(s, time, values, v + 7)
        composeAt(local, 16 * i, values, v, values, v + 3, values, v + 7)
      }
      if (above[i] >= 0) multiplyAffineAt(W, 16 * i, W, 16 * above[i], local, 16 * i)
      else W.set(local.subarray(16 * i, 16 * i + 16), 16 * i)
      rotationOfAt(Q, 4 * i, W, 16 * i)
    }
    for (let j = 0; j < J; j++) {
      const i = wayOf[j]
      const o = f * J + j
      if (parents[j] < 0) {
        for (let k = 0; k < 4; k++) rotations[4 * o + k] = Q[4 * i + k]
        for (let k = 0; k < 3; k++) translations[3 * o + k] = W[16 * i + 12 + k]
        continue
      }
      const p = wayOf[parents[j]]
      turn[0] = -Q[4 * p]
      turn[1] = -Q[4 * p + 1]
      turn[2] = -Q[4 * p + 2]
      turn[3] = Q[4 * p + 3]
      timesAt(at, 0, turn, 0, Q, 4 * i)
      for (let k = 0; k < 4; k++) rotations[4 * o + k] = at[k]
      rotateAt(
        at,
        0,
        turn,
        0,
        W[16 * i + 12] - W[16 * p + 12],
        W[16 * i + 13] - W[16 * p + 13],
        W[16 * i + 14] - W[16 * p + 14],
      )
      for (let k = 0; k < 3; k++) translations[3 * o + k] = at[k]
    }
  }
  const told = readTakeExtras(extras, { frames, fps })
  const shown = scalarsOf(shapes, frames, fps)
  const scalars = [...shown, ...(told.scalars ?? []).filter(s => !shown.some(o => o.name === s.name))]
  return { name, fps, frames, rotations, translations, ...told, ...(scalars.length > 0 && { scalars }) }
}

/** Nodes that the place of any of the given ones depends on, parents first. */
export function nodesAbove(wanted: readonly Node[], nodes: readonly Node[]): Node[] {
  const needed = new Set<Node>()
  for (const node of wanted) for (let n: Node | null = node; n && !needed.has(n); n = n.getParentNode()) needed.add(n)
  return nodes.filter(n => needed.has(n))
}

/** The even rate that fits most key distances: a usual one, else the nearest whole one. */
function rateOf(gaps: number[]): number {
  const sorted = gaps.filter(g => g > 1e-4).sort((a, b) => a - b)
  const gap = sorted[sorted.length >> 1] ?? 1 / 30
  if (gap > 1 / 15) return 30
  const fps = 1 / gap
  const usual = [24, 25, 30, 50, 60, 90, 100, 120, 240].find(r => Math.abs(r - fps) < 0.02 * r)
  return usual ?? Math.min(240, Math.max(1, Math.round(fps)))
}

/** A turn of four numbers made unit long: those kept as whole numbers are not quite. */
function unitLong(out: Float64Array, o: number): void {
  const l = Math.hypot(out[o], out[o + 1], out[o + 2], out[o + 3]) || 1
  for (let k = 0; k < 4; k++) out[o + k] /= l
}

/** Values of a track at a time, written to out[o..]. */
function sampleTrack(track: Track, time: number, out: Float64Array, o: number): void {
  const { times, values, size, mode, turns } = track
  const n = times.length
  const cubic = mode === 'CUBICSPLINE'
  const stride = cubic ? 3 * size : size
  const value = cubic ? size : 0
  const pick = (key: number): void => {
    for (let k = 0; k < size; k++) out[o + k] = values[key * stride + value + k]
    if (turns) unitLong(out, o)
  }
  if (time <= times[0]) return pick(0)
  if (time >= times[n - 1]) return pick(n - 1)
  let low = 0
  let high = n - 1
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (times[middle] <= time) low = middle
    else high = middle
  }
  const span = times[high] - times[low]
  const t = span > 0 ? (time - times[low]) / span : 0
  if (mode === 'STEP') return pick(low)
  if (cubic) {
    const t2 = t * t,
      t3 = t2 * t
    for (let k = 0; k < size; k++)
      out[o + k] =
        (2 * t3 - 3 * t2 + 1) * values[low * stride + size + k] +
        span * (t3 - 2 * t2 + t) * values[low * stride + 2 * size + k] +
        (-2 * t3 + 3 * t2) * values[high * stride + size + k] +
        span * (t3 - t2) * values[high * stride + k]
    if (turns) unitLong(out, o)
    return
  }
  if (turns) {
    slerpAt(out, o, values, 4 * low, values, 4 * high, t)
    return unitLong(out, o)
  }
  for (let k = 0; k < size; k++) {
    const from = values[low * size + k]
    out[o + k] = from + (values[high * size + k] - from) * t
  }
}
