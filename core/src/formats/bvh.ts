import {
  ChiraxisError,
  conjugate,
  multiply,
  quatAt,
  rotate,
  toEuler,
  vec3At,
  type EulerOrder,
  type Vec3,
} from '../math'
import { halfDigit, rateOfFrameTime, travelsOnParent, type Take } from '../motion'
import { worldPose, type Skeleton } from '../skeleton'
import { jointFrameBudget, READ_LIMITS } from './check-received'
import { decodeText } from './text'
import type { Received } from './received'

/** Limits checked before anything is allocated. */
export const BVH_LIMITS = { fps: 1000, values: 200_000_000 } as const

/**
 * Reads a BVH recording: the hierarchy at rest (rotations zero) and one take.
 * Lengths keep the file's unit, axes the file's axes.
 * @throws ChiraxisError `bad-syntax`, `truncated-file`, `too-large`, `not-finite`, `wrong-format`
 */
export function readBvh(bytes: Uint8Array, name = 'take'): Received {
  const text = decodeText(bytes, 'a BVH recording')
  const motionAt = text.indexOf('MOTION')
  if (!/^\s*HIERARCHY/i.test(text))
    throw new ChiraxisError('wrong-format', 'This is not a BVH recording: it does not start with HIERARCHY.')
  if (motionAt < 0)
    throw new ChiraxisError('truncated-file', 'The BVH recording ends before its MOTION part; the file is cut short.')
  const { names, parents, offsets, channels, tips, channelCount } = readHierarchy(text.slice(0, motionAt))
  const joints = names.length

  const header = /MOTION\s+Frames:\s*(\d+)\s+Frame Time:\s*([0-9.eE+-]+)/i.exec(text.slice(motionAt, motionAt + 200))
  if (!header)
    throw new ChiraxisError(
      'bad-syntax',
      'The MOTION part of the BVH recording does not tell its frames and frame time.',
    )
  const frames = Number(header[1])
  const frameTime = Number(header[2])
  if (!(frameTime > 0) || !Number.isFinite(frameTime))
    throw new ChiraxisError('bad-syntax', 'The frame time of the BVH recording is not a positive number.')
  if (frameTime < 1 / BVH_LIMITS.fps || frameTime > 10)
    throw new ChiraxisError(
      'bad-syntax',
      `The frame time of the BVH recording, ${frameTime} s, makes ${Number((1 / frameTime).toPrecision(3))} frames a second; 0.1 to ${BVH_LIMITS.fps} can be read.`,
    )
  if (frames * channelCount > BVH_LIMITS.values)
    throw new ChiraxisError(
      'too-large',
      `The BVH recording tells ${frames} frames of ${channelCount} values, more than can be read.`,
    )
  const start = motionAt + header.index + header[0].length
  // a frame's values take at least two characters each, so a lying header cannot make us allocate
  if (frames * channelCount > text.length - start)
    throw new ChiraxisError(
      'truncated-file',
      `The BVH recording promises ${frames} frames but ends before them; the file is cut short.`,
    )
  jointFrameBudget()(name, joints, frames)
  const values = readNumbers(text, start, frames * channelCount)

  const rotations = new Float32Array(4 * joints * frames)
  const translations = new Float32Array(3 * joints * frames)
  const plans = channels.map(planOf)
  for (let f = 0; f < frames; f++) {
    let at = f * channelCount
    for (let j = 0; j < joints; j++) {
      const plan = plans[j]
      const o = 3 * (f * joints + j)
      const q = 4 * (f * joints + j)
      for (let k = 0; k < 3; k++)
        translations[o + k] = plan.position[k] >= 0 ? values[at + plan.position[k]] : offsets[3 * j + k]
      let x = 0,
        y = 0,
        z = 0,
        w = 1
      for (const [axis, channel] of plan.rotation) {
        const half = (values[at + channel] * Math.PI) / 360
        const s = Math.sin(half),
          c = Math.cos(half)
        const px = x,
          py = y,
          pz = z,
          pw = w
        if (axis === 0) {
          x = pw * s + px * c
          y = py * c + pz * s
          z = pz * c - py * s
          w = pw * c - px * s
        } else if (axis === 1) {
          x = px * c - pz * s
          y = pw * s + py * c
          z = pz * c + px * s
          w = pw * c - py * s
        } else {
          x = px * c + py * s
          y = py * c - px * s
          z = pw * s + pz * c
          w = pw * c - pz * s
        }
      }
      rotations[q] = x
      rotations[q + 1] = y
      rotations[q + 2] = z
      rotations[q + 3] = w
      at += plan.count
    }
  }
  const restRotations = new Float32Array(4 * joints)
  for (let j = 0; j < joints; j++) restRotations[4 * j + 3] = 1
  const skeleton: Skeleton = {
    names,
    parents: Int16Array.from(parents),
    restTranslations: offsets,
    restRotations,
    roles: names.map(() => undefined),
    tips,
  }
  const fps = rateOfFrameTime(frameTime, halfDigit(header[2]))
  const take: Take = { name, fps, frames, rotations, translations }
  return largestTree({ format: 'bvh', skeleton, takes: frames > 0 ? [take] : [], dropped: [] })
}

/** Of several skeletons in one recording the one with most joints; the others are told of. */
function largestTree(received: Received): Received {
  const skeleton = received.skeleton!
  const roots = [...skeleton.parents].flatMap((p, j) => (p < 0 ? [j] : []))
  if (roots.length < 2) return received
  const ends = roots.map((_, i) => roots[i + 1] ?? skeleton.names.length)
  const i = roots.reduce((best, from, k) => (ends[k] - from > ends[best] - roots[best] ? k : best), 0)
  const from = roots[i],
    to = ends[i],
    all = skeleton.names.length
  const cut = (values: Float32Array, size: number, frames: number): Float32Array => {
    const out = new Float32Array(size * (to - from) * frames)
    for (let f = 0; f < frames; f++)
      out.set(values.subarray(size * (f * all + from), size * (f * all + to)), size * (to - from) * f)
    return out
  }
  const kept: Skeleton = {
    names: skeleton.names.slice(from, to),
    parents: skeleton.parents.slice(from, to).map(p => (p < 0 ? -1 : p - from)),
    roles: skeleton.roles.slice(from, to),
    restTranslations: cut(skeleton.restTranslations, 3, 1),
    restRotations: cut(skeleton.restRotations, 4, 1),
    tips: skeleton.tips && cut(skeleton.tips, 3, 1),
  }
  return {
    ...received,
    skeleton: kept,
    takes: received.takes.map(t => ({
      ...t,
      rotations: cut(t.rotations, 4, t.frames),
      translations: cut(t.translations, 3, t.frames),
    })),
    dropped: [
      ...received.dropped,
      `The recording holds ${roots.length} skeletons; the one with most joints, ${kept.names[0]}, is read.`,
    ],
  }
}

interface Hierarchy {
  readonly names: string[]
  readonly parents: number[]
  readonly offsets: Float32Array
  readonly channels: string[][]
  readonly tips: Float32Array
  readonly channelCount: number
}

function readHierarchy(text: string): Hierarchy {
  const tokens = text.match(/\S+/g) ?? []
  const names: string[] = [],
    parents: number[] = [],
    channels: string[][] = []
  const offsets: number[] = [],
    tips: number[] = []
  const stack: number[] = []
  let channelCount = 0
  let inEnd = false
  const number = (i: number): number => {
    const v = Number(tokens[i])
    if (!Number.isFinite(v))
      throw new ChiraxisError(
        'not-finite',
        `An offset in the BVH recording is not a number (${String(tokens[i]).slice(0, 20)}).`,
      )
    return v
  }
  for (let i = 1; i < tokens.length; i++) {
    const word = tokens[i].toUpperCase()
    if (word === 'ROOT' || word === 'JOINT') {
      // names may hold spaces; they end at the brace
      const parts: string[] = []
      while (i + 1 < tokens.length && tokens[i + 1] !== '{') parts.push(tokens[++i])
      if (names.length >= READ_LIMITS.joints)
        throw new ChiraxisError('too-large', `The BVH recording has more than ${READ_LIMITS.joints} joints.`)
      names.push(parts.join(' ') || `joint ${names.length + 1}`)
      parents.push(stack.length > 0 ? stack[stack.length - 1] : -1)
      offsets.push(0, 0, 0)
      tips.push(0, 0, 0)
      channels.push([])
    } else if (word === 'END') {
      inEnd = true
      i++
    } else if (word === '{') stack.push(inEnd ? -2 : names.length - 1)
    else if (word === '}') {
      if (stack.pop() === -2) inEnd = false
    } else if (word === 'OFFSET') {
      const j = inEnd ? stack[stack.length - 2] : names.length - 1
      const target = inEnd ? tips : offsets
      if (j === undefined || j < 0)
        throw new ChiraxisError('bad-syntax', 'The BVH recording gives an offset outside of any joint.')
      for (let k = 0; k < 3; k++) target[3 * j + k] = number(i + 1 + k)
      i += 3
    } else if (word === 'CHANNELS') {
      const n = number(++i)
      if (n < 0 || n > 9 || names.length === 0)
        throw new ChiraxisError('bad-syntax', 'A joint of the BVH recording has an impossible number of channels.')
      for (let k = 0; k < n; k++) channels[names.length - 1].push(tokens[++i] ?? '')
      channelCount += n
    } else
      throw new ChiraxisError(
        'bad-syntax',
        `The BVH recording holds a word nobody expects there: ${tokens[i].slice(0, 30)}.`,
      )
  }
  if (stack.length > 0)
    throw new ChiraxisError('truncated-file', 'A brace of the BVH recording is never closed; the file is cut short.')
  if (names.length === 0) throw new ChiraxisError('no-skeleton', 'The BVH recording holds no joints.')
  return { names, parents, channels, channelCount, offsets: Float32Array.from(offsets), tips: Float32Array.from(tips) }
}

/** Where a joint's channels lie: position channels by axis, rotations in their order of use. */
function planOf(channels: readonly string[]): { count: number; position: Vec3; rotation: [0 | 1 | 2, number][] } {
  const position: Vec3 = [-1, -1, -1]
  const rotation: [0 | 1 | 2, number][] = []
  channels.forEach((channel, i) => {
    const match = /^([XYZ])(position|rotation)$/i.exec(channel)
    if (!match)
      throw new ChiraxisError('bad-syntax', `The BVH recording has a channel nobody knows: ${channel.slice(0, 30)}.`)
    const axis = 'XYZ'.indexOf(match[1].toUpperCase()) as 0 | 1 | 2
    if (match[2].toLowerCase() === 'position') position[axis] = i
    else rotation.push([axis, i])
  })
  return { count: channels.length, position, rotation }
}

/** Powers of ten, so that short decimals are read without a call. */
const TENTHS = Array.from({ length: 23 }, (_, i) => 10 ** i)

/** Plain decimals by hand, because `Number()` on slices is what makes reading slow; the rest goes to `Number()`. */
function readNumbers(text: string, start: number, count: number): Float64Array {
  const values = new Float64Array(count)
  const end = text.length
  let i = start
  for (let n = 0; n < count; n++) {
    while (i < end && text.charCodeAt(i) <= 32) i++
    if (i >= end)
      throw new ChiraxisError(
        'truncated-file',
        `The BVH recording ends after ${n} of ${count} values; the file is cut short.`,
      )
    const from = i
    let c = text.charCodeAt(i)
    let sign = 1
    if (c === 45 || c === 43) {
      if (c === 45) sign = -1
      c = text.charCodeAt(++i)
    }
    let mantissa = 0
    let digits = 0
    let decimals = 0
    while (c >= 48 && c <= 57) {
      mantissa = mantissa * 10 + c - 48
      digits++
      c = text.charCodeAt(++i)
    }
    if (c === 46) {
      c = text.charCodeAt(++i)
      while (c >= 48 && c <= 57) {
        mantissa = mantissa * 10 + c - 48
        digits++
        decimals++
        c = text.charCodeAt(++i)
      }
    }
    if (digits === 0 || digits > 15 || !(i >= end || c <= 32)) {
      while (i < end && text.charCodeAt(i) > 32) i++
      const v = Number(text.slice(from, i))
      if (!Number.isFinite(v))
        throw new ChiraxisError(
          'not-finite',
          `A value of the BVH recording is not a number (${text.slice(from, Math.min(i, from + 20))}).`,
        )
      values[n] = v
    } else values[n] = sign * (decimals > 0 ? mantissa / TENTHS[decimals] : mantissa)
  }
  return values
}

export interface WriteBvhOptions {
  /** Multiplies every length, as for centimetres. Default 1. */
  readonly scale?: number
  /** In which order turns are told. Default `ZXY`. */
  readonly order?: EulerOrder
}

/**
 * Writes a take as BVH. BVH has no rest rotations, so every joint is written in world axes: the rest
 * pose is the one given by the skeleton, with all rotations zero. Joints below the root that travel on what they hang on
 * get channels of place as well.
 */
export function writeBvh(skeleton: Skeleton, take: Take, options: WriteBvhOptions = {}): Uint8Array {
  const { scale = 1, order: turnOrder = 'ZXY' } = options
  const n = skeleton.names.length
  const children: number[][] = skeleton.names.map(() => [])
  skeleton.parents.forEach((p, j) => {
    if (p >= 0) children[p].push(j)
  })
  const rest = worldPose(skeleton)
  const world = skeleton.names.map((_, j) => quatAt(rest.rotations, j))
  const f6 = (v: number): string => {
    const s = v.toFixed(6)
    return s === '-0.000000' ? '0.000000' : s
  }
  const axes = [...turnOrder].map(a => 'XYZ'.indexOf(a))
  const placed = skeleton.names.map(
    (_, j) => skeleton.parents[j] < 0 || travelsOnParent(take, skeleton.restTranslations, j, 1e-6),
  )
  const lines: string[] = ['HIERARCHY']
  const order: number[] = []
  const offset = (j: number): Vec3 => {
    const p = skeleton.parents[j]
    const t: Vec3 = [
      skeleton.restTranslations[3 * j],
      skeleton.restTranslations[3 * j + 1],
      skeleton.restTranslations[3 * j + 2],
    ]
    return p >= 0 ? rotate(world[p], t) : t
  }
  const put = (j: number, depth: number): void => {
    const pad = '\t'.repeat(depth)
    order.push(j)
    lines.push(`${pad}${skeleton.parents[j] < 0 ? 'ROOT' : 'JOINT'} ${skeleton.names[j]}`, `${pad}{`)
    lines.push(
      `${pad}\tOFFSET ${offset(j)
        .map(v => f6(v * scale))
        .join(' ')}`,
    )
    lines.push(
      `${pad}\tCHANNELS ${placed[j] ? '6 Xposition Yposition Zposition ' : '3 '}${[...turnOrder].map(a => `${a}rotation`).join(' ')}`,
    )
    for (const c of children[j]) put(c, depth + 1)
    if (children[j].length === 0) {
      const tip: Vec3 = skeleton.tips
        ? rotate(world[j], [skeleton.tips[3 * j], skeleton.tips[3 * j + 1], skeleton.tips[3 * j + 2]])
        : [0, 0, 0]
      lines.push(
        `${pad}\tEnd Site`,
        `${pad}\t{`,
        `${pad}\t\tOFFSET ${tip.map(v => f6(v * scale)).join(' ')}`,
        `${pad}\t}`,
      )
    }
    lines.push(`${pad}}`)
  }
  for (let j = 0; j < n; j++) if (skeleton.parents[j] < 0) put(j, 0)
  lines.push('MOTION', `Frames: ${take.frames}`, `Frame Time: ${(1 / take.fps).toFixed(8)}`)
  for (let f = 0; f < take.frames; f++) {
    const row: string[] = []
    for (const j of order) {
      const p = skeleton.parents[j]
      const at = f * n + j
      const q = [0, 1, 2, 3].map(k => take.rotations[4 * at + k]) as [number, number, number, number]
      const before = p >= 0 ? world[p] : ([0, 0, 0, 1] as [number, number, number, number])
      if (placed[j]) row.push(...rotate(before, vec3At(take.translations, at)).map(v => f6(v * scale)))
      // the turn away from rest, told in world axes carried along by the parent
      const local = multiply(multiply(before, q), conjugate(world[j]))
      const angles = toEuler(local, turnOrder)
      row.push(...axes.map(axis => f6((angles[axis] * 180) / Math.PI)))
    }
    lines.push(row.join(' '))
  }
  return new TextEncoder().encode(lines.join('\n') + '\n')
}
