import type { Animation, Node } from '@gltf-transform/core'
import {
  ChiraxisError,
  compose,
  conjugate,
  decompose,
  lerp,
  multiply,
  multiplyMat4,
  quatAt,
  rotate,
  setQuat,
  setVec3,
  slerp,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import type { Take } from '../motion'
import { floats } from './gltf-floats'
import { GLTF_LIMITS } from './gltf-check'

interface Track {
  readonly times: ArrayLike<number>
  readonly values: Float32Array
  readonly size: number
  readonly mode: string
}

/**
 * One animation as a take at even steps, told to the joints' own parents whatever nodes lie between.
 * @param nodes every node of the scene, parents first  @param parents parent joint of each joint, -1 for none
 */
export function readTake(
  animation: Animation,
  jointNodes: readonly Node[],
  parents: readonly number[],
  nodes: readonly Node[],
  number: number,
): Take | undefined {
  const tracks = new Map<Node, Map<string, Track>>()
  let end = 0
  const gaps: number[] = []
  for (const channel of animation.listChannels()) {
    const node = channel.getTargetNode()
    const sampler = channel.getSampler()
    const input = sampler?.getInput()
    const output = sampler?.getOutput()
    const path = channel.getTargetPath()
    if (!node || !sampler || !input || !output || !path || path === 'weights') continue
    const times = floats(input, 1)
    if (times.length === 0) continue
    const size = path === 'rotation' ? 4 : 3
    const mode = sampler.getInterpolation()
    const values = floats(output, size)
    if (values.length < times.length * size * (mode === 'CUBICSPLINE' ? 3 : 1))
      throw new ChiraxisError(
        'truncated-file',
        `The take ${animation.getName()} has fewer values than keys; the file is damaged.`,
      )
    if (!values.every(Number.isFinite) || !times.every(Number.isFinite))
      throw new ChiraxisError(
        'not-finite',
        `The take ${animation.getName()} holds values that are not numbers; the file is damaged.`,
      )
    end = Math.max(end, times[times.length - 1])
    for (let i = 1; i < times.length; i++) gaps.push(times[i] - times[i - 1])
    const own = tracks.get(node) ?? new Map<string, Track>()
    own.set(path, { times, values, size, mode })
    tracks.set(node, own)
  }
  if (tracks.size === 0) return undefined
  const fps = rateOf(gaps)
  const frames = Math.max(1, Math.round(end * fps) + 1)
  if (frames > GLTF_LIMITS.frames)
    throw new ChiraxisError(
      'too-large',
      `The take ${animation.getName()} has ${frames} frames; at most ${GLTF_LIMITS.frames} can be read.`,
    )
  const n = jointNodes.length
  const rotations = new Float32Array(4 * n * frames)
  const translations = new Float32Array(3 * n * frames)
  const nodeIndex = new Map(nodes.map((node, i) => [node, i]))
  const nodeParents = nodes.map(node => {
    const p = node.getParentNode()
    return p ? (nodeIndex.get(p) ?? -1) : -1
  })
  const world: Float64Array[] = new Array<Float64Array>(nodes.length)
  for (let f = 0; f < frames; f++) {
    const time = f / fps
    nodes.forEach((node, i) => {
      const own = tracks.get(node)
      const t = own?.get('translation'),
        r = own?.get('rotation'),
        s = own?.get('scale')
      const local = own
        ? compose(
            t ? (sampleTrack(t, time) as Vec3) : node.getTranslation(),
            r ? (sampleTrack(r, time) as Quat) : node.getRotation(),
            s ? (sampleTrack(s, time) as Vec3) : node.getScale(),
          )
        : node.getMatrix()
      world[i] = nodeParents[i] >= 0 ? multiplyMat4(world[nodeParents[i]], local) : Float64Array.from(local)
    })
    const placed = jointNodes.map(node => decompose(world[nodeIndex.get(node)!]))
    for (let j = 0; j < n; j++) {
      const p = parents[j] >= 0 ? placed[parents[j]] : undefined
      const own = placed[j]
      const inverse = p && conjugate(p.rotation)
      setQuat(rotations, f * n + j, inverse ? multiply(inverse, own.rotation) : own.rotation)
      setVec3(translations, f * n + j, inverse ? rotate(inverse, sub(own.translation, p.translation)) : own.translation)
    }
  }
  return { name: animation.getName() || `take ${number + 1}`, fps, frames, rotations, translations }
}

/** The even rate that fits most key distances: 24, 25, 30, 50, 60, 120, else the nearest whole one. */
function rateOf(gaps: number[]): number {
  const sorted = gaps.filter(g => g > 1e-4).sort((a, b) => a - b)
  const gap = sorted[sorted.length >> 1] ?? 1 / 30
  if (gap > 1 / 15) return 30
  const fps = 1 / gap
  const usual = [24, 25, 30, 50, 60, 120].find(r => Math.abs(r - fps) < 0.02 * r)
  return usual ?? Math.min(120, Math.max(1, Math.round(fps)))
}

function sampleTrack(track: Track, time: number): number[] {
  const { times, values, size, mode } = track
  const n = times.length
  const cubic = mode === 'CUBICSPLINE'
  const at = (key: number, part = cubic ? 1 : 0): number => (key * (cubic ? 3 : 1) + part) * size
  const pick = (o: number): number[] => Array.from(values.subarray(o, o + size))
  if (time <= times[0]) return pick(at(0))
  if (time >= times[n - 1]) return pick(at(n - 1))
  let low = 0
  let high = n - 1
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (times[middle] <= time) low = middle
    else high = middle
  }
  const span = times[high] - times[low]
  const t = span > 0 ? (time - times[low]) / span : 0
  if (mode === 'STEP') return pick(at(low))
  if (cubic) {
    const t2 = t * t,
      t3 = t2 * t
    const out = pick(at(low)).map(
      (v, k) =>
        (2 * t3 - 3 * t2 + 1) * v +
        span * (t3 - 2 * t2 + t) * values[at(low, 2) + k] +
        (-2 * t3 + 3 * t2) * values[at(high) + k] +
        span * (t3 - t2) * values[at(high, 0) + k],
    )
    if (size !== 4) return out
    const l = Math.hypot(...out) || 1
    return out.map(v => v / l)
  }
  if (size === 4) return slerp(quatAt(values, low), quatAt(values, high), t)
  return lerp(vec3At(values, low), vec3At(values, high), t)
}
